// Which pattern a light draws on a face from every direction.
import { farLight, featuresOf, lookUp, NAMED, PATTERNS, scoresOf, type FaceMap, type Pattern, type Score } from '../face/index.ts';
import { directionAt } from '../setup/index.ts';

/** A grid of directions about a head, degrees: azimuths from the figure's right to its left, elevations from the highest down. */
export interface PatternGrid {
  azimuths: number[];
  elevations: number[];
  /** elevations × azimuths: number of the pattern, −1 where none has a name; and how well it is shown. */
  pattern: Int8Array;
  score: Float32Array;
}

const steps = (from: number, to: number, step: number): number[] =>
  Array.from({ length: Math.floor((to - from) / step + 1e-9) + 1 }, (_, i) => from + i * step);

/** Degrees from one column to the next, and from one row to the next. */
const ACROSS = 6,
  DOWN = 6;
/** The highest and the lowest row, degrees. */
const HIGH = 78,
  LOW = -60;

export function emptyGrid(): PatternGrid {
  const azimuths = steps(-180, 180, ACROSS),
    elevations = steps(LOW, HIGH, DOWN).reverse();
  const n = azimuths.length * elevations.length;
  return { azimuths, elevations, pattern: new Int8Array(n).fill(-1), score: new Float32Array(n) };
}

/** Scores of a small, far light from a direction about the head. */
export function scoresFrom(map: FaceMap, azimuth: number, elevation: number): Score[] {
  const cells = lookUp(map, farLight('', directionAt(map.face.frame, azimuth, elevation)));
  return scoresOf(featuresOf(map, cells, { azimuth, elevation }));
}

/** Fills one row of a grid, so that whoever waits can do something between rows. */
export function fillRow(map: FaceMap, grid: PatternGrid, row: number): void {
  grid.azimuths.forEach((azimuth, i) => {
    const [best] = scoresFrom(map, azimuth, grid.elevations[row]!);
    const at = row * grid.azimuths.length + i;
    grid.score[at] = best!.score;
    grid.pattern[at] = best!.score >= NAMED ? PATTERNS.indexOf(best!.pattern) : -1;
  });
}

/** What the grid says of a direction; nothing where it has no name. */
export function patternAt(grid: PatternGrid, azimuth: number, elevation: number): Pattern | undefined {
  const i = Math.round((azimuth - grid.azimuths[0]!) / ACROSS),
    j = Math.round((grid.elevations[0]! - elevation) / DOWN);
  if (i < 0 || i >= grid.azimuths.length || j < 0 || j >= grid.elevations.length) return undefined;
  return PATTERNS[grid.pattern[j * grid.azimuths.length + i]!];
}
