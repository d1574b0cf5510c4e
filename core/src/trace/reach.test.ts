// Light that reaches some objects only, against formulas, against scenes without the others, and byte by byte against light that reaches all.
import { readFileSync } from 'node:fs';
import { attachKernel, buildAccel, compileKernel } from '@plinket/kernel';
import { beforeEach, describe, expect, it } from '@jest/globals';
import { makeEnvironment, rectangleIrradiance } from '../light/index.ts';
import type { Vec3 } from '../math/index.ts';
import type { SceneGeometry, SceneLight } from '../scene/index.ts';
import { only, type Reach, type ReachCollection } from '../setup/index.ts';
import { cameraAt, floorTriangles, geometryOf, lux, matt, overhead, plainTracer } from '../testing/scenes.ts';
import { isClear, type Material } from '../surface/index.ts';
import { Tracer } from './tracer.ts';

const module = compileKernel(readFileSync(new URL('../../../kernel/build/kernel.wasm', import.meta.url)))!;
const simdTracer = (g: SceneGeometry) => new Tracer(attachKernel(module, buildAccel(module, g.mesh, { capacity: 4096 })), g);

/** A square plate over the middle of the floor, facing up, and the same from below. */
const plate = (half: number, y: number): [Vec3, Vec3, Vec3][] =>
  floorTriangles(half).map((t) => t.map(([x, , z]) => [x, y, z])) as [Vec3, Vec3, Vec3][];
/** A floor, and a plate over it. */
function scene(surface: Material = matt(0.5), over: Material = surface): SceneGeometry {
  const g = geometryOf([...floorTriangles(4), ...plate(0.5, 1)], surface);
  g.objects.splice(0, 1, 'stage/backdrop', 'props/plate');
  g.triangleObject.fill(1, 2);
  g.materials.push(over);
  g.triangleMaterial.fill(1, 2);
  if (isClear(over)) g.mesh.clearFrom = 2;
  return g;
}
const panel = overhead(1, 1, 3);
/** The panel as the kernel shades it, and as the host does. */
const KINDS = {
  rectangle: { kind: 'rectangle', rectangle: panel },
  source: { kind: 'source', shape: { kind: 'rectangle', rectangle: panel, twoSided: false } },
} as const;
let kind: keyof typeof KINDS = 'rectangle';
const light = (reach?: Partial<Reach>): SceneLight => ({
  id: 'key',
  key: `${kind} ${JSON.stringify(reach ?? null)}`,
  ...KINDS[kind],
  ...(reach ? { reach } : {}),
});
const but = (...rules: string[]): ReachCollection => Object.fromEntries(rules.map((r) => [r, false]));
const view = {
  camera: cameraAt([0, 4, 5], [0, 0.4, 0], 0.35),
  width: 24,
  height: 24,
  tile: { x: 0, y: 0, width: 24, height: 24 },
  seed: 3,
  from: 0,
  to: 8,
};
/** What a light brings to floor and plate, in the pixels that hold nothing else; by layer, or both. */
function films(tracer: Tracer, reach: Partial<Reach> | undefined, bounces = 0, layers = [0, 1], other?: SceneLight) {
  const lit = other ? { ...other, key: `${other.key} ${JSON.stringify(reach)}`, ...(reach ? { reach } : {}) } : light(reach);
  const { films, guides } = tracer.trace({ ...view, bounces, lights: [lit], guides: true });
  const { width } = view,
    n = width * view.height;
  const of = (p: number) => layers.flatMap((layer) => [...films.slice((layer * n + p) * 3, (layer * n + p) * 3 + 3)]);
  const whole = (p: number, object: number) =>
    [-1, 0, 1].every((y) => [-1, 0, 1].every((x) => guides!.ids[(p + y * width + x) * 2] === object));
  const sum = (object: number) =>
    Array.from({ length: n }, (_, p) => p)
      .filter((p) => whole(p, object))
      .flatMap(of);
  return { floor: sum(0), plate: sum(1) };
}
const total = (v: number[]) => v.reduce((a, b) => a + b, 0);

describe.each([
  ['plain', 'rectangle', plainTracer],
  ['SIMD', 'rectangle', simdTracer],
  ['SIMD', 'source', simdTracer],
] as const)('reach, %s kernel, a %s', (_kernel, of, tracerOf) => {
  beforeEach(() => {
    kind = of;
  });
  it('what a light does not light stays dark; all else is the same byte by byte', () => {
    const tracer = tracerOf(scene());
    const all = films(tracer, undefined),
      some = films(tracer, { lights: but('props/plate') });
    expect(total(all.plate)).toBeGreaterThan(0.1);
    expect(total(some.plate)).toBe(0);
    expect(some.floor).toEqual(all.floor);
    expect(films(tracer, { lights: only('props') })).toEqual({ plate: all.plate, floor: all.floor.map(() => 0) });
  });
  it('what casts no shadow lets light pass: the floor below it gets what the formula says, the plate stays lit', () => {
    const tracer = tracerOf(scene());
    const below = (reach?: Partial<Reach>) =>
      lux(tracer.irradiance([0, 0, 0], [0, 1, 0], [light(reach)], { samples: 4096, seed: 1, bounces: 0 })[0]!.direct);
    expect(below()).toBe(0);
    expect(below({ casts: but('props') }) / rectangleIrradiance(panel, [0, 0, 0], [0, 1, 0])).toBeCloseTo(1, 2);
    const all = films(tracer, undefined),
      open = films(tracer, { casts: but('props/plate') });
    expect(total(open.plate) / total(all.plate)).toBeCloseTo(1, 1);
    expect(total(open.floor)).toBeGreaterThan(1.05 * total(all.floor));
  });
  it('a shadow of one object that takes part leaves the rest, in its colour; those of others stay whole', () => {
    const tracer = tracerOf(scene());
    const below = (shadows: Reach['shadows'], casts: ReachCollection = {}) =>
      tracer.irradiance([0, 0, 0], [0, 1, 0], [light({ shadows, casts } as Reach)], { samples: 4096, seed: 1, bounces: 0 })[0]!.direct;
    const open = rectangleIrradiance(panel, [0, 0, 0], [0, 1, 0]);
    const part = below({ props: { density: 0.75, colour: [0.4, 0, 0] } });
    [0.25 + 0.75 * 0.4, 0.25, 0.25].forEach((stays, c) => expect(part[c]! / open).toBeCloseTo(stays, 2));
    expect(below({ 'stage/backdrop': { density: 0.5, colour: [0, 0, 0] } })).toEqual([0, 0, 0]);
    expect(below({ 'props/plate': { density: 0, colour: [0, 0, 0] } })[0] / open).toBeCloseTo(1, 2);
    // who casts none has no density to speak of
    expect(below({ props: { density: 1, colour: [0, 0, 0] } }, but('props'))[0] / open).toBeCloseTo(1, 2);
    // in the picture too: half of the shadow is half of what it takes
    const floor = (shadows?: Reach['shadows']) => total(films(tracer, shadows && ({ shadows, lights: {}, casts: {} } as Reach)).floor);
    const [whole, none] = [floor({ props: { density: 1, colour: [0, 0, 0] } }), floor({ props: { density: 0, colour: [0, 0, 0] } })];
    expect(none).toBeGreaterThan(whole * 1.03);
    expect(floor({ props: { density: 0.5, colour: [0, 0, 0] } }) / ((whole + none) / 2)).toBeCloseTo(1, 3);
  });
  it('the figure’s shadow alone: lit floor, unlit plate that casts', () => {
    const tracer = tracerOf(scene());
    const { floor, plate: dark } = films(tracer, { lights: only('stage'), casts: only('props') });
    expect(total(dark)).toBe(0);
    expect(total(floor) / total(films(tracer, undefined).floor)).toBeCloseTo(1, 1);
  });
  it('a surface that a light does not light gives none of it on', () => {
    const tracer = tracerOf(scene());
    // nothing is lit, so nothing bounces
    expect(total(Object.values(films(tracer, { lights: only() }, 3)).flat())).toBe(0);
    // the plate is lit from above only and turned away from the floor: the floor's light is all its own
    const floorOnly = films(tracer, { lights: only('stage') }, 3);
    expect(total(floorOnly.floor)).toBeGreaterThan(0);
    expect(total(films(tracer, { lights: only('props') }, 3).floor)).toBeLessThan(0.02 * total(floorOnly.floor));
  });
  it('the mirror image of the source goes along with it', () => {
    const mirror = matt(0.9, { metallic: 1, roughness: 0.12 });
    const tracer = tracerOf(scene(mirror, matt(0.5)));
    const all = films(tracer, undefined, 1),
      some = films(tracer, { lights: but('props') }, 1),
      none = films(tracer, { lights: but('stage') }, 1);
    expect(total(all.floor)).toBeGreaterThan(0.1);
    expect(Math.abs(total(some.floor) / total(all.floor) - 1)).toBeLessThan(0.05);
    // what is left on the floor is the plate in it
    expect(total(none.floor)).toBeLessThan(0.1 * total(all.floor));
  });
  it('its bounces are those of lights that all reach: floor alone and plate alone add up to both', () => {
    const tracer = tracerOf(scene());
    const all = films(tracer, undefined, 2),
      a = films(tracer, { lights: only('stage') }, 2),
      b = films(tracer, { lights: only('props') }, 2);
    const sums = [...a.floor, ...a.plate].map((v, i) => v + [...b.floor, ...b.plate][i]!);
    [...all.floor, ...all.plate].forEach((v, i) => expect(Math.abs(sums[i]! - v)).toBeLessThan(1e-4 * Math.max(1, v)));
  });
  it('a dome and a surface that glows keep to it as panels do', () => {
    const tracer = tracerOf(scene());
    const around = makeEnvironment('even', 2, 2, new Float32Array(12).fill(1));
    const lights: SceneLight[] = [
      {
        id: 'dome',
        key: 'dome',
        kind: 'environment',
        environment: around,
        axes: [
          [1, 0, 0],
          [0, 1, 0],
          [0, 0, 1],
        ],
      },
      { id: 'plate', key: 'plate', kind: 'object', object: 'props/plate' },
    ];
    for (const l of lights) {
      const all = films(tracer, undefined, 1, [0, 1], l),
        some = films(tracer, { lights: but('stage') }, 1, [0, 1], l);
      expect(total(all.floor)).toBeGreaterThan(0.01);
      // what is left on the floor came by way of the plate, which is grey
      expect(total(some.floor)).toBeLessThan(0.35 * total(all.floor));
      expect(films(tracer, { lights: but('stage') }, 0, [0, 1], l).floor.every((v) => v === 0)).toBe(true);
    }
  });
  it('what is seen through glass is lit as it is without', () => {
    // of what is clear the guides tell what lies behind it
    const tracer = tracerOf(scene(matt(0.5), matt(1, { transmission: 1 })));
    const diffuse = (reach?: Partial<Reach>) => films(tracer, reach, 0, [0]).floor;
    expect(total(diffuse())).toBeGreaterThan(0.1);
    expect(diffuse({ lights: only('stage') })).toEqual(diffuse());
    expect(total(diffuse({ lights: only('props') }))).toBe(0);
  });
  it('a face that it does not light reads as unlit, and one light’s rule is not another’s', () => {
    const tracer = tracerOf(scene());
    const job = { points: Float32Array.from([0, 1, 0, 2, 0, 0]), normals: Float32Array.from([0, 1, 0, 0, 1, 0]), samples: 16, seed: 1 };
    const lights = [light({ lights: but('props') }), { ...light(), id: 'fill' }];
    const read = (object?: number) => Array.from(tracer.read({ ...job, lights, ...(object === undefined ? {} : { object }) }).lit);
    expect(total(read(1).slice(0, 6))).toBe(0);
    expect(total(read(1).slice(6))).toBeGreaterThan(0);
    expect(read(0)).toEqual(read());
  });
});
