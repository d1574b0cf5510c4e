import { decodeSrgb } from '../photometry/index.ts';
import type { TextureUse, Wrap } from './material.ts';

const linear = Float32Array.from({ length: 256 }, (_, i) => decodeSrgb(i / 255));
const plain = Float32Array.from({ length: 256 }, (_, i) => i / 255);

/** What `sampleTexture` left: r g b a. */
export const texel = new Float32Array(4);

function wrapped(i: number, n: number, wrap: Wrap): number {
  if (wrap === 'clamp') return i < 0 ? 0 : i >= n ? n - 1 : i;
  if (wrap === 'repeat') return ((i % n) + n) % n;
  const m = ((i % (2 * n)) + 2 * n) % (2 * n);
  return m < n ? m : 2 * n - 1 - m;
}

/** Pixels from the picture beyond which a place is none. */
const FARTHEST = 1e9;

/** Looks a picture up bilinearly; colours (`colour`) are decoded from sRGB, data are not, alpha never. The result stands in `texel`. */
export function sampleTexture(use: TextureUse, u: number, v: number, colour: boolean): void {
  const { width, height, data } = use.texture,
    t = use.transform;
  let x = (t[0] * u + t[1] * v + t[2]) * width - 0.5,
    y = (t[3] * u + t[4] * v + t[5]) * height - 0.5;
  // no number, or so far out that no pixel can be told
  if (!(Math.abs(x) < FARTHEST && Math.abs(y) < FARTHEST)) x = y = 0;
  const x0 = Math.floor(x),
    y0 = Math.floor(y),
    fx = x - x0,
    fy = y - y0;
  const table = colour ? linear : plain;
  const xa = wrapped(x0, width, use.wrapU),
    xb = wrapped(x0 + 1, width, use.wrapU),
    ya = wrapped(y0, height, use.wrapV) * width,
    yb = wrapped(y0 + 1, height, use.wrapV) * width;
  const p = (ya + xa) * 4,
    q = (ya + xb) * 4,
    r = (yb + xa) * 4,
    s = (yb + xb) * 4;
  const wp = (1 - fx) * (1 - fy),
    wq = fx * (1 - fy),
    wr = (1 - fx) * fy,
    ws = fx * fy;
  for (let c = 0; c < 3; c++)
    texel[c] = table[data[p + c]!]! * wp + table[data[q + c]!]! * wq + table[data[r + c]!]! * wr + table[data[s + c]!]! * ws;
  texel[3] = (data[p + 3]! * wp + data[q + 3]! * wq + data[r + 3]! * wr + data[s + 3]! * ws) / 255;
}
