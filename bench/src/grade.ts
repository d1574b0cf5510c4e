// Balance after rendering at 1920 × 1080 under ten lights: one light's level and colour change, and the picture is made anew from the films. No ray.
import { orderOf, PictureMaker, readFilms, rebalanced } from '@plinket/core';
import { loadFilmMath } from '@plinket/engine/node';
import { inflated } from '@plinket/lab';
import { median, report, time } from './report.ts';
import { tenLightsFile } from './ten-lights.ts';

const TIMES = 20;
const { bytes } = await tenLightsFile();
const math = loadFilmMath(),
  films = await readFilms(bytes, math, inflated);
const maker = new PictureMaker(math, { gobo: () => undefined, cube: () => undefined });
const lights = orderOf(films.setup.lights);
const show = (light: string, i: number) =>
  void maker.make(films, { setup: rebalanced(films.setup, { lights: { [light]: { stops: i / 10, mired: i } } }) });
show(lights[0]!, 0);
const one = Array.from({ length: TIMES }, (_, i) => time(() => show(lights[0]!, i + 1)));
// all lights at once: nothing of the last sum is of use
const all = Array.from({ length: 5 }, (_, i) =>
  time(
    () =>
      void maker.make(films, {
        setup: rebalanced(films.setup, { lights: Object.fromEntries(lights.map((l) => [l, { stops: (i + 1) / 7, mired: i }])) }),
      }),
  ),
);
report('grade', { ms: median(one), all_ms: median(all) }, [
  `one light's level and colour: ${median(one).toFixed(1)} ms (of ${TIMES}, longest ${Math.max(...one).toFixed(1)}); all ten at once: ${median(all).toFixed(1)} ms`,
]);
