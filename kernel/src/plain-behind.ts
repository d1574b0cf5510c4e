// The plain twin of assembly/film/behind.ts.
import type { CatcherPlanes } from './film.ts';

const luminance = (rgb: Float32Array, o: number): number => 0.2126 * rgb[o]! + 0.7152 * rgb[o + 1]! + 0.0722 * rgb[o + 2]!;

/** What `FilmMath.layBehind` does. */
export function layBehind(linear: Float32Array, covered: Float32Array, plate: Float32Array): void {
  for (let p = 0, i = 0; p < covered.length; p++) {
    const open = 1 - covered[p]!;
    for (let c = 0; c < 3; c++, i++) if (open > 0) linear[i] = linear[i]! + open * plate[i]!;
  }
}

/** What `FilmMath.catchShadow` does. */
export function catchShadow(planes: CatcherPlanes, density: number, contact: number): void {
  const { shadow, covered, share, figure, arrives, open, openness } = planes;
  for (let p = 0; p < share.length; p++) {
    const c = share[p]!;
    if (!(c > 0)) continue;
    const without = luminance(open, p * 3),
      reaches = luminance(arrives, p * 3);
    let lit = reaches < without ? reaches / without : 1;
    if (openness) lit *= 1 - contact * Math.min(1, Math.max(0, 1 - openness[p * 3]! / c));
    shadow[p] = c * (1 - lit) * density;
    covered[p] = figure[p]! + shadow[p]!;
  }
}
