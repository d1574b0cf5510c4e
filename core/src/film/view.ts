import { encodeSrgb } from '../photometry/index.ts';
import type { ViewTransform } from '../setup/index.ts';

// Khronos PBR Neutral Tone Mapper, published specification (2024): constants F90-free form, as its reference listing.
const START = 0.8 - 0.04;
const DESATURATION = 0.15;

/** Khronos PBR Neutral on linear r g b, in place; keeps hue and base colour below 0.8, rolls highlights off above. */
export function neutral(rgb: Float32Array | number[]): void {
  const x = Math.min(rgb[0]!, rgb[1]!, rgb[2]!);
  const offset = x < 0.08 ? x - 6.25 * x * x : 0.04;
  let r = rgb[0]! - offset,
    g = rgb[1]! - offset,
    b = rgb[2]! - offset;
  const peak = Math.max(r, g, b);
  if (peak >= START) {
    const d = 1 - START;
    const newPeak = 1 - (d * d) / (peak + d - START);
    const k = newPeak / peak;
    r *= k;
    g *= k;
    b *= k;
    const w = 1 - 1 / (DESATURATION * (peak - newPeak) + 1);
    r += (newPeak - r) * w;
    g += (newPeak - g) * w;
    b += (newPeak - b) * w;
  }
  rgb[0] = r;
  rgb[1] = g;
  rgb[2] = b;
}

// sRGB encoding by table: 4096 steps of the square root, exact to a fifth of an 8-bit step
const STEPS = 4096;
const encoded = new Float32Array(STEPS + 1);
for (let i = 0; i <= STEPS; i++) encoded[i] = encodeSrgb((i / STEPS) ** 2) * 255;

const toByte = (v: number): number => (v <= 0 ? 0 : v >= 1 ? 255 : encoded[(Math.sqrt(v) * STEPS + 0.5) | 0]!);

const scratch = new Float32Array(3);

/** Linear r g b to 8-bit sRGB with alpha 255, through a view transform. `out` holds width × height × 4 bytes. */
export function develop(linear: Float32Array, view: ViewTransform, out: Uint8ClampedArray): void {
  const pixels = linear.length / 3;
  for (let i = 0, l = 0, o = 0; i < pixels; i++, l += 3, o += 4) {
    scratch[0] = linear[l]!;
    scratch[1] = linear[l + 1]!;
    scratch[2] = linear[l + 2]!;
    if (view === 'neutral') neutral(scratch);
    out[o] = toByte(scratch[0]!);
    out[o + 1] = toByte(scratch[1]!);
    out[o + 2] = toByte(scratch[2]!);
    out[o + 3] = 255;
  }
}
