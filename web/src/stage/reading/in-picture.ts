// Places of the face as they lie in the picture.
import { COLUMNS, ROWS } from '@plinket/core';

/** Sides of the square that paths over the picture are drawn in. */
export const WHOLE = 1000;

/**
 * An outline of places of the face's map over the picture, as a path in a square of `WHOLE`: their common edges, drawn through the middles between
 * them and their neighbours. `places` holds x y of each, 0…1, NaN where it is not seen.
 */
export function pictureOutline(cells: readonly number[], places: Float32Array): string {
  const marked = new Set(cells.filter((c) => !Number.isNaN(places[c * 2]!)));
  const at = (column: number, row: number): [number, number] | undefined => {
    let x = 0,
      y = 0,
      n = 0;
    for (let j = row - 1; j <= row; j++)
      for (let i = column - 1; i <= column; i++) {
        if (i < 0 || j < 0 || i >= COLUMNS || j >= ROWS) continue;
        const c = j * COLUMNS + i;
        if (Number.isNaN(places[c * 2]!)) continue;
        x += places[c * 2]!;
        y += places[c * 2 + 1]!;
        n++;
      }
    return n ? [(WHOLE * x) / n, (WHOLE * y) / n] : undefined;
  };
  let path = '';
  const edge = (x0: number, y0: number, x1: number, y1: number) => {
    const a = at(x0, y0),
      b = at(x1, y1);
    if (a && b) path += `M${a[0].toFixed(1)} ${a[1].toFixed(1)}L${b[0].toFixed(1)} ${b[1].toFixed(1)}`;
  };
  for (const c of marked) {
    const x = c % COLUMNS,
      y = Math.floor(c / COLUMNS);
    if (y === 0 || !marked.has(c - COLUMNS)) edge(x, y, x + 1, y);
    if (y === ROWS - 1 || !marked.has(c + COLUMNS)) edge(x, y + 1, x + 1, y + 1);
    if (x === 0 || !marked.has(c - 1)) edge(x, y, x, y + 1);
    if (x === COLUMNS - 1 || !marked.has(c + 1)) edge(x + 1, y, x + 1, y + 1);
  }
  return path;
}
