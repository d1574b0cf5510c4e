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
  layers.forEach(({ name }, l) => {
    const plane = film.best(l),
      factors = gain[name].map((v) => v / (POINTS * POINTS));
    if (factors.every((v) => v === 0)) return;
    for (let y = 0, o = 0; y < h; y++)
      for (let x = 0; x < w; x++, o += 3)
        for (let k = 0; k < POINTS * POINTS; k++) {
          const i = Math.min(width - 1, Math.floor(((x + ((k % POINTS) + 0.5) / POINTS) / w) * width)),
            j = Math.min(height - 1, Math.floor(top + ((y + (Math.floor(k / POINTS) + 0.5) / POINTS) / h) * band));
          const p = (j * width + i) * 3;
          for (let c = 0; c < 3; c++) out[o + c] = out[o + c]! + plane[p + c]! * factors[c]!;
        }
  });
}
