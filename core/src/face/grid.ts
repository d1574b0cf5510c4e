// The face unrolled: columns go round the head's upright axis, rows from below the chin to above the brow, closest together where nose, eyes
// and mouth are.
import { DEGREE, type Vec3 } from '../math/index.ts';
import type { WholeFace } from './known.ts';

export const COLUMNS = 72,
  ROWS = 88;
/** Columns reach so far to either side of the nose, degrees. */
const ROUND = 112;
/** Share of even spacing; the rest grows with the third power of the distance from the middle. */
const EVEN = 0.5;

const warp = (s: number): number => EVEN * s + (1 - EVEN) * s ** 3;

/** Azimuth of a column's middle round the head's axis, degrees, from the subject's right (negative) to its left. */
export const azimuthOf = (column: number): number => ROUND * warp(((column + 0.5) / COLUMNS) * 2 - 1);

/** How a face's rows lie: heights in heads from between the pupils, in the frame of the head. */
export interface Rows {
  middle: number;
  up: number;
  down: number;
}

/** Rows from under the chin to the forehead's top, their middle where the nose ends. */
export function rowsOf({ points }: WholeFace): Rows {
  const nose = points.noseBase[1],
    mouth = (points.mouthCornerL[1] + points.mouthCornerR[1]) / 2,
    chin = points.chinBottom?.[1] ?? mouth - 2 * (nose - mouth),
    brow = points.browCentre?.[1] ?? 0.1;
  return { middle: nose, up: brow + 0.3 - nose, down: nose - chin + 0.12 };
}

/** Height of a row's middle, the top one first. */
export function heightOf({ middle, up, down }: Rows, row: number): number {
  const s = 1 - ((row + 0.5) / ROWS) * 2;
  return middle + warp(s) * (s > 0 ? up : down);
}

/** The head's upright axis lies so far behind the pupils, and rays towards it begin so far from it, in heights of the head. */
export const AXIS_BEHIND = 0.34,
  FROM = 0.95;

/** Where the ray of a cell begins, and where it goes, in the head's axes and heights. */
export function rayOf(rows: Rows, column: number, row: number): { from: Vec3; to: Vec3 } {
  const a = azimuthOf(column) * DEGREE,
    y = heightOf(rows, row);
  return { from: [Math.sin(a) * FROM, y, Math.cos(a) * FROM - AXIS_BEHIND], to: [-Math.sin(a), 0, -Math.cos(a)] };
}
