// Moving one of 8 lights against tracing all 8, at equal samples, one core.
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
const trace = (lights: SceneLight[]) => {
  for (const tile of tilesOf(WIDTH, HEIGHT))
    tracer.trace({ camera: scene.camera, width: WIDTH, height: HEIGHT, tile, from: 0, to: SAMPLES, seed: 1, bounces: 3, lights });
};
trace(scene.lights);
const all: number[] = [],
  one: number[] = [];
for (let round = 0; round < 5; round++) {
  all.push(time(() => trace(scene.lights)));
  // a different light each round: none is the cheap one
  one.push(time(() => trace([scene.lights[round % scene.lights.length]!])));
}
report('retrace', { ratio: median(one) / median(all), all_ms: median(all), one_ms: median(one) }, [
  `all ${scene.lights.length} lights ${median(all).toFixed(0)} ms, one ${median(one).toFixed(0)} ms; ${WIDTH} × ${HEIGHT}, ${SAMPLES} samples, 3 bounces`,
]);
