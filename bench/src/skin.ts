// The keeper's skin at 16 samples: where light goes in, the path is split into what is reflected and several exits. Its error against many
// samples, over that of one probe or one reflection by chance (how it was before) in as much time. One core.
import { balance, Developer, Film, Guides, orderOf, setupGains, tilesOf, Tracer } from '@plinket/core';
import { attachKernel, buildAccel } from '@plinket/kernel';
import { loadFilmMath, loadKernel } from '@plinket/engine/node';
import { report, time } from './report.ts';
import { demoScene } from './scene.ts';

const WIDTH = 160,
  HEIGHT = 200,
  SAMPLES = 16,
  TRUTH = 1024;
const { setup, scene } = await demoScene();
const { module } = loadKernel(false);
const tracer = new Tracer(attachKernel(module!, buildAccel(module!, scene.geometry.mesh)), scene.geometry);
const math = loadFilmMath(),
  gains = setupGains(setup),
  tiles = tilesOf(WIDTH, HEIGHT),
  { lights } = scene;

interface Way {
  seed: number;
  split: boolean;
}
/** The picture at so many samples, 0…255, and what it took. */
function picture(samples: number, { seed, split }: Way): { ms: number; bytes: Uint8ClampedArray; guides: Guides } {
  const films = lights.map(() => new Film(WIDTH, HEIGHT, { math })),
    guides = new Guides(WIDTH, HEIGHT);
  const ms = time(() => {
    for (const tile of tiles) {
      const job = {
        camera: scene.camera,
        width: WIDTH,
        height: HEIGHT,
        tile,
        from: 0,
        to: samples,
        seed,
        bounces: 3,
        lights,
        guides: true,
        split,
      };
      const result = tracer.trace(job);
      films.forEach((film, i) => film.add(tile, result, i, samples));
      guides.add(tile, result.guides!, result, samples);
    }
  });
  const linear = math.floats(WIDTH * HEIGHT * 3),
    out = math.bytes(WIDTH * HEIGHT * 4);
  const heard = orderOf(setup.lights).map((id) => ({ film: films[lights.findIndex((l) => l.id === id)]!, gain: gains[id]! }));
  balance(math, heard, linear);
  new Developer(math).develop(linear, WIDTH, setup.look, out, { dither: false });
  const bytes = Uint8ClampedArray.from(out);
  films.forEach((f) => f.release());
  math.free(linear);
  math.free(out);
  return { ms, bytes, guides };
}

const truth = picture(TRUTH, { seed: 77, split: true });
const skin = Array.from({ length: WIDTH * HEIGHT }, (_, p) => p).filter(
  (p) => truth.guides.alphaAt(p) === 1 && (scene.geometry.materials[truth.guides.ids[p * 2 + 1]!]?.subsurface ?? 0) > 0,
);
/** Root mean square over skin, steps of 8 bit. */
const error = ({ bytes }: { bytes: Uint8ClampedArray }): number =>
  Math.sqrt(
    skin.reduce((sum, p) => sum + [0, 1, 2].reduce((s, c) => s + (bytes[p * 4 + c]! - truth.bytes[p * 4 + c]!) ** 2, 0), 0) /
      skin.length /
      3,
  );

picture(4, { seed: 5, split: true });
// in turns, each from a new seed, so that nothing is remembered of the turn before; of the times the least, of the errors the mean
const SEEDS = [1, 2, 3];
const turns = (samples: number, split: boolean): { ms: number; error: number } => {
  const pictures = SEEDS.map((seed) => picture(samples, { seed: seed + 10 * samples, split }));
  return { ms: Math.min(...pictures.map((p) => p.ms)), error: pictures.reduce((sum, p) => sum + error(p), 0) / SEEDS.length };
};
const split = turns(SAMPLES, true),
  single = turns(SAMPLES, false);
// as many samples as fit into the same time, whole ones
const samples = Math.max(1, Math.round((SAMPLES * split.ms) / single.ms)),
  same = turns(samples, false);
const ratio = split.error / same.error;
report('skin', { error_ratio: ratio, ms: split.ms, time_ratio: split.ms / single.ms }, [
  `${skin.length} pixels of skin of ${WIDTH} × ${HEIGHT}; error against ${TRUTH} samples, steps of 8 bit: ${SAMPLES} samples ${split.error.toFixed(2)} in ${split.ms.toFixed(0)} ms`,
  `before: ${single.error.toFixed(2)} with ${SAMPLES} samples in ${single.ms.toFixed(0)} ms, ${same.error.toFixed(2)} with ${samples} in ${same.ms.toFixed(0)} ms`,
]);
