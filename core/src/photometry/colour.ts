import type { Vec3 } from '../math/index.ts';
import { OBSERVER_1931 } from './observer.ts';

/** Second radiation constant, m·K (CODATA 2018). */
const C2 = 1.438776877e-2;

/** Planck's law in shape: exitance of a full radiator at a wavelength (metres), up to a constant factor. */
export const planck = (metres: number, kelvin: number): number => 1e-30 / (metres ** 5 * Math.expm1(C2 / (metres * kelvin)));

/** CIE x, y of a full radiator by Planck's law over the 1931 observer. `kelvin` > 0. */
export function blackbodyChromaticity(kelvin: number): [number, number] {
  let x = 0,
    y = 0,
    z = 0;
  for (let i = 0; i < OBSERVER_1931.length / 3; i++) {
    const m = planck((380 + 5 * i) * 1e-9, kelvin);
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

/** sRGB transfer curve (IEC 61966-2-1), linear 0…1 to encoded 0…1. */
export const encodeSrgb = (v: number): number => (v <= 0.0031308 ? v * 12.92 : 1.055 * v ** (1 / 2.4) - 0.055);
/** Inverse of `encodeSrgb`. */
export const decodeSrgb = (v: number): number => (v <= 0.04045 ? v / 12.92 : ((v + 0.055) / 1.055) ** 2.4);

/** Linear Rec.709 (D65) to XYZ, the inverse of `xyzToLinear`. */
const linearToXyz = [
  [0.4124564, 0.3575761, 0.1804375],
  [0.2126729, 0.7151522, 0.072175],
  [0.0193339, 0.119192, 0.9503041],
] as const;
/** Cone responses of Bradford's transform (Lam 1985; as in ICC.1, annex E). */
const BRADFORD = [
  [0.8951, 0.2664, -0.1614],
  [-0.7502, 1.7135, 0.0367],
  [0.0389, -0.0685, 1.0296],
] as const;
const BRADFORD_INVERSE = [
  [0.9869929, -0.1470543, 0.1599627],
  [0.4323053, 0.5183603, 0.0492912],
  [-0.0085287, 0.0400428, 0.9684867],
] as const;
type Matrix = readonly (readonly number[])[];
const times = (a: Matrix, b: Matrix): number[][] => a.map((row) => b[0]!.map((_, k) => row.reduce((s, v, j) => s + v * b[j]![k]!, 0)));
const applied = (m: Matrix, v: readonly number[]): number[] => m.map((row) => row.reduce((s, x, k) => s + x * v[k]!, 0));

/** Nine factors (rows) on linear Rec.709 that make the white `from` look like the white `to`, CIE x, y (Bradford adaptation). */
export function adaptChromaticity(from: [number, number], to: [number, number]): number[] {
  const white = ([x, y]: [number, number]) => applied(BRADFORD, [x / y, 1, (1 - x - y) / y]);
  const a = white(from),
    b = white(to);
  const scale = [0, 1, 2].map((i) => [0, 1, 2].map((k) => (i === k ? b[i]! / a[i]! : 0)));
  const xyz = times(times(BRADFORD_INVERSE, scale), BRADFORD);
  const back = [
    [3.2404542, -1.5371385, -0.4985314],
    [-0.969266, 1.8760108, 0.041556],
    [0.0556434, -0.2040259, 1.0572252],
  ];
  return times(times(back, xyz), linearToXyz).flat();
}
