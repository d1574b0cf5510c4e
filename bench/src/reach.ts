// What links cost: 20 panels over the demo's bust among 188 balls, 200 objects and more; each panel leaves out one ball, or the stage and every
// fifth object, of what it lights and of what casts. The same setup without a link in turns with it, and shadow rays alone. One core.
import { compile, orderOf, Tracer, type Reach, type Scene, type Setup } from '@plinket/core';
import { attachKernel, buildAccel } from '@plinket/kernel';
import { loadKernel } from '@plinket/engine/node';
import { median, report, time } from './report.ts';
import { reachPage } from './reach-page.ts';
import { demoScene, manyBalls, sampleTimer, someLights } from './scene.ts';

const WIDTH = 128,
  HEIGHT = 160,
  LIGHTS = 20,
  BALLS = 188,
  ROUNDS = 7,
  PAIRS = 30;
const { setup, asset } = await demoScene();
const many: Setup = { ...someLights(setup, LIGHTS), props: manyBalls(BALLS) };
const panels = orderOf(many.lights).filter((id) => many.lights.items[id]!.kind === 'rectangle');
const objects = compile(many, () => asset).geometry.objects;
const leavesOut = (rules: string[]): Reach => {
  const out = Object.fromEntries(rules.map((r) => [r, false]));
  return { lights: out, casts: out };
};
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
// the same mesh without the numbers of its objects: the kernel then has nothing to ask links by
const { objects: _, ...blank } = scenes.none.geometry.mesh;
const blankGeometry = { ...scenes.none.geometry, mesh: blank };
const blankSample = sampleTimer(new Tracer(attachKernel(module!, buildAccel(module!, blank)), blankGeometry), WIDTH, HEIGHT);
for (let round = 0; round <= ROUNDS; round++)
  for (const n of names)
    if (round === 0) sample(scenes[n]);
    else ms[n].push(sample(scenes[n]));
// pairs, each the first every other time: a difference of a hundredth is less than what the clock drifts within a round
const pairs: number[] = [];
blankSample(scenes.none);
for (let round = 0; round < PAIRS; round++) {
  const both = [sample, blankSample].map((of) => () => of(scenes.none));
  const order = round % 2 ? [0, 1] : [1, 0];
  const took: number[] = [];
  for (const i of order) took[i] = both[i]!();
  pairs.push(took[0]! / took[1]!);
}

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
const { table_ms, late, link_ms, links, objects: table } = await reachPage();
report(
  'reach',
  {
    ratio: median(ms.one) / none,
    fifth_ratio: median(ms.fifth) / none,
    shadow_ratio: median(shadows.all) / median(shadows.plain),
    plain_ratio: median(pairs),
    link_ms,
    table_ms,
    ms: none,
  },
  [
    `${panels.length} panels, ${objects.length} objects, ${WIDTH} × ${HEIGHT}, one sample, three bounces`,
    `without a link ${none.toFixed(0)} ms; each leaves one ball out ${median(ms.one).toFixed(0)} ms, the stage and a fifth of all ${median(ms.fifth).toFixed(0)} ms`,
    `without a link, over the same mesh without numbers of objects: ${median(pairs).toFixed(3)} times in the middle of ${PAIRS} pairs`,
    `a mark in the browser, until its picture stands there: ${links.map((l) => l.toFixed(0)).join(', ')} ms`,
    `the table (${table}) scrolled down, aside and up by a wheel, 20 notches a second: longest frame ${table_ms.toFixed(0)} ms, ${(late * 100).toFixed(1)} % of the frames over 34 ms`,
    `shadow rays asked by a table: all cast ${(median(shadows.all) / median(shadows.plain)).toFixed(3)}, some ${(median(shadows.some) / median(shadows.plain)).toFixed(3)} times`,
  ],
);
process.exit(0);
