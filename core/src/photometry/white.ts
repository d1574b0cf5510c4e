// What colour a light of so many kelvin has: a full radiator below, daylight above, seamless between; tint moves it across.
import type { Vec3 } from '../math/index.ts';
import { adaptChromaticity, blackbodyChromaticity, luminance, xyzToLinear } from './colour.ts';

/** Range of the daylight locus, and where a light's colour goes over from the full radiator to it, kelvin. */
const DAYLIGHT_FROM = 4000;
const DAYLIGHT_TO = 25000;
const BLEND_FROM = 4000;
const BLEND_TO = 5500;

/**
 * CIE x, y of daylight of a correlated colour temperature of 4000…25000 K.
 * CIE 15, section 4.1.2 (Judd, MacAdam, Wyszecki 1964): x_D by two cubics in 1/T, y_D = −3x² + 2.87x − 0.275.
 */
export function daylightChromaticity(kelvin: number): [number, number] {
  const t = Math.min(DAYLIGHT_TO, Math.max(DAYLIGHT_FROM, kelvin));
  const x =
    t <= 7000
      ? -4.607e9 / t ** 3 + 2.9678e6 / t ** 2 + 0.09911e3 / t + 0.244063
      : -2.0064e9 / t ** 3 + 1.9018e6 / t ** 2 + 0.24748e3 / t + 0.23704;
  return [x, -3 * x * x + 2.87 * x - 0.275];
}

/** CIE 1960 u, v of x, y. */
const toUv = ([x, y]: [number, number]): [number, number] => [(4 * x) / (12 * y - 2 * x + 3), (6 * y) / (12 * y - 2 * x + 3)];
const fromUv = ([u, v]: [number, number]): [number, number] => [(3 * u) / (2 * u - 8 * v + 4), (2 * v) / (2 * u - 8 * v + 4)];

/** x, y of a light on the locus: full radiator, daylight, or between the two. */
function onLocus(kelvin: number): [number, number] {
  if (kelvin <= BLEND_FROM) return blackbodyChromaticity(kelvin);
  const day = daylightChromaticity(kelvin);
  if (kelvin >= BLEND_TO) return day;
  const t = (kelvin - BLEND_FROM) / (BLEND_TO - BLEND_FROM),
    k = t * t * (3 - 2 * t);
  const full = blackbodyChromaticity(kelvin);
  return [full[0] + (day[0] - full[0]) * k, full[1] + (day[1] - full[1]) * k];
}

/**
 * CIE x, y of a light of `kelvin` (1000…25000), moved off the locus by `tint` thousandths in CIE 1960 u v: positive towards
 * green, negative towards magenta (Duv as in ANSI C78.377).
 */
export function lightChromaticity(kelvin: number, tint = 0): [number, number] {
  const at = onLocus(kelvin);
  if (tint === 0) return at;
  const [u, v] = toUv(at);
  // lines of one correlated temperature cross the full radiator's locus at right angles (CIE 15), daylight and what is between included
  const a = toUv(blackbodyChromaticity(kelvin * 0.99)),
    b = toUv(blackbodyChromaticity(kelvin * 1.01));
  // across it, the way in which v grows
  let nx = -(b[1] - a[1]),
    ny = b[0] - a[0];
  const l = Math.hypot(nx, ny) * (ny < 0 ? -1 : 1);
  nx /= l;
  ny /= l;
  return fromUv([u + (nx * tint) / 1000, v + (ny * tint) / 1000]);
}

/** Linear Rec.709 of a chromaticity with luminance 1; what lies outside the gamut is cut and the luminance restored. */
export function chromaticityToLinear([x, y]: [number, number]): Vec3 {
  const rgb = xyzToLinear(x / y, 1, (1 - x - y) / y).map((v) => Math.max(0, v)) as Vec3;
  const l = luminance(...rgb);
  return [rgb[0] / l, rgb[1] / l, rgb[2] / l];
}

const known = new Map<string, Vec3>();

/**
 * Linear Rec.709 colour, luminance 1, of a light of `kelvin` and `tint`. 6504 K without tint is D65: white.
 * @example kelvinToLinear(6504) // [1, 1, 1]
 */
export function kelvinToLinear(kelvin: number, tint = 0): Vec3 {
  const key = `${kelvin} ${tint}`;
  let rgb = known.get(key);
  if (!rgb) {
    // balance asks for the same few colours for every picture
    if (known.size > 512) known.clear();
    rgb = chromaticityToLinear(lightChromaticity(kelvin, tint));
    known.set(key, rgb);
  }
  return [...rgb];
}

/**
 * Correlated colour temperature of x, y by McCamy's cubic (McCamy 1992, Color Research & Application 17): good to about
 * 2 K at 2856 K and 6500 K, worse beyond 2000…12500 K. From memory; checked against the locus itself.
 */
export function mccamyTemperature(x: number, y: number): number {
  const n = (x - 0.332) / (0.1858 - y);
  return 449 * n ** 3 + 3525 * n ** 2 + 6823.3 * n + 5520.33;
}

/**
 * Nine factors (rows) on linear Rec.709 that make the white of a light of `from` kelvin look like that of `to`.
 * @example adaptWhite(3200, 6500) // a picture under tungsten light turns neutral
 */
export function adaptWhite(from: number, to: number): number[] {
  return from === to ? [1, 0, 0, 0, 1, 0, 0, 0, 1] : adaptChromaticity(lightChromaticity(from), lightChromaticity(to));
}
