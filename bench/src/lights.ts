// Time of one sample a pixel against the number of lights, and what a light of each kind costs; one core, the demo bust.
import {
  collected,
  orderOf,
  ball,
  compile,
  disk,
  dome,
  rectangle,
  sky,
  spot,
  sun,
  Tracer,
  tube,
  type Light,
  type RectangleLight,
} from '@plinket/core';
import { attachKernel, buildAccel } from '@plinket/kernel';
import { loadKernel } from '@plinket/engine/node';
import { median, report } from './report.ts';
import { demoScene, sampleTimer, someLights } from './scene.ts';

const WIDTH = 256,
  HEIGHT = 320;
const COUNTS = [1, 2, 4, 8, 15, 30, 60];
const { setup, asset } = await demoScene();
const { module } = loadKernel(false);
const first = compile(setup, () => asset);
const accel = buildAccel(module!, first.geometry.mesh);
const tracer = new Tracer(attachKernel(module!, accel), first.geometry);
const sample = sampleTimer(tracer, WIDTH, HEIGHT);
const sixty = someLights(setup, 60);
const scenes = COUNTS.map((n) =>
  compile(
    {
      ...sixty,
      lights: collected(
        Object.fromEntries(
          orderOf(sixty.lights)
            .slice(0, n)
            .map((id) => [id, sixty.lights.items[id]!]),
        ),
      ),
    },
    () => asset,
  ),
);

const times = COUNTS.map(() => [] as number[]);
for (let round = 0; round < 4; round++) scenes.forEach((scene, i) => (round === 0 ? sample(scene) : times[i]!.push(sample(scene))));
const ms = times.map(median);
const [t1, t60] = [ms[0]!, ms.at(-1)!];
const each = (t60 - t1) / 59;

// each kind alone, against the rectangle
const { place } = setup.lights.items['key'] as RectangleLight;
const kinds: Record<string, Light> = {
  rectangle: rectangle({ place, width: 0.5, height: 0.6 }),
  grid: rectangle({ place, width: 0.5, height: 0.6, beam: { angle: 60, keep: 'centre' } }),
  disk: disk({ place, width: 0.5, height: 0.6 }),
  ball: ball({ place }),
  tube: tube({ place }),
  spot: spot({ place }),
  gobo: spot({ place, gobo: { pattern: 'leaves', distance: 0.5, width: 0.4, turn: 0 } }),
  sun: sun(),
  sky: sky(),
  dome: dome(),
};
const alone = Object.entries(kinds).map(([name, light]) => {
  const scene = compile({ ...setup, lights: { items: { one: light } } }, () => asset);
  sample(scene);
  return [name, median([sample(scene), sample(scene), sample(scene)])] as const;
});
const base = alone[0]![1];
report(
  'lights',
  {
    t60_over_t1: t60 / t1,
    t1_ms: t1,
    t60_ms: t60,
    light_over_walk: each / (t1 - each),
    ...Object.fromEntries(alone.slice(1).map(([n, v]) => [`${n}_over_rectangle`, v / base])),
  },
  [
    `${WIDTH} × ${HEIGHT}, one sample, 3 bounces: ${COUNTS.map((n, i) => `${n} light${n > 1 ? 's' : ''} ${ms[i]!.toFixed(0)} ms`).join(', ')}`,
    `each further light ${each.toFixed(1)} ms; one light of each kind: ${alone.map(([n, v]) => `${n} ${v.toFixed(0)} ms`).join(', ')}`,
  ],
);
