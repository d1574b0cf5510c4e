// What links cost: 20 panels over the demo's bust among 188 balls, 200 objects and more; each panel leaves out one ball, or the stage and every
// fifth object, of what it lights and of what casts. The same setup without a link in turns with it, and shadow rays alone. One core.
import { collected, compile, orderOf, Tracer, type Reach, type Scene, type Setup } from '@plinket/core';
import { attachKernel, buildAccel } from '@plinket/kernel';
import { loadKernel } from '@plinket/engine/node';
import { median, report, time } from './report.ts';
import { demoScene, sampleTimer, someLights } from './scene.ts';

const WIDTH = 128,
  HEIGHT = 160,
  LIGHTS = 20,
  BALLS = 188,
  ROUNDS = 7;
const { setup, asset } = await demoScene();
const balls = collected(
  Object.fromEntries(
    Array.from({ length: BALLS }, (_, i) => {
      const a = i * 2.4,
        r = 0.5 + (i % 7) * 0.12;
      const position: [number, number, number] = [r * Math.cos(a), 1.1 + (i % 11) * 0.08, r * Math.sin(a) - 0.5];
      return [`ball${i}`, { kind: 'ball' as const, finish: 'grey' as const, name: `Ball ${i}`, visible: true, radius: 0.03, position }];
    }),
  ),
);
const many: Setup = { ...someLights(setup, LIGHTS), props: balls };
const panels = orderOf(many.lights).filter((id) => many.lights.items[id]!.kind === 'rectangle');
const objects = compile(many, () => asset).geometry.objects;
const leavesOut = (excludes: string[]): Reach => ({ lights: { includes: [''], excludes }, casts: { includes: [''], excludes } });
const ballRefs = objects.filter((o) => o.startsWith('props/'));
const sceneOf = (reach: (n: number) => Reach | undefined): Scene =>
  compile(
    {
      ...many,
      lights: {
        items: Object.fromEntries(panels.map((id, n) => [id, { ...many.lights.items[id]!, ...(reach(n) ? { reach: reach(n)! } : {}) }])),
      },
    },
    () => asset,
  );
const scenes = {
  none: sceneOf(() => undefined),
  // all but one ball: as much is lit as without a link
  one: sceneOf((n) => leavesOut([ballRefs[n * 3]!])),
  fifth: sceneOf((n) => leavesOut(['stage', ...objects.filter((_, i) => i % 5 === n % 5)])),
};
const { module } = loadKernel(false);
const kernel = attachKernel(module!, buildAccel(module!, scenes.none.geometry.mesh));
const tracer = new Tracer(kernel, scenes.none.geometry);
const sample = sampleTimer(tracer, WIDTH, HEIGHT);
const names = Object.keys(scenes) as (keyof typeof scenes)[];
const ms = Object.fromEntries(names.map((n) => [n, [] as number[]])) as Record<keyof typeof scenes, number[]>;
for (let round = 0; round <= ROUNDS; round++)
  for (const n of names)
    if (round === 0) sample(scenes[n]);
    else ms[n].push(sample(scenes[n]));

// shadow rays alone: of the last job, asked both ways
const all = new Uint8Array(objects.length).fill(1),
  some = Uint8Array.from(objects, (_, i) => Number(i % 5 !== 0));
const shadows = { plain: [] as number[], all: [] as number[], some: [] as number[] };
for (let round = 0; round <= ROUNDS * 2; round++) {
  const took = (casts?: Uint8Array) => time(() => Array.from({ length: 20 }, () => kernel.occluded(kernel.capacity, casts)));
  const [plain, whole, part] = [took(), took(all), took(some)];
  if (round === 0) continue;
  shadows.plain.push(plain);
  shadows.all.push(whole);
  shadows.some.push(part);
}
const none = median(ms.none);
report(
  'reach',
  {
    ratio: median(ms.one) / none,
    fifth_ratio: median(ms.fifth) / none,
    shadow_ratio: median(shadows.all) / median(shadows.plain),
    ms: none,
  },
  [
    `${panels.length} panels, ${objects.length} objects, ${WIDTH} × ${HEIGHT}, one sample, three bounces`,
    `without a link ${none.toFixed(0)} ms; each leaves one ball out ${median(ms.one).toFixed(0)} ms, the stage and a fifth of all ${median(ms.fifth).toFixed(0)} ms`,
    `shadow rays asked by a table: all cast ${(median(shadows.all) / median(shadows.plain)).toFixed(3)}, some ${(median(shadows.some) / median(shadows.plain)).toFixed(3)} times`,
  ],
);
