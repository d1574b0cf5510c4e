// Randomised low-discrepancy points: the Sobol (0,2) sequence with hashed Owen scrambling, padded over dimensions.
// Burley 2020, "Practical Hash-based Owen Scrambling", JCGT 9(4); the hash's constants are those of its section 5 as
// improved by Vegdahl (2021), from memory. That they scramble well is checked by the star test in sampling.test.ts.

/** Points in one sequence; each further one has a scramble of its own. */
export const SEQUENCE_LENGTH = 4096;
const BITS = 12;

/** Reverses the bits of a 32-bit integer. */
export function reverseBits(x: number): number {
  x = (x << 16) | (x >>> 16);
  x = ((x & 0x00ff00ff) << 8) | ((x & 0xff00ff00) >>> 8);
  x = ((x & 0x0f0f0f0f) << 4) | ((x & 0xf0f0f0f0) >>> 4);
  x = ((x & 0x33333333) << 2) | ((x & 0xcccccccc) >>> 2);
  return ((x & 0x55555555) << 1) | ((x & 0xaaaaaaaa) >>> 1);
}

/** Second Sobol dimension of index i, as 32 bits. */
function sobol1(i: number): number {
  let r = 0;
  for (let v = 0x80000000; i; i >>>= 1, v ^= v >>> 1) if (i & 1) r ^= v;
  return r;
}

const reversed12 = new Uint32Array(SEQUENCE_LENGTH);
const reversedSobol1 = new Int32Array(SEQUENCE_LENGTH);
for (let i = 0; i < SEQUENCE_LENGTH; i++) {
  reversed12[i] = reverseBits(i) >>> (32 - BITS);
  reversedSobol1[i] = reverseBits(sobol1(i));
}

/** Mixes two integers into one (murmur3's finaliser over a combination). */
export function mix(a: number, b: number): number {
  let h = Math.imul(a ^ 0x9e3779b9, 0x85ebca6b) ^ Math.imul(b + 0x7f4a7c15, 0xc2b2ae35);
  h ^= h >>> 16;
  h = Math.imul(h, 0x85ebca6b);
  h ^= h >>> 13;
  h = Math.imul(h, 0xc2b2ae35);
  return h ^ (h >>> 16);
}

/** A 32-bit key of a text (FNV-1a), to give each light dimensions of its own. */
export function textKey(text: string): number {
  let h = 0x811c9dc5;
  for (let i = 0; i < text.length; i++) h = Math.imul(h ^ text.charCodeAt(i), 0x01000193);
  return h;
}

/** Laine–Karras style permutation: each bit depends only on the bits below it. */
function scramble(x: number, seed: number): number {
  x = (x + seed) | 0;
  x ^= Math.imul(x, 0x6c50b47c);
  x ^= Math.imul(x, 0xb82f1e52);
  x ^= Math.imul(x, 0xc7afe638);
  x ^= Math.imul(x, 0x8d22f6e6);
  return x;
}

/**
 * The key of an index: the bits above a sequence's length make another scramble, of order and of coordinates alike, so that no point comes
 * twice and the error goes on falling.
 */
const keyOf = (index: number, key: number): number => (index < SEQUENCE_LENGTH ? key : mix(key, index >>> BITS));

const UNIT = 1 / 4294967296;
/** The point that `sample2` left: two numbers in [0, 1). */
export const point = new Float64Array(2);

/**
 * Point number `index` of the sequence that belongs to `key`; the result stands in `point`.
 * Any power of two of consecutive indices from 0 is well spread in both dimensions.
 */
export function sample2(index: number, key: number): void {
  key = keyOf(index, key);
  // nested uniform shuffle of the index, then of each coordinate
  const i = reversed12[scramble(reversed12[index & (SEQUENCE_LENGTH - 1)]! << (32 - BITS), key) >>> (32 - BITS)]!;
  const k2 = Math.imul(key ^ 0x5bd1e995, 0x27d4eb2f);
  point[0] = (reverseBits(scramble(i, k2)) >>> 0) * UNIT;
  point[1] = (reverseBits(scramble(reversedSobol1[i]!, Math.imul(k2, 0x165667b1) ^ 0x3c6ef372)) >>> 0) * UNIT;
}

/** One dimension pair of one sample number, the same for all pixels; `shift` gives each pixel its own point of it. */
export interface Dimension {
  /** Two scrambled coordinates as 32-bit integers. */
  a: number;
  b: number;
  /** Where in the mask each coordinate looks. */
  ax: number;
  ay: number;
  bx: number;
  by: number;
}

/** Makes a dimension for `openDimension` to fill again and again. */
export const dimension = (): Dimension => ({ a: 0, b: 0, ax: 0, ay: 0, bx: 0, by: 0 });

/**
 * Opens the dimension pair `key` for sample number `index`. All pixels share the scrambled point; what tells them apart is
 * the blue-noise mask by which `shiftedA` and `shiftedB` move it, so that neighbours' errors differ and cancel to the eye.
 */
export function openDimension(d: Dimension, index: number, key: number): void {
  const block = keyOf(index, key);
  const i = reversed12[scramble(reversed12[index & (SEQUENCE_LENGTH - 1)]! << (32 - BITS), mix(block, index >>> BITS)) >>> (32 - BITS)]!;
  const k2 = Math.imul(block ^ 0x5bd1e995, 0x27d4eb2f);
  d.a = reverseBits(scramble(i, k2)) | 0;
  d.b = reverseBits(scramble(reversedSobol1[i]!, Math.imul(k2, 0x165667b1) ^ 0x3c6ef372)) | 0;
  const h = mix(key, 0x68bc21eb);
  d.ax = h & 63;
  d.ay = (h >>> 6) & 63;
  d.bx = (h >>> 12) & 63;
  d.by = (h >>> 18) & 63;
}

/** First coordinate of a dimension for the pixel whose mask cell is `cell` (y · 64 + x), in [0, 1). */
export const shiftedA = (d: Dimension, mask: Uint32Array, cell: number): number =>
  ((d.a ^ mask[((cell + (d.ay << 6)) & 0xfc0) | ((cell + d.ax) & 63)]!) >>> 0) * UNIT;
/** Second coordinate. */
export const shiftedB = (d: Dimension, mask: Uint32Array, cell: number): number =>
  ((d.b ^ mask[((cell + (d.by << 6)) & 0xfc0) | ((cell + d.bx) & 63)]!) >>> 0) * UNIT;

/** The mask cell of a pixel. Every block of 64 × 64 pixels looks at another part of the mask, so that nothing repeats. */
export function maskCell(x: number, y: number, seed: number): number {
  const h = mix(((y >> 6) << 16) | (x >> 6), seed);
  return (((y + (h >>> 6)) & 63) << 6) | ((x + h) & 63);
}
