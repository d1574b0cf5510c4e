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

/** Measures the tones of a linear r g b picture. */
export function tonesOf(linear: Float32Array): Tones {
  const bins = new Uint32Array(TONE_BINS);
  let clipped = 0,
    crushed = 0;
  const pixels = linear.length / 3;
  for (let o = 0; o < linear.length; o += 3) {
    const r = linear[o]!,
      g = linear[o + 1]!,
      b = linear[o + 2]!;
    if (r >= 1 || g >= 1 || b >= 1) clipped++;
    const tone = toneOf(luminance(r, g, b));
    if (tone <= -TONE_RANGE) crushed++;
    const bin = Math.floor(((tone + TONE_RANGE) / (2 * TONE_RANGE)) * TONE_BINS);
    const k = Math.min(TONE_BINS - 1, Math.max(0, bin));
    bins[k] = bins[k]! + 1;
  }
  return { bins, clipped: clipped / pixels, crushed: crushed / pixels };
}
