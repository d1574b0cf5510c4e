// Moving one of 8 lights against tracing all 8 from nothing, at equal samples, one core. What the walk's rays met is remembered
// for the first samples of a view (core/src/trace/hit-cache.ts), so the moved light's are not traced again; `cold` is without that.
import { compile, tilesOf, Tracer, type SceneLight } from '@plinket/core';
import { attachKernel, buildAccel } from '@plinket/kernel';
import { loadKernel } from '@plinket/engine/node';
import { median, report, time } from './report.ts';
import { demoScene, eightLights } from './scene.ts';

const WIDTH = 320,
  HEIGHT = 180,
  SAMPLES = 4;
const { setup, asset } = await demoScene();
const scene = compile(eightLights(setup), () => asset);
const { module } = loadKernel(false);
const tracer = new Tracer(attachKernel(module!, buildAccel(module!, scene.geometry.mesh)), scene.geometry);
const trace = (lights: SceneLight[], seed: number) => {
  for (const tile of tilesOf(WIDTH, HEIGHT))
    tracer.trace({ camera: scene.camera, width: WIDTH, height: HEIGHT, tile, from: 0, to: SAMPLES, seed, bounces: 3, lights });
};
trace(scene.lights, 1);
const all: number[] = [],
  one: number[] = [],
  cold: number[] = [];
for (let round = 0; round < 5; round++) {
  // a seed of its own for each round: nothing is remembered of it. A different light each round: none is the cheap one
  const light = [scene.lights[round % scene.lights.length]!];
  all.push(time(() => trace(scene.lights, 10 + round)));
  one.push(time(() => trace(light, 10 + round)));
  cold.push(time(() => trace(light, 20 + round)));
}
const ratio = median(one) / median(all);
report('retrace', { ratio, cold_ratio: median(cold) / median(all), all_ms: median(all), one_ms: median(one) }, [
  `all ${scene.lights.length} lights ${median(all).toFixed(0)} ms, one ${median(one).toFixed(0)} ms (${median(cold).toFixed(0)} ms where nothing is remembered); ${WIDTH} × ${HEIGHT}, ${SAMPLES} samples, 3 bounces`,
]);
