import type { Point } from './projection.ts';

/** Letter of the light at a place in the order: A, B, … Z, A2, … */
export const letterOf = (index: number): string =>
  String.fromCharCode(65 + (index % 26)) + (index >= 26 ? String(Math.floor(index / 26) + 1) : '');

/** How often labels push each other, at most. */
const ROUNDS = 160;
/** A little more than half of the way each: what is only just apart is soon pushed again. */
const HALF = 0.52;

/**
 * Moves labels apart that would cover each other, each as little as it takes: those nearer than `gap` push one another away along the line
 * between them. Labels that stand free stay where they are; the same labels always end up in the same places.
 * @param gap width and height that a label wants for itself
 */
export function apart(labels: readonly Point[], gap: readonly [number, number]): Point[] {
  const out = labels.map(([x, y]): Point => [x, y]);
  for (let round = 0; round < ROUNDS; round++) {
    let moved = false;
    for (let i = 0; i < out.length; i++)
      for (let j = i + 1; j < out.length; j++) {
        const a = out[i]!,
          b = out[j]!;
        const dx = b[0] - a[0],
          dy = b[1] - a[1];
        const overX = gap[0] - Math.abs(dx),
          overY = gap[1] - Math.abs(dy);
        if (overX <= 1e-9 || overY <= 1e-9) continue;
        moved = true;
        // along the axis on which it is the shorter way out, measured in labels
        if (overX / gap[0] < overY / gap[1]) {
          const by = (dx < 0 ? -1 : 1) * overX * HALF;
          a[0] -= by;
          b[0] += by;
        } else {
          const by = (dy < 0 ? -1 : 1) * overY * HALF;
          a[1] -= by;
          b[1] += by;
        }
      }
    if (!moved) break;
  }
  return out;
}

/** Metres between two rings so that they lie at least so many metres apart on paper: 0.1, 0.2, 0.5, 1, 2, 5, 10 … */
export function ringStep(least: number): number {
  const power = 10 ** Math.floor(Math.log10(least));
  const times = [1, 2, 5, 10].find((k) => k * power >= least * (1 - 1e-9))!;
  return Number((times * power).toPrecision(6));
}
