import { once } from './once.ts';
// A blue-noise dither mask: neighbouring ranks lie far apart, so that what error is left looks like fine grain. Ranks are
// given one after the other to the largest void (the second half of Ulichney's void-and-cluster method, 1993).

/** Pixels along the mask's side; it repeats. */
export const MASK_SIZE = 64;
const CELLS = MASK_SIZE * MASK_SIZE;
const REACH = 7;
const SIGMA = 1.9;

function ranks(): Uint16Array {
  const energy = new Float64Array(CELLS),
    out = new Uint16Array(CELLS);
  const kernel: number[] = [];
  for (let y = -REACH; y <= REACH; y++) for (let x = -REACH; x <= REACH; x++) kernel.push(Math.exp(-(x * x + y * y) / (2 * SIGMA * SIGMA)));
  // a start without symmetry: ties go to a fixed scatter
  for (let i = 0; i < CELLS; i++) energy[i] = ((Math.imul(i + 1, 0x9e3779b1) >>> 0) / 4294967296) * 1e-6;
  for (let rank = 0; rank < CELLS; rank++) {
    let best = 0;
    for (let i = 1; i < CELLS; i++) if (energy[i]! < energy[best]!) best = i;
    out[best] = rank;
    energy[best] = Infinity;
    const bx = best & (MASK_SIZE - 1),
      by = best >> 6;
    for (let y = -REACH, k = 0; y <= REACH; y++)
      for (let x = -REACH; x <= REACH; x++, k++) {
        const at = (((by + y) & (MASK_SIZE - 1)) << 6) | ((bx + x) & (MASK_SIZE - 1));
        energy[at] = energy[at]! + kernel[k]!;
      }
  }
  return out;
}

/**
 * The mask as 32-bit words, row by row: the rank in the upper twelve bits, scattered bits below. To be XORed onto points
 * of a digital net: a digital shift keeps the net's spread in every pixel (Heitz, Belcour 2019 use masks likewise).
 */
export const maskWords = once((): Uint32Array => {
  const rank = ranks(),
    words = new Uint32Array(CELLS);
  for (let i = 0; i < CELLS; i++) {
    let h = Math.imul(i ^ 0x2c1b3c6d, 0x297a2d39);
    h ^= h >>> 15;
    words[i] = ((rank[i]! << 20) | (Math.imul(h, 0x85ebca6b) >>> 12)) >>> 0;
  }
  return words;
});

/** The mask as numbers from −½ to ½, for dithering to 8 bit. */
export function ditherMask(): Float32Array {
  return Float32Array.from(maskWords(), (w) => (w >>> 20) / CELLS + 0.5 / CELLS - 0.5);
}
