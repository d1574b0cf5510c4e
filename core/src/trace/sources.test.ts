// Every source as the tracer renders it, against its closed form.
import { readFileSync } from 'node:fs';
import { describe, expect, it } from '@jest/globals';
import { attachKernel, buildAccel, compileKernel, type RayKernel } from '@plinket/kernel';
import {
  ballIrradiance,
  capAngle,
  diskIrradianceOnAxis,
  environmentIrradiance,
  gridPasses,
  inRange,
  makeEnvironment,
  rectangleIrradiance,
  spotShape,
  thinTubeIrradiance,
  type Optics,
  type Shape,
} from '../light/index.ts';
import { DEGREE, normalize, type Vec3 } from '../math/index.ts';
import type { SceneGeometry, SceneLight } from '../scene/index.ts';
import { material } from '../surface/index.ts';
import { cameraAt, floorTriangles, geometryOf, matt, overhead, plainTracer, rectangleLight, lux } from '../testing/scenes.ts';
import { Tracer, type TraceJob } from './index.ts';

const module = compileKernel(readFileSync(new URL('../../../kernel/build/kernel.wasm', import.meta.url)))!;
const kernelOf = (geometry: SceneGeometry): RayKernel => attachKernel(module, buildAccel(module, geometry.mesh));
const N = 12;
const floor = geometryOf(floorTriangles(20), matt(0.5, { specular: 0 }));
const source = (id: string, shape: Shape, optics?: Optics): SceneLight => ({
  id,
  key: JSON.stringify([shape, optics]),
  kind: 'source',
  shape,
  ...(optics ? { optics } : {}),
});

/** Mean of a film's diffuse (0) or specular (1) green over a small picture of a point on the floor. */
function rendered(light: SceneLight, more: Partial<TraceJob> = {}, geometry = floor, plane: 0 | 1 = 0, plain = false): number {
  const tracer = plain ? plainTracer(geometry) : new Tracer(kernelOf(geometry), geometry);
  const { films } = tracer.trace({
    camera: cameraAt([0, 1.2, 0.001], [0, 0, 0], 0.002),
    width: N,
    height: N,
    tile: { x: 0, y: 0, width: N, height: N },
    from: 0,
    to: 128,
    seed: 1,
    bounces: 0,
    lights: [light],
    ...more,
  });
  let sum = 0;
  for (let p = 0; p < N * N; p++) sum += films[(plane * N * N + p) * 3 + 1]!;
  return sum / (N * N) / ((more.to ?? 128) - (more.from ?? 0));
}

/** Radiance of a matt floor of albedo ½ under an irradiance. */
const lit = (E: number) => (0.5 / Math.PI) * E;
const origin: Vec3 = [0, 0, 0],
  up: Vec3 = [0, 1, 0];
const ball: Shape = { kind: 'ball', centre: [1, 2, 0], radius: 0.4 };
const down = (centre: Vec3): Optics => ({ centre, x: [1, 0, 0], y: [0, 0, 1], z: [0, -1, 0] });

describe('rendered irradiance equals the closed form', () => {
  const d = Math.hypot(1, 2);
  const panel = overhead(0.8, 0.5, 2, [0.3, 0]);
  const cases: [string, Shape, number][] = [
    ['rectangle', { kind: 'rectangle', rectangle: panel, twoSided: true }, rectangleIrradiance(panel, origin, up)],
    [
      'disk',
      { kind: 'disk', disk: { centre: [0, 1.5, 0], a: [0.6, 0, 0], b: [0, 0, 0.6] }, twoSided: false },
      diskIrradianceOnAxis(0.6, 1.5),
    ],
    ['ball', ball, ballIrradiance(0.4, d, 2 / d)],
    ['tube', { kind: 'tube', tube: { centre: [0, 2, 0], axis: [1, 0, 0], length: 1.5, radius: 0.01 } }, thinTubeIrradiance(0.01, 1.5, 2)],
    ['sun', { kind: 'sun', towards: normalize([1, 1, 0]), half: 0.2665 * DEGREE }, capAngle(0.2665 * DEGREE) * Math.SQRT1_2],
  ];
  it.each(cases)('%s, by light samples', (_name, shape, E) => expect(rendered(source('s', shape)) / lit(E)).toBeCloseTo(1, 2));
  it.each(cases.slice(0, 3))('%s, with the walk’s own rays among them', (_name, shape, E) =>
    expect(rendered(source('s', shape), { bounces: 1, to: 512 }) / lit(E)).toBeCloseTo(1, 1),
  );
  it.each(cases)('%s, measured by a probe', (_name, shape, E) => {
    const [p] = new Tracer(kernelOf(floor), floor).irradiance(origin, up, [source('s', shape)], { samples: 4096, seed: 3, bounces: 0 });
    expect(lux(p!.direct) / E).toBeCloseTo(1, 2);
  });
  it('a rectangle as a shape gives what the quick rectangle gives', () => {
    const quick = rendered(rectangleLight('s', panel), { bounces: 2 });
    expect(rendered(source('s', { kind: 'rectangle', rectangle: panel, twoSided: false }), { bounces: 2 }) / quick).toBeCloseTo(1, 2);
  });
  it('a picture of the sky gives its own quadrature', () => {
    const rgb = new Float32Array(32 * 16 * 3);
    for (let j = 0; j < 8; j++) for (let i = 0; i < 32; i++) rgb.fill(0.2 + i * 0.05 + j * 0.1, (j * 32 + i) * 3, (j * 32 + i) * 3 + 3);
    const environment = makeEnvironment('e', 32, 16, rgb);
    const light: SceneLight = { id: 'e', key: 'e', kind: 'environment', environment, axes: [[1, 0, 0], up, [0, 0, 1]] };
    for (const bounces of [0, 1])
      expect(rendered(light, { bounces, to: 256 }) / lit(environmentIrradiance(environment, up))).toBeCloseTo(1, 1);
    // a level turn changes nothing on a level floor
    const turned: SceneLight = { ...light, key: 't', axes: [[0, 0, 1], up, [-1, 0, 0]] };
    expect(rendered(turned) / rendered(light)).toBeCloseTo(1, 1);
  });
  it('the TypeScript twin of the kernel agrees', () => {
    expect(rendered(source('s', ball), {}, floor, 0, true) / rendered(source('s', ball))).toBeCloseTo(1, 2);
  });
});

describe('what shapes the light', () => {
  const small: Shape = { kind: 'ball', centre: [1, 2, 0], radius: 0.02 };
  const plain = rendered(source('s', small));
  const cos = 2 / Math.hypot(1, 2);
  const ratio = (optics: Partial<Optics>) => rendered(source('s', small, { ...down([1, 2, 0]), ...optics })) / plain;
  it('a spot, a grid and a range act as their formulas say', () => {
    const spot = { angle: 60 * DEGREE, soft: 0.8 };
    expect(ratio({ spot })).toBeCloseTo(spotShape(spot.angle, spot.soft)(cos), 2);
    expect(ratio({ grid: 100 * DEGREE })).toBeCloseTo(gridPasses(0.5, Math.tan(50 * DEGREE)), 2);
    const range = { near: 0, far: 2.5, soft: 0.4 };
    expect(ratio({ range })).toBeCloseTo(inRange(range, Math.hypot(1, 2)), 2);
  });
  it('a measured luminaire sends its intensity over its peak', () => {
    const profile = { vertical: [0, 90], horizontal: [0], candela: [1000, 100] };
    const angle = Math.acos(cos) / DEGREE;
    expect(ratio({ profile })).toBeCloseTo(1 - 0.9 * (angle / 90), 2);
  });
  it('a flag half as wide as the light’s penumbra stops its density; without a light’s name it stops nothing', () => {
    const flag = {
      kind: 'panel' as const,
      centre: [0.5, 1, 0] as Vec3,
      x: [1, 0, 0] as Vec3,
      y: [0, 0, 1] as Vec3,
      z: up,
      half: [0.4, 0.4, 0] as Vec3,
      density: 0.7,
      soft: 0,
    };
    expect(ratio({ flags: [flag] })).toBeCloseTo(0.3, 2);
    expect(ratio({ flags: [] })).toBeCloseTo(1, 9);
  });
  it('a gobo throws a penumbra by similar triangles: source · (receiver − gobo) / gobo', () => {
    // a half plane of light, straight below: a ball of 0.2 m at 2 m, the edge 0.5 m below it
    const pattern = { width: 512, height: 1, rgb: Float32Array.from({ length: 512 * 3 }, (_, i) => (i < 256 * 3 ? 1 : 0)) };
    const big: Shape = { kind: 'ball', centre: [0, 2, 0], radius: 0.1 };
    const gobo = { distance: 0.5, half: [1, 1] as [number, number], turn: 0, pattern };
    const at = (x: number) =>
      rendered(source('s', big, { ...down([0, 2, 0]), gobo }), { camera: cameraAt([x, 1.2, 0.001], [x, 0, 0], 0.001) }) /
      rendered(source('s', big), { camera: cameraAt([x, 1.2, 0.001], [x, 0, 0], 0.001) });
    const half = (0.1 * 1.5) / 0.5;
    expect(at(0)).toBeCloseTo(0.5, 1);
    expect(at(-half * 1.1)).toBeCloseTo(1, 2);
    expect(at(half * 1.1)).toBeCloseTo(0, 2);
    expect(at(half * 0.6)).toBeGreaterThan(0.05);
  });
});

describe('what the camera and mirrors see', () => {
  const seen: SceneLight = { ...source('s', { kind: 'ball', centre: [0, 0.6, 0], radius: 0.1 }), camera: true };
  it('the source itself at its luminance over what lies behind it, when it is not hidden; its light on the floor never changes', () => {
    expect(rendered(seen, { to: 16 }) - rendered({ ...seen, camera: false }, { to: 16 })).toBeCloseTo(1, 5);
    const aside = { camera: cameraAt([0.8, 1, 0.001], [0.8, 0, 0], 0.002) };
    expect(rendered(seen, aside)).toBe(rendered({ ...seen, camera: false }, aside));
  });
  it('a dome and a sky behind everything', () => {
    const away = { camera: cameraAt([0, 1, 0], [0, 3, 0.01], 0.01), to: 8 };
    expect(rendered({ id: 'd', key: 'd', kind: 'dome', camera: true }, away)).toBeCloseTo(1, 6);
    expect(rendered({ id: 'd', key: 'd', kind: 'dome' }, away)).toBe(0);
    const environment = makeEnvironment('w', 4, 2, new Float32Array(24).fill(3));
    const sky: SceneLight = { id: 'e', key: 'e', kind: 'environment', environment, axes: [[1, 0, 0], up, [0, 0, 1]], camera: true };
    expect(rendered(sky, away)).toBeCloseTo(3, 6);
  });
  it('hidden from mirrors, polished metal shows nothing and rough surfaces keep their highlight', () => {
    const bent = { cast: true, stays: [0, 0, 0] as Vec3, mirror: false };
    const light = source('s', { kind: 'ball', centre: [0, 2.4, 0], radius: 0.3 });
    const metal = (roughness: number) =>
      geometryOf(floorTriangles(5), material({ name: 'metal', base: [0.9, 0.9, 0.9], metallic: 1, roughness }));
    const look = { camera: cameraAt([0, 1.2, 0.001], [0, 0, 0], 0.002), bounces: 1, to: 64 };
    expect(rendered(light, look, metal(0.05), 1)).toBeGreaterThan(0.5);
    expect(rendered({ ...light, bent }, look, metal(0.05), 1)).toBe(0);
    expect(
      rendered({ ...light, bent }, { ...look, to: 256 }, metal(0.5), 1) / rendered(light, { ...look, to: 256 }, metal(0.5), 1),
    ).toBeCloseTo(1, 1);
  });
});

describe('bent shadows', () => {
  const lid: [Vec3, Vec3, Vec3][] = floorTriangles(0.5).map((t) => t.map(([x, , z]) => [x + 0.9, 1, z])) as [Vec3, Vec3, Vec3][];
  const covered = geometryOf([...floorTriangles(20), ...lid], matt(0.5, { specular: 0 }));
  const far: Shape = { kind: 'ball', centre: [2, 2, 0], radius: 0.05 };
  const value = (bent?: SceneLight['bent']) => rendered({ ...source('s', far), ...(bent ? { bent } : {}) }, {}, covered);
  const open = rendered(source('s', far));
  it('take all unless they are bent; density and colour leave their share; without a shadow nothing is taken', () => {
    expect(value()).toBe(0);
    expect(value({ cast: true, stays: [0.3, 0.3, 0.3], mirror: true }) / open).toBeCloseTo(0.3, 3);
    expect(value({ cast: true, stays: [1, 0, 1], mirror: true })).toBe(0);
    expect(value({ cast: false, stays: [0, 0, 0], mirror: true }) / open).toBeCloseTo(1, 6);
  });
});

describe('one object as a source', () => {
  it('shines as a panel of its luminance does', () => {
    const square: [Vec3, Vec3, Vec3][] = [
      [
        [-0.5, 1.5, -0.5],
        [0.5, 1.5, -0.5],
        [0.5, 1.5, 0.5],
      ],
      [
        [-0.5, 1.5, -0.5],
        [0.5, 1.5, 0.5],
        [-0.5, 1.5, 0.5],
      ],
    ];
    const scene = geometryOf([...floorTriangles(5), ...square], matt(0.5, { specular: 0 }));
    scene.objects.push('lamp');
    scene.triangleObject.fill(1, 2);
    const light: SceneLight = { id: 'o', key: 'o', kind: 'object', object: 'lamp' };
    const E = rectangleIrradiance(overhead(1, 1, 1.5), origin, up);
    expect(rendered(light, { to: 512 }, scene) / lit(E)).toBeCloseTo(1, 1);
    expect(rendered({ ...light, object: 'nobody' }, {}, scene)).toBe(0);
  });
});
