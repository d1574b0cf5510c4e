import { toneOf, TONE_RANGE } from './histogram.ts';
import { luminance } from '../photometry/index.ts';

/**
 * One colour for each stop from −6 to +6 around middle grey, in display sRGB: cool below, neutral at grey, warm above. Light
 * rises in even steps throughout, so that the order can be read without seeing hues.
 */
export const TONE_COLOURS: [number, number, number][] = [
  [13, 15, 40],
  [22, 27, 77],
  [28, 46, 117],
  [31, 71, 142],
  [40, 98, 152],
  [66, 124, 158],
  [128, 128, 128],
  [168, 148, 96],
  [203, 158, 72],
  [229, 166, 70],
  [245, 184, 99],
  [251, 208, 148],
  [255, 233, 206],
];
/** Clipped: a channel at or above 1. Crushed: more than six stops below grey. */
export const CLIPPED_COLOUR: [number, number, number] = [255, 64, 48];

/** Shows every pixel's stop instead of its colour. */
export function falseTones(linear: Float32Array, out: Uint8ClampedArray<ArrayBufferLike>): void {
  for (let i = 0, o = 0; i < linear.length; i += 3, o += 4) {
    const tone = toneOf(luminance(linear[i]!, linear[i + 1]!, linear[i + 2]!));
    const clipped = linear[i]! >= 1 || linear[i + 1]! >= 1 || linear[i + 2]! >= 1;
    const k = Math.min(2 * TONE_RANGE, Math.max(0, Math.round(tone) + TONE_RANGE));
    const c = clipped ? CLIPPED_COLOUR : TONE_COLOURS[k]!;
    out[o] = c[0];
    out[o + 1] = c[1];
    out[o + 2] = c[2];
    out[o + 3] = 255;
  }
}
