// Changing one light's level on 960 × 540 with 8 lights: a new developed picture from films, without a ray.
import { orderOf, applyPatch, compile, layersIn, PictureMaker, type Setup } from '@plinket/core';
import { Pool, Renderer, serveTracing, type FromWorker, type WorkerPort } from '@plinket/engine';
import { loadFilmMath, loadKernel } from '@plinket/engine/node';
import { median, report, time } from './report.ts';
import { demoScene, eightLights } from './scene.ts';

const WIDTH = 960,
  HEIGHT = 540;

/** A worker in this thread: the bench counts its rays and keeps to one core. */
function localPort(): WorkerPort {
  let hear: (m: FromWorker) => void = () => undefined;
  const handle = serveTracing(
    (m) => hear(m),
    (run) => run(),
  );
  return { post: (m) => void setTimeout(() => handle(m), 0), listen: (h) => void (hear = h), close: () => undefined };
}

const { setup: demo, asset } = await demoScene();
let setup: Setup = eightLights(demo);
const scene = compile(setup, () => asset);
const pool = new Pool(localPort, 1, loadKernel(false));
const math = loadFilmMath();
const renderer = new Renderer(pool, math);
const options = { width: WIDTH, height: HEIGHT, samples: 1, seed: 1, bounces: 1, coarse: false };
await new Promise<void>((resolve, reject) => {
  renderer.onError = reject;
  renderer.onProgress = () => renderer.finished && resolve();
  renderer.update({ number: 0, scene, options });
});
const traced = pool.rays.walk + pool.rays.shadow;
const maker = new PictureMaker(math, { gobo: () => undefined, cube: () => undefined });

const runs: number[] = [];
for (let i = 0; i < 24; i++) {
  runs.push(
    time(() => {
      setup = applyPatch(setup, { lights: { items: { fill: { stops: -(i % 4) / 3 } } } });
      renderer.update({ number: i + 1, scene: compile(setup, () => asset, scene), options });
      maker.make(renderer.set, { setup });
    }),
  );
}
const ms = median(runs.slice(4));
const rays = pool.rays.walk + pool.rays.shadow - traced;
report('balance', { ms, rays }, [
  `${ms.toFixed(1)} ms for a new picture of ${WIDTH} × ${HEIGHT} from ${orderOf(setup.lights).length} films (${((orderOf(setup.lights).length * WIDTH * HEIGHT * layersIn({}).length * 3 * 4) / 1e6).toFixed(0)} MB), one core`,
  `${rays} rays traced by it; the films themselves took ${traced}`,
]);
process.exit(0);
