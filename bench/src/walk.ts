// The whole walk against its rays alone: 640 × 360, the bust of 200 000 triangles, 4 lights, 3 bounces, one core.
import { tilesOf, Tracer } from '@plinket/core';
import { attachKernel, buildAccel, type RayKernel } from '@plinket/kernel';
import { loadKernel } from '@plinket/engine/node';
import { median, report, time } from './report.ts';
import { largeScene } from './scene.ts';

const WIDTH = 640,
  HEIGHT = 360;
/** Samples of one job, as the renderer hands them out once the first are there. */
const PASS = 4;
const { scene } = await largeScene(4);
const { module } = loadKernel(false);
const inner = attachKernel(module!, buildAccel(module!, scene.geometry.mesh));
let spent = 0,
  rays = 0;
/** The same kernel, its time counted. */
const kernel: RayKernel = {
  ...inner,
  closest: (n) => {
    rays += n;
    spent += time(() => inner.closest(n));
  },
  occluded: (n) => {
    rays += n;
    spent += time(() => inner.occluded(n));
  },
};
const tracer = new Tracer(kernel, scene.geometry);
const once = (sample: number) => {
  for (const tile of tilesOf(WIDTH, HEIGHT))
    tracer.trace({
      camera: scene.camera,
      width: WIDTH,
      height: HEIGHT,
      tile,
      from: sample * PASS,
      to: (sample + 1) * PASS,
      seed: 1,
      bounces: 3,
      lights: scene.lights,
    });
};
once(0);
const totals: number[] = [],
  shares: number[] = [];
for (let sample = 1; sample <= 5; sample++) {
  spent = rays = 0;
  const ms = time(() => once(sample));
  totals.push(ms / PASS);
  shares.push(ms / spent);
}
report('walk', { over_rays: median(shares), core_s: median(totals) / 1000 }, [
  `${(median(totals) / 1000).toFixed(2)} s of one core a sample a pixel, ${median(shares).toFixed(2)} times its rays alone; shading ${((1 - 1 / median(shares)) * 100).toFixed(0)} % of the frame`,
  `${(rays / PASS / 1e6).toFixed(2)} million rays a sample a pixel, ${scene.geometry.mesh.indices.length / 3} triangles`,
]);
