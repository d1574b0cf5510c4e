// Shadow catchers against formulas, against the render of what they stand for, and against the same scene without one.
import { readFileSync } from 'node:fs';
import { attachKernel, buildAccel, compileKernel } from '@plinket/kernel';
import { describe, expect, it } from '@jest/globals';
import { rectangleIrradiance } from '../light/index.ts';
import type { Vec3 } from '../math/index.ts';
import type { SceneGeometry, SceneLight } from '../scene/index.ts';
import { luminance } from '../photometry/index.ts';
import { cameraAt, floorTriangles, geometryOf, matt, overhead, plainTracer } from '../testing/scenes.ts';
import type { Material } from '../surface/index.ts';
import { addTrace } from './join.ts';
import { Tracer, type TraceJob, type TraceResult } from './tracer.ts';

const module = compileKernel(readFileSync(new URL('../../../kernel/build/kernel.wasm', import.meta.url)))!;
const simdTracer = (g: SceneGeometry) => new Tracer(attachKernel(module, buildAccel(module, g.mesh, { capacity: 4096 })), g);

/** A floor of a reflectance, and over it at 1 m a square plate of 1 m, red from below. */
function scene(floor: Material = matt(0.5)): SceneGeometry {
  const plate = floorTriangles(0.5).map((t) => t.map(([x, , z]) => [x, 1, z])) as [Vec3, Vec3, Vec3][];
  const g = geometryOf([...floorTriangles(4), ...plate], floor);
  g.objects.splice(0, 1, 'stage/backdrop', 'props/plate');
  g.triangleObject.fill(1, 2);
  g.materials.push(matt(0.6, { base: [0.8, 0.2, 0.1] }));
  g.triangleMaterial.fill(1, 2);
  return g;
}
const panel = overhead(1, 1, 3);
const KINDS: Record<string, SceneLight> = {
  rectangle: { id: 'key', key: 'rectangle', kind: 'rectangle', rectangle: panel },
  source: { id: 'key', key: 'source', kind: 'source', shape: { kind: 'rectangle', rectangle: panel, twoSided: false } },
};
const FLOOR = { objects: ['stage/backdrop'], follow: true };
const SIZE = 32;
/** From the side, so that floor under the plate is seen. */
const job: Omit<TraceJob, 'lights'> = {
  camera: cameraAt([0, 4, 5], [0, 0.3, 0], 0.4),
  width: SIZE,
  height: SIZE,
  tile: { x: 0, y: 0, width: SIZE, height: SIZE },
  seed: 3,
  from: 0,
  to: 16,
  bounces: 0,
  guides: true,
};
const layer = ({ layers, films }: TraceResult, name: string): Float32Array => {
  const n = SIZE * SIZE * 3;
  return films.subarray(layers.indexOf(name as never) * n, (layers.indexOf(name as never) + 1) * n);
};
const sum = (v: Float32Array) => v.reduce((a, b) => a + b, 0);
/** Pixels that see the floor and nothing else, with where on it their middle lies. */
function floorPixels({ guides, caught }: TraceResult, samples = job.to): { p: number; x: number; z: number }[] {
  return Array.from({ length: SIZE * SIZE }, (_, p) => p)
    .filter((p) => caught![p] === samples && guides!.sums[p * 11] === samples)
    .map((p) => ({ p, x: guides!.sums[p * 11 + 4]! / samples, z: guides!.sums[p * 11 + 6]! / samples }));
}

describe.each([
  ['plain', 'rectangle', plainTracer],
  ['SIMD', 'rectangle', simdTracer],
  ['SIMD', 'source', simdTracer],
] as const)('a shadow catcher, %s kernel, a %s', (_kernel, of, tracerOf) => {
  const lights = [KINDS[of]!];
  it('open is what the formula says of a bare floor, and the shadow’s edges lie where similar triangles put them', () => {
    const result = tracerOf(scene()).trace({ ...job, lights, catchers: FLOOR });
    const arrives = layer(result, 'arrives'),
      open = layer(result, 'open');
    const pixels = floorPixels(result);
    const mean = pixels.reduce((s, { p }) => s + open[p * 3]! / job.to, 0) / pixels.length,
      wanted = pixels.reduce((s, { x, z }) => s + rectangleIrradiance(panel, [x, 0, z], [0, 1, 0]), 0) / pixels.length;
    expect(mean / wanted).toBeCloseTo(1, 2);
    const shadow = ({ p }: { p: number }) => 1 - arrives[p * 3]! / open[p * 3]!;
    // panel of 1 m at 3 m over a plate of 1 m at 1 m: full shadow below the plate, none beyond 0.5 + 1 · 1 / 2 m
    const far = (x: number, z: number) => Math.max(Math.abs(x), Math.abs(z));
    const umbra = pixels.filter(({ x, z }) => far(x, z) < 0.4),
      clear = pixels.filter(({ x, z }) => far(x, z) > 1.1),
      middle = pixels.filter(({ x, z }) => Math.abs(z) < 0.3 && Math.abs(Math.abs(x) - 0.75) < 0.1);
    expect([umbra.length, clear.length, middle.length].every((n) => n > 3)).toBe(true);
    for (const pixel of umbra) expect(shadow(pixel)).toBe(1);
    for (const pixel of clear) expect(shadow(pixel)).toBe(0);
    // half way half of the panel is hidden
    expect(middle.reduce((s, pixel) => s + shadow(pixel), 0) / middle.length).toBeCloseTo(0.5, 1);
  });
  it('over a plate it is the render of that plate as a grey floor, within noise (Porter and Duff 1984)', () => {
    const albedo = 0.5,
      more = { bounces: 2, to: 64 };
    const tracer = tracerOf(scene(matt(albedo, { specular: 0 } as Partial<Material>)));
    const whole = tracer.trace({ ...job, ...more, lights }),
      caught = tracer.trace({ ...job, ...more, lights, catchers: FLOOR });
    const floor = (plane: Float32Array, k: number) =>
      Array.from({ length: SIZE * SIZE }, (_, p) => p)
        .filter((p) => caught.caught![p] === more.to)
        .reduce((s, p) => s + luminance(plane[p * 3]!, plane[p * 3 + 1]!, plane[p * 3 + 2]!) * k, 0);
    const render = floor(layer(whole, 'diffuse'), 1);
    const behind = floor(layer(caught, 'arrives'), albedo / Math.PI),
      bounced = floor(layer(caught, 'bounce'), 1);
    expect(bounced).toBeGreaterThan(0.003 * render);
    // what a rough dielectric takes from the diffuse layer is the floor's own: a few percent
    expect((behind + bounced) / render).toBeGreaterThan(0.98);
    expect((behind + bounced) / render).toBeLessThan(1.09);
  });
  it('nothing of it is in the picture, and what else is there is the same byte by byte', () => {
    const tracer = tracerOf(scene());
    const plain = tracer.trace({ ...job, bounces: 2, lights }),
      caught = tracer.trace({ ...job, bounces: 2, lights, catchers: FLOOR });
    const seen = (r: TraceResult, p: number) => ['diffuse', 'specular'].flatMap((name) => [...layer(r, name).subarray(p * 3, p * 3 + 3)]);
    let plates = 0;
    for (let p = 0; p < SIZE * SIZE; p++) {
      if (caught.caught![p] === job.to) expect(seen(caught, p)).toEqual([0, 0, 0, 0, 0, 0]);
      if (caught.caught![p] !== 0) continue;
      expect(seen(caught, p)).toEqual(seen(plain, p));
      plates++;
    }
    expect(plates).toBeGreaterThan(20);
    expect(caught.alpha).toEqual(plain.alpha);
    expect(plain.layers).not.toContain('open');
  });
  it('objects that cast no shadow of the light leave none, and those that do alone are those that do', () => {
    const tracer = tracerOf(scene());
    const shadow = (casts: Record<string, boolean>) => {
      const [light] = lights;
      const result = tracer.trace({
        ...job,
        lights: [{ ...light!, key: `${of} ${JSON.stringify(casts)}`, reach: { casts } }],
        catchers: FLOOR,
      });
      return 1 - sum(layer(result, 'arrives')) / sum(layer(result, 'open'));
    };
    expect(shadow({ props: false })).toBe(0);
    expect(shadow({ '*': false, props: true })).toBeGreaterThan(0.03);
    expect(shadow({ '*': false, props: true })).toBeCloseTo(shadow({}), 3);
  });
});

describe('shadow catchers', () => {
  const tracer = simdTracer(scene());
  it('where nobody wishes for what it is thrown on or mirrors, paths end at it: the same shadow and the same picture, with fewer rays', () => {
    const of = (follow: boolean) => tracer.trace({ ...job, bounces: 2, lights: [KINDS['rectangle']!], catchers: { ...FLOOR, follow } });
    const short = of(false),
      long = of(true);
    expect(short.layers).toEqual(['diffuse', 'specular', 'arrives', 'open']);
    for (const name of ['diffuse', 'specular', 'arrives', 'open']) expect(layer(short, name)).toEqual(layer(long, name));
    expect(short.caught).toEqual(long.caught);
    expect(short.rays.walk).toBeLessThan(long.rays.walk);
    // and traced again, from what is remembered of each
    for (const name of ['diffuse', 'arrives']) expect(layer(of(false), name)).toEqual(layer(short, name));
    expect(of(true).films).toEqual(long.films);
  });
  it('a tile that is traced in slices comes to the same', () => {
    const slice = (from: number, to: number) => tracer.trace({ ...job, from, to, lights: [KINDS['rectangle']!], catchers: FLOOR });
    const sum = slice(0, 5);
    addTrace(sum, slice(5, 16));
    const whole = slice(0, 16);
    expect(sum.caught).toEqual(whole.caught);
    expect(whole.caught!.some((n) => n === 16)).toBe(true);
    expect(sum.alpha).toEqual(whole.alpha);
  });
  it('shadows that take half leave half, in their colour', () => {
    const stays: Vec3 = [0.5, 0.25, 0];
    const result = tracer.trace({
      ...job,
      lights: [{ ...KINDS['rectangle']!, key: 'bent', bent: { cast: true, stays, mirror: true } }],
      catchers: FLOOR,
    });
    const umbra = floorPixels(result).filter(({ x, z }) => Math.max(Math.abs(x), Math.abs(z)) < 0.4);
    expect(umbra.length).toBeGreaterThan(3);
    for (const { p } of umbra)
      for (let c = 0; c < 3; c++)
        expect(layer(result, 'arrives')[p * 3 + c]! / layer(result, 'open')[p * 3 + c]!).toBeCloseTo(stays[c]!, 5);
  });
  it('a dome gives a bare floor π, and takes from it what the plate would throw if it were as bright', () => {
    const result = tracer.trace({ ...job, to: 64, lights: [{ id: 'dome', key: 'dome', kind: 'dome' }], catchers: FLOOR });
    const spots = floorPixels(result, 64),
      pixels = spots.map(({ p }) => p);
    const mean = (name: string) => pixels.reduce((s, p) => s + layer(result, name)[p * 3]! / 64, 0) / pixels.length;
    expect(mean('open') / Math.PI).toBeCloseTo(1, 1);
    const hidden = spots.reduce((s, { x, z }) => s + rectangleIrradiance(overhead(1, 1, 1), [x, 0, z], [0, 1, 0]), 0) / spots.length;
    expect((mean('open') - mean('arrives')) / hidden).toBeGreaterThan(0.9);
    expect((mean('open') - mean('arrives')) / hidden).toBeLessThan(1.1);
    // direct light of a catcher is nothing that bounces
    expect(sum(layer(result, 'bounce'))).toBe(0);
  });
  it('its own glow and its mirror image of a light are not shown; what it mirrors of others is', () => {
    const shiny = simdTracer(scene(matt(0.9, { metallic: 1, roughness: 0.1, emission: [5, 5, 5] })));
    const glow = shiny.trace({ ...job, bounces: 1, lights: [{ id: 'glow', key: 'glow', kind: 'glow' }], catchers: FLOOR });
    const pixels = floorPixels(glow).map(({ p }) => p);
    for (const p of pixels) expect(layer(glow, 'diffuse')[p * 3]! + layer(glow, 'specular')[p * 3]!).toBe(0);
    const key = shiny.trace({ ...job, bounces: 1, lights: [KINDS['rectangle']!], catchers: FLOOR });
    expect(sum(layer(key, 'mirror'))).toBe(0);
    const twice = shiny.trace({ ...job, bounces: 2, lights: [KINDS['rectangle']!], catchers: FLOOR });
    expect(sum(layer(twice, 'mirror'))).toBeGreaterThan(0);
  });
  it('openness falls on the catcher’s own layer', () => {
    const result = tracer.trace({ ...job, lights: [{ id: 'o', key: 'o', kind: 'openness', reach: 1.5 }], catchers: FLOOR });
    const near = floorPixels(result).filter(({ x, z }) => Math.max(Math.abs(x), Math.abs(z)) < 0.3);
    const mean = near.reduce((s, { p }) => s + layer(result, 'bounce')[p * 3]! / job.to, 0) / near.length;
    expect(mean).toBeGreaterThan(0.3);
    expect(mean).toBeLessThan(0.95);
  });
});
