import type { Gain } from '../setup/index.ts';
import type { Shown } from './source.ts';

/** Points of a film that one pixel of a small picture looks at, in each direction. */
const POINTS = 2;
/** Share of what is cut off that is cut above: the face is in the upper half. */
const ABOVE = 0.38;

/** Balances one light into a small picture of another shape: the band across the frame in which the face is. */
export function smallBalance({ film: fine, coarse }: Shown, gain: Gain, out: Float32Array, w: number, h: number): void {
  const film = coarse && fine.missing > 0 ? coarse : fine;
  const { width, height, layers } = film;
  const band = Math.min(height, (width * h) / w),
    top = (height - band) * ABOVE;
  out.fill(0);
  // where its points lie is the same for every row
  const columns = Int32Array.from(
    { length: w * POINTS },
    (_, i) => 3 * Math.min(width - 1, Math.floor(((i + 0.5) / (w * POINTS)) * width)),
  );
  layers.forEach(({ name }, l) => {
    const plane = film.best(l);
    const [r, g, b] = gain[name].map((v) => v / (POINTS * POINTS)) as [number, number, number];
    if (r === 0 && g === 0 && b === 0) return;
    for (let y = 0; y < h * POINTS; y++) {
      const row = Math.min(height - 1, Math.floor(top + ((y + 0.5) / (h * POINTS)) * band)) * width * 3;
      let o = Math.floor(y / POINTS) * w * 3;
      for (let i = 0; i < columns.length; o += 3)
        for (let k = 0; k < POINTS; k++, i++) {
          const p = row + columns[i]!;
          out[o] = out[o]! + plane[p]! * r;
          out[o + 1] = out[o + 1]! + plane[p + 1]! * g;
          out[o + 2] = out[o + 2]! + plane[p + 2]! * b;
        }
    }
  });
}
