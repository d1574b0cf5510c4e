// Two workers against one, on a quiet machine: the same samples of the demo.
import { compile } from '@plinket/core';
import { Renderer } from '@plinket/engine';
import { loadFilmMath, nodePool } from '@plinket/engine/node';
import { median, report } from './report.ts';
import { demoScene } from './scene.ts';

const { setup, asset } = await demoScene();
const scene = compile(setup, () => asset);

async function run(workers: number): Promise<number> {
  const pool = nodePool({ workers });
  const renderer = new Renderer(pool, loadFilmMath());
  const render = (samples: number, seed: number) =>
    new Promise<number>((resolve, reject) => {
      const start = performance.now();
      renderer.onError = reject;
      renderer.onProgress = () => renderer.finished && resolve(performance.now() - start);
      renderer.update({ number: 1, scene, options: { width: 320, height: 400, samples, seed, bounces: 3, coarse: false } });
    });
  // the first picture warms every worker
  await render(2, 9);
  const ms = await render(12, 1);
  renderer.close();
  pool.close();
  return ms;
}
const one: number[] = [],
  two: number[] = [];
for (let round = 0; round < 3; round++) {
  one.push(await run(1));
  two.push(await run(2));
}
report('workers', { speedup: median(one) / median(two) }, [
  `one ${median(one).toFixed(0)} ms, two ${median(two).toFixed(0)} ms; 320 × 400, 12 samples, 5 lights`,
]);
process.exit(0);
