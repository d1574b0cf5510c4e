// Cloth close by, as a small picture of normals that repeats.
import { encode as encodeJpeg } from 'jpeg-js';

/** How threads run: one over one; over two, a step on in each row; loops; no threads. */
export type Weave = 'plain' | 'twill' | 'knit' | 'felt';

/** Side of a tile in pixels, and how many threads it has each way. */
const SIZE = 128;
export const THREADS = 8;
/** How deep the relief is; cloth seen from a step away has hardly any. */
const STEEP: Record<Weave, number> = { plain: 0.42, twill: 0.5, knit: 0.9, felt: 0.8 };

/** Height over a tile, in thread widths; u and v count threads. */
const HEIGHTS: Record<Weave, (u: number, v: number) => number> = {
  plain: (u, v) => thread(u, v, (i, j) => (i + j) % 2 === 0),
  twill: (u, v) => thread(u, v, (i, j) => (i + j) % 4 < 2),
  knit: (u, v) => {
    // columns of loops like Vs
    const x = (u % 2) - 1,
      y = v + Math.abs(x) * 0.9;
    return 0.34 * Math.sqrt(Math.max(0, 1 - (Math.abs(x) * 2 - 1) ** 2)) * (0.72 + 0.28 * Math.cos(y * 2 * Math.PI));
  },
  felt: (u, v) => {
    let h = 0;
    for (const [a, b, phase] of FELT) h += Math.sin(((a * u + b * v) / THREADS) * 2 * Math.PI + phase);
    return 0.045 * h;
  },
};
/** Waves with whole numbers of turns over the tile: frequencies and phases. */
const FELT = Array.from({ length: 22 }, (_, i) => [((i * 7) % 23) - 11, ((i * 13) % 25) - 12, i * 2.4] as const);

/** A round thread that passes over or under the other way's. */
function thread(u: number, v: number, over: (i: number, j: number) => boolean): number {
  const i = Math.floor(u),
    j = Math.floor(v),
    x = u - i - 0.5,
    y = v - j - 0.5;
  const warp = Math.sqrt(Math.max(0, 0.24 - x * x)) + (over(i, j) ? 0.14 : -0.14) * Math.cos(y * Math.PI),
    weft = Math.sqrt(Math.max(0, 0.24 - y * y)) + (over(i, j) ? -0.14 : 0.14) * Math.cos(x * Math.PI);
  return Math.max(warp, weft) * 0.7;
}

/** Normals of a weave as JPEG, the first row on top; repeats without a seam. */
export function weaveNormals(kind: Weave): Uint8Array {
  const height = HEIGHTS[kind],
    steep = STEEP[kind],
    wrap = (v: number) => ((v % THREADS) + THREADS) % THREADS,
    step = THREADS / SIZE;
  const data = new Uint8Array(SIZE * SIZE * 4).fill(255);
  for (let y = 0; y < SIZE; y++)
    for (let x = 0; x < SIZE; x++) {
      const u = (x + 0.5) * step,
        v = (y + 0.5) * step;
      const at = (du: number, dv: number) => height(wrap(u + du), wrap(v + dv));
      // V runs down, the normal's Y up
      const n = [-steep * ((at(step, 0) - at(-step, 0)) / (2 * step)), steep * ((at(0, step) - at(0, -step)) / (2 * step)), 1];
      const l = Math.hypot(...n);
      n.forEach((k, c) => (data[(y * SIZE + x) * 4 + c] = Math.round((k / l / 2 + 0.5) * 255)));
    }
  return Uint8Array.from(encodeJpeg({ data, width: SIZE, height: SIZE }, 92).data);
}
