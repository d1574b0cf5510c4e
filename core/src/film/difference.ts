// Two developed pictures against each other: by how many stops one is brighter, place by place.
import { luminance } from '../photometry/index.ts';

/** Light that a display adds to all it shows, as a share of its white: below it a difference is not seen, and must not count as stops. */
const FLARE = 0.005;
/** Differences are shown up to so many stops either way. */
export const DIFFERENCE_RANGE = 3;

/** sRGB's decoding (IEC 61966-2-1, 5.2), by code value. */
const LINEAR = Float32Array.from({ length: 256 }, (_, code) => {
  const v = code / 255;
  return v <= 0.04045 ? v / 12.92 : ((v + 0.055) / 1.055) ** 2.4;
});

type Codes = Uint8Array | Uint8ClampedArray;

/**
 * Stops by which `b` is brighter than `a`, pixel by pixel: of luminance as a display gives it, with the display's own flare of half a percent.
 * @param a sRGB, 8 bit, RGBA
 * @throws RangeError where the pictures are not of one size
 */
export function stopsBetween(a: Codes, b: Codes): Float32Array {
  if (a.length !== b.length) throw new RangeError('The pictures are not of one size.');
  const out = new Float32Array(a.length / 4);
  const of = (p: Codes, i: number): number => FLARE + luminance(LINEAR[p[i]!]!, LINEAR[p[i + 1]!]!, LINEAR[p[i + 2]!]!);
  for (let i = 0, o = 0; o < out.length; i += 4, o++) out[o] = Math.log2(of(b, i) / of(a, i));
  return out;
}

/** What is shown for a difference at its end: darker is cool, brighter is warm (both seen apart with colour-vision deficiencies), and nothing is grey. */
const DARKER = [38, 110, 190],
  SAME = [96, 96, 96],
  BRIGHTER = [245, 190, 90];

/** The colour of a difference in stops, display sRGB. */
export function differenceColour(stops: number): [number, number, number] {
  const t = Math.min(1, Math.abs(stops) / DIFFERENCE_RANGE),
    end = stops < 0 ? DARKER : BRIGHTER;
  return [0, 1, 2].map((c) => Math.round(SAME[c]! + t * (end[c]! - SAME[c]!))) as [number, number, number];
}

export interface DifferenceNumbers {
  /** Median of the size of the difference, and the size that a twentieth goes beyond, stops. */
  median: number;
  most: number;
  /** Share of the picture that differs by half a stop or more. */
  share: number;
}

/** Draws a difference, and says how large it is. `rgba` has four values a place. */
export function showDifference(stops: Float32Array, rgba: Uint8ClampedArray): DifferenceNumbers {
  const sizes = new Float32Array(stops.length);
  for (let i = 0, o = 0; i < stops.length; i++, o += 4) {
    rgba.set(differenceColour(stops[i]!), o);
    rgba[o + 3] = 255;
    sizes[i] = Math.abs(stops[i]!);
  }
  sizes.sort();
  const at = (q: number): number => sizes[Math.min(sizes.length - 1, Math.floor(q * sizes.length))] ?? 0;
  const half = sizes.findIndex((s) => s >= 0.5);
  return { median: at(0.5), most: at(0.95), share: half < 0 || !sizes.length ? 0 : 1 - half / sizes.length };
}
