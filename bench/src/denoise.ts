// Noise removal of 8 films of 640 × 360 on one core, and what it does to the error of the demo's picture at 16 samples,
// measured against a picture of many samples.
import { orderOf, balance, compile, Developer, setupGains, Smoother, type Film, type Setup } from '@plinket/core';
import { render as traced, type FilmSet } from '@plinket/engine';
import { loadFilmMath, nodePool } from '@plinket/engine/node';
import { median, report, time } from './report.ts';
import { demoScene, eightLights } from './scene.ts';

const full = process.argv.includes('--full');
/** Samples of the picture that counts as the truth; `--full` takes the 4096 that the bar names. */
const TRUTH = full ? 4096 : 1024;
const { setup, asset } = await demoScene();
const math = loadFilmMath();

async function render(what: Setup, width: number, height: number, samples: number, seed: number) {
  const pool = nodePool({ workers: 2 });
  const scene = compile(what, () => asset);
  const set = await traced(scene, { width, height, samples, seed, bounces: 3 }, { pool, math });
  pool.close();
  return set;
}

/** The picture of films as an eye sees it, 0…255. */
function shown(set: FilmSet, width: number, smooth: number): Uint8ClampedArray {
  const gains = setupGains(setup);
  const films = orderOf(setup.lights).map((id) => ({ film: set.films.get(id)!.film, gain: gains[id]!, smooth }));
  const linear = math.floats(films[0]!.film.plane('diffuse')!.length),
    out = math.bytes((linear.length / 3) * 4);
  balance(math, films, linear);
  new Developer(math).develop(linear, width, setup.look, out, { dither: false });
  return Uint8ClampedArray.from(out);
}
const rms = (a: Uint8ClampedArray, b: Uint8ClampedArray) =>
  Math.sqrt(a.reduce((s, v, i) => s + (v - b[i]!) ** 2, 0) / ((a.length / 4) * 3));

// time: eight films of 640 × 360, whatever is in them
const eight = await render(eightLights(setup), 640, 360, 4, 1);
const runs: number[] = [];
for (let i = 0; i < 3; i++)
  runs.push(
    time(() => {
      const smoother = new Smoother(math, eight.guides);
      for (const { film } of eight.films.values()) smoother.smooth(film, 4);
      smoother.release();
    }),
  );
eight.close();

// error: the demo's own portrait, small enough for the truth to come in minutes
const W = full ? 240 : 160,
  H = full ? 300 : 200;
const truth = shown(await render(setup, W, H, TRUTH, 77), W, 0);
const few = await render(setup, W, H, 16, 1);
const raw16 = rms(shown(few, W, 0), truth);
const smoother = new Smoother(math, few.guides);
for (const { film } of few.films.values()) smoother.smooth(film as Film, 16);
const smooth16 = rms(shown(few, W, 1), truth);
const raw64 = rms(shown(await render(setup, W, H, 64, 1), W, 0), truth);
report('denoise', { ms: median(runs), error_vs_raw64: smooth16 / raw64 }, [
  `${median(runs).toFixed(0)} ms for 8 films of 640 × 360 (both layers each), one core`,
  `error against ${TRUTH} samples, steps of 8 bit: 16 raw ${raw16.toFixed(2)}, 16 smoothed ${smooth16.toFixed(2)}, 64 raw ${raw64.toFixed(2)}; ${W} × ${H}`,
]);
process.exit(0);
