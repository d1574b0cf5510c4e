import { joinMattes } from './mattes.ts';
import type { TraceResult } from './tracer.ts';

const addAll = (sum: Float32Array, more: Float32Array): void => {
  for (let i = 0; i < sum.length; i++) sum[i] = sum[i]! + more[i]!;
};

/** Adds to what some samples of a tile came to (`sum`, changed in place) what later samples of the same tile and lights did. */
export function addTrace(sum: TraceResult, more: TraceResult): void {
  addAll(sum.films, more.films);
  addAll(sum.squares, more.squares);
  addAll(sum.alpha, more.alpha);
  if (sum.caught && more.caught) addAll(sum.caught, more.caught);
  const { guides } = more;
  if (sum.guides && guides) {
    addAll(sum.guides.sums, guides.sums);
    // identities are those of the first sample that met something
    for (let i = 0; i < guides.ids.length; i += 2)
      if (sum.guides.ids[i]! < 0) {
        sum.guides.ids[i] = guides.ids[i]!;
        sum.guides.ids[i + 1] = guides.ids[i + 1]!;
      }
    if (sum.guides.mattes && guides.mattes) for (let p = 0; p < sum.alpha.length; p++) joinMattes(sum.guides.mattes, p, guides.mattes, p);
  }
  sum.clamped.offered += more.clamped.offered;
  sum.clamped.removed += more.clamped.removed;
  sum.rays.walk += more.rays.walk;
  sum.rays.shadow += more.rays.shadow;
}
