import type { Vec3 } from '../math/index.ts';
import { OBSERVER_1931 } from './observer.ts';

/** Second radiation constant, m·K (CODATA 2018). */
const C2 = 1.438776877e-2;

/** CIE x, y of a full radiator by Planck's law over the 1931 observer. `kelvin` > 0. */
export function blackbodyChromaticity(kelvin: number): [number, number] {
  let x = 0,
    y = 0,
    z = 0;
  for (let i = 0; i < OBSERVER_1931.length / 3; i++) {
    const metres = (380 + 5 * i) * 1e-9;
    const m = 1e-30 / (metres ** 5 * Math.expm1(C2 / (metres * kelvin)));
    x += m * OBSERVER_1931[i * 3]!;
    y += m * OBSERVER_1931[i * 3 + 1]!;
    z += m * OBSERVER_1931[i * 3 + 2]!;
  }
  const sum = x + y + z;
  return [x / sum, y / sum];
}

/** XYZ (Y = 1 is white) to linear Rec.709 with its D65 white (ITU-R BT.709, IEC 61966-2-1). */
export function xyzToLinear(X: number, Y: number, Z: number): Vec3 {
  return [
    3.2404542 * X - 1.5371385 * Y - 0.4985314 * Z,
    -0.969266 * X + 1.8760108 * Y + 0.041556 * Z,
    0.0556434 * X - 0.2040259 * Y + 1.0572252 * Z,
  ];
}

/** Luminance of linear Rec.709 (ITU-R BT.709). */
export const luminance = (r: number, g: number, b: number): number => 0.2126 * r + 0.7152 * g + 0.0722 * b;

/**
 * Linear Rec.709 colour of a full radiator with luminance 1. Below about 1900 K the colour leaves the gamut: negative
 * parts are cut and the luminance restored.
 * @example kelvinToLinear(6500) // close to [1, 1, 1]
 */
export function kelvinToLinear(kelvin: number): Vec3 {
  const [x, y] = blackbodyChromaticity(kelvin);
  const rgb = xyzToLinear(x / y, 1, (1 - x - y) / y).map((v) => Math.max(0, v)) as Vec3;
  const l = luminance(...rgb);
  return [rgb[0] / l, rgb[1] / l, rgb[2] / l];
}

/** sRGB transfer curve (IEC 61966-2-1), linear 0…1 to encoded 0…1. */
export const encodeSrgb = (v: number): number => (v <= 0.0031308 ? v * 12.92 : 1.055 * v ** (1 / 2.4) - 0.055);
/** Inverse of `encodeSrgb`. */
export const decodeSrgb = (v: number): number => (v <= 0.04045 ? v / 12.92 : ((v + 0.055) / 1.055) ** 2.4);
