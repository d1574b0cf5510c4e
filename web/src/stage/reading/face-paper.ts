// The face unrolled on paper: light in stops as tones of grey, and outlines of some of its places.
import { CELLS, COLUMNS, ROWS } from '@plinket/core';

/** Stops below the brightest that are still told from black. */
const DEEPEST = 6;

/** Tones of grey, RGBA bytes of `COLUMNS` × `ROWS`: white for the brightest, black from six stops under it; nothing where there is no face. */
export function faceTones(stops: Float32Array): Uint8ClampedArray<ArrayBuffer> {
  const out = new Uint8ClampedArray(CELLS * 4);
  for (let c = 0; c < CELLS; c++) {
    const s = stops[c]!;
    if (Number.isNaN(s)) continue;
    const tone = 22 + 213 * Math.min(1, Math.max(0, 1 + s / DEEPEST));
    out.set([tone, tone, tone, 255], c * 4);
  }
  return out;
}

/** An outline of the places for which `is` answers yes, as a path in columns and rows: the edges that they do not share. */
export function outline(is: (c: number) => boolean): string {
  const inside = (x: number, y: number): boolean => x >= 0 && y >= 0 && x < COLUMNS && y < ROWS && is(y * COLUMNS + x);
  let path = '';
  for (let y = 0; y < ROWS; y++)
    for (let x = 0; x < COLUMNS; x++) {
      if (!inside(x, y)) continue;
      if (!inside(x, y - 1)) path += `M${x} ${y}h1`;
      if (!inside(x, y + 1)) path += `M${x} ${y + 1}h1`;
      if (!inside(x - 1, y)) path += `M${x} ${y}v1`;
      if (!inside(x + 1, y)) path += `M${x + 1} ${y}v1`;
    }
  return path;
}
