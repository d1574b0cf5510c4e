// Films with known layers, for tests.
import { plainFilmMath } from '@plinket/kernel';
import { Film } from '../film/index.ts';
import { gainOn, type Gain } from '../setup/index.ts';
import type { TraceResult } from '../trace/index.ts';

const plain = plainFilmMath();
export const gain = (d: number, s = d): Gain => ({ ...gainOn([1, 1, 1]), diffuse: [d, d, d], specular: [s, s, s] });

/** What a tracer would answer for a tile of one light; each pixel's layers given by functions of its number. */
export function traced(pixels: number, diffuse: (p: number) => number, specular: (p: number) => number, samples: number): TraceResult {
  const films = new Float32Array(pixels * 6),
    squares = new Float32Array(pixels * 2);
  for (let p = 0; p < pixels; p++) {
    films.fill(diffuse(p) * samples, p * 3, p * 3 + 3);
    films.fill(specular(p) * samples, (pixels + p) * 3, (pixels + p) * 3 + 3);
    squares[p] = diffuse(p) ** 2 * samples;
    squares[pixels + p] = specular(p) ** 2 * samples;
  }
  const none = { offered: 0, removed: 0 };
  return {
    films,
    squares,
    layers: ['diffuse', 'specular'],
    alpha: new Float32Array(pixels),
    clamped: none,
    rays: { walk: 0, shadow: 0 },
  };
}

/** A film whose pixels all hold one value in each layer. */
export function flat(width: number, height: number, diffuse: number, specular: number, samples = 4, math = plain): Film {
  const film = new Film(width, height, { math });
  film.add(
    { x: 0, y: 0, width, height },
    traced(
      width * height,
      () => diffuse,
      () => specular,
      samples,
    ),
    0,
    samples,
  );
  return film;
}
