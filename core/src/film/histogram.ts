import { luminance } from '../photometry/index.ts';

/** The stops ruler: how the picture's tones lie, in stops around middle grey (0.18), and what is clipped. */
export interface Tones {
  /** Counts from −6 to +6 stops in steps of a tenth; what lies below or above is in the ends. */
  bins: Uint32Array;
  /** Share of pixels with a channel at or above 1, 0…1. */
  clipped: number;
  /** Share of pixels six stops or more below middle grey. */
  crushed: number;
}

export const TONE_RANGE = 6;
export const TONE_BINS = 120;

/** Tone of a linear luminance in stops around middle grey: log2(Y / 0.18). */
export const toneOf = (y: number): number => Math.log2(Math.max(y, 1e-9) / 0.18);

/** Bin of a luminance. */
const binOf = (y: number): number =>
  Math.min(TONE_BINS - 1, Math.max(0, Math.floor(((toneOf(y) + TONE_RANGE) / (2 * TONE_RANGE)) * TONE_BINS)));

// A logarithm for every pixel takes longer than balancing all lights: bins are looked up by the upper bits of the float, ten of
// its mantissa, that is to a seven hundredth of a stop.
const SHIFT = 13,
  LOWEST = (127 - 16) << 10,
  HIGHEST = (127 + 8) << 10;
const float = new Float32Array(1),
  bits = new Uint32Array(float.buffer);
const binOfBits = Uint8Array.from({ length: HIGHEST - LOWEST }, (_, i) => {
  bits[0] = ((LOWEST + i) << SHIFT) | (1 << (SHIFT - 1));
  return binOf(float[0]!);
});

/** Measures the tones of a linear r g b picture, of every so many-th of its pixels. */
export function tonesOf(linear: Float32Array, every = 1): Tones {
  const bins = new Uint32Array(TONE_BINS);
  // six stops below middle grey
  const dark = 0.18 * 2 ** -TONE_RANGE;
  let clipped = 0,
    crushed = 0;
  for (let o = 0; o < linear.length; o += 3 * every) {
    const r = linear[o]!,
      g = linear[o + 1]!,
      b = linear[o + 2]!;
    if (r >= 1 || g >= 1 || b >= 1) clipped++;
    const y = luminance(r, g, b);
    if (!(y > dark)) crushed++;
    float[0] = y;
    const at = (bits[0]! >>> SHIFT) - LOWEST;
    // what is negative has the sign's bit and would seem bright
    const k = !(y > 0) || at < 0 ? 0 : at >= binOfBits.length ? TONE_BINS - 1 : binOfBits[at]!;
    bins[k] = bins[k]! + 1;
  }
  const pixels = Math.ceil(linear.length / (3 * every));
  return { bins, clipped: clipped / pixels, crushed: crushed / pixels };
}
