// Light against what is known about it without a renderer, and scenes that mean harm.
import { readFileSync } from 'node:fs';
import { attachKernel, buildAccel, compileKernel } from '@plinket/kernel';
import { describe, expect, it } from '@jest/globals';
import { rectangleIrradiance } from '../light/index.ts';
import type { Vec3 } from '../math/index.ts';
import { compileCamera, type SceneGeometry, type SceneLight } from '../scene/index.ts';
import { sampleTexture, texel, type Material } from '../surface/index.ts';
import {
  cameraAt,
  dome,
  floorTriangles,
  geometryOf,
  matt,
  overhead,
  rectangleLight,
  roundNormals,
  sphereTriangles,
  lux,
} from '../testing/scenes.ts';
import { setupWith } from '../testing/setups.ts';
import { Tracer, type TraceJob } from './index.ts';

const module = compileKernel(readFileSync(new URL('../../../kernel/build/kernel.wasm', import.meta.url)))!;
const tracerOf = (g: SceneGeometry) => new Tracer(attachKernel(module, buildAccel(module, g.mesh)), g);
const SIZE = 24;
const job = (lights: SceneLight[], more: Partial<TraceJob> = {}): TraceJob => ({
  camera: cameraAt([0, 0, 4], [0, 0, 0], 0.2),
  width: SIZE,
  height: SIZE,
  tile: { x: 0, y: 0, width: SIZE, height: SIZE },
  from: 0,
  to: 64,
  seed: 1,
  bounces: 3,
  lights,
  ...more,
});
/** Luminance of both layers of a light's film, pixel by pixel, per sample. */
function picture(g: SceneGeometry, lights: SceneLight[], more: Partial<TraceJob> = {}, light = 0): number[] {
  const { films } = tracerOf(g).trace(job(lights, more));
  const n = SIZE * SIZE,
    samples = (more.to ?? 64) - (more.from ?? 0);
  return Array.from({ length: n }, (_, i) => {
    const d = light * n * 6 + i * 3,
      s = d + n * 3;
    const y = (o: number) => 0.2126 * films[o]! + 0.7152 * films[o + 1]! + 0.0722 * films[o + 2]!;
    return (y(d) + y(s)) / samples;
  });
}
const mean = (values: number[]) => values.reduce((a, b) => a + b, 0) / values.length;
const ball = (surface: Material, steps = 32) => roundNormals(geometryOf(sphereTriangles(0.5, steps), surface));

describe('a white furnace', () => {
  // In even light of luminance 1 a convex body that takes nothing cannot be told from its surroundings, whatever its surface.
  const surfaces: [string, Material][] = [
    ['matt, rough', matt(1)],
    ['white plastic, 0.5', matt(1, { roughness: 0.5 })],
    ['white plastic, 0.2', matt(1, { roughness: 0.2 })],
    ['metal, 0.1', matt(1, { metallic: 1, roughness: 0.1 })],
    ['metal, 0.5', matt(1, { metallic: 1, roughness: 0.5 })],
    ['metal, 0.9', matt(1, { metallic: 1, roughness: 0.9 })],
    ['half metal', matt(1, { metallic: 0.5, roughness: 0.4 })],
    ['a clear coat over white', matt(1, { roughness: 0.8, coat: 1, coatRoughness: 0.2 })],
    ['white fibres', matt(1, { roughness: 1, specular: 0, fibres: 0.5 })],
    ['white marble, all of it going in', matt(0.99, { specular: 0, subsurface: 1, freePath: [0.01, 0.01, 0.01] })],
  ];
  it.each(surfaces)('%s gives back what comes: within two percent of all', (_name, surface) => {
    const pixels = picture(ball(surface), [dome], { camera: cameraAt([0, 0, 4], [0, 0, 0], 0.07), to: 256, bounces: 12 });
    const all = mean(pixels);
    expect(all).toBeGreaterThan(0.98);
    expect(all).toBeLessThan(1.02);
  });
  it('and one that takes half gives back half of what enters it', () => {
    const grey = mean(
      picture(ball(matt(0.5, { specular: 0 })), [dome], { camera: cameraAt([0, 0, 4], [0, 0, 0], 0.07), to: 128, bounces: 4 }),
    );
    expect(grey).toBeCloseTo(0.5, 2);
  });
});

describe('the error of a picture', () => {
  it('falls at least as 1 / √N: sixteen times the samples, a quarter of it or less', () => {
    const floor = geometryOf(floorTriangles(3), matt(0.6));
    const lights = [rectangleLight('key', overhead(1.5, 0.4, 0.6, [0.5, 0]))];
    const view = { camera: cameraAt([0, 3, 2], [0, 0, 0], 0.3), bounces: 0 };
    const truth = picture(floor, lights, { ...view, from: 100, to: 1124 });
    const error = (n: number) => Math.sqrt(mean(picture(floor, lights, { ...view, to: n }).map((v, i) => (v - truth[i]!) ** 2)));
    const few = error(4),
      many = error(64);
    expect(few).toBeGreaterThan(0);
    expect(few / many).toBeGreaterThan(3.8);
  });
});

describe('the penumbra of a panel behind an edge', () => {
  it('is as wide as similar triangles say: source · (edge to floor) / (source to edge)', () => {
    // a wall's upper edge at x ≤ 0, 1 m over the floor; the panel 0.4 m wide, 3 m over the floor
    const edge: [Vec3, Vec3, Vec3][] = [
      [
        [-6, 1, -6],
        [0, 1, -6],
        [0, 1, 6],
      ],
      [
        [-6, 1, -6],
        [0, 1, 6],
        [-6, 1, 6],
      ],
    ];
    const tracer = tracerOf(geometryOf([...floorTriangles(8), ...edge], matt(0.5)));
    const panel = overhead(0.4, 0.4, 3);
    const seen = (x: number) => {
      const [r] = tracer.irradiance([x, 0, 0], [0, 1, 0], [rectangleLight('key', panel)], { samples: 4096, seed: 2, bounces: 0 });
      return lux(r!.direct) / rectangleIrradiance(panel, [x, 0, 0], [0, 1, 0]);
    };
    // the shadow's edge runs from where the panel's far side appears to where all of it does: 0.4 · 1 / 2 wide, about x = 0
    const width = (0.4 * 1) / 2;
    expect(seen(-width / 2 - 0.005)).toBe(0);
    expect(seen(width / 2 + 0.005)).toBeCloseTo(1, 2);
    expect(seen(0)).toBeCloseTo(0.5, 1);
    expect(seen(-width / 4)).toBeCloseTo(0.25, 1);
    expect(seen(width / 4)).toBeCloseTo(0.75, 1);
    expect(seen(-width / 2 + 0.01)).toBeGreaterThan(0);
    expect(seen(width / 2 - 0.01)).toBeLessThan(0.995);
  });
});

describe('scenes that mean harm', () => {
  const key = rectangleLight('key', overhead(0.6, 0.6, 1.5, [0.6, 0.8]));
  const finite = (values: number[]) => values.every((v) => Number.isFinite(v) && v >= 0);

  it('one triangle is a scene', () => {
    const one = geometryOf(floorTriangles(1).slice(0, 1), matt(0.5));
    const pixels = picture(one, [key], { camera: cameraAt([0, 2, 2], [0, 0, 0], 0.3), to: 4 });
    expect(finite(pixels)).toBe(true);
    expect(mean(pixels)).toBeGreaterThan(0);
  });
  it('no triangle is one too: what is behind shows, nothing else', () => {
    const none = geometryOf([], matt(0.5));
    expect(mean(picture(none, [key, dome], { to: 2 }))).toBe(0);
    expect(picture(none, [key, dome], { to: 2 }, 1).every(Number.isFinite)).toBe(true);
  });
  it('triangles without area take no light and spoil none', () => {
    const flat: [Vec3, Vec3, Vec3] = [
      [0, 0.1, 0],
      [0.5, 0.1, 0],
      [1, 0.1, 0],
    ];
    const floor = floorTriangles(1),
      view = { camera: cameraAt([0, 2, 2], [0, 0, 0], 0.3), to: 8 };
    const plain = picture(geometryOf(floor, matt(0.5)), [key], view);
    const spoiled = picture(geometryOf([...floor, flat, [flat[0], flat[0], flat[0]]], matt(0.5)), [key], view);
    expect(finite(spoiled)).toBe(true);
    expect(mean(spoiled) / mean(plain)).toBeCloseTo(1, 3);
  });
  it('a mesh that is inside out, or that has no normals, is lit as the other', () => {
    const view = { to: 32, bounces: 1 };
    const right = picture(geometryOf(sphereTriangles(0.5, 24), matt(0.6)), [key], view);
    const turned = picture(geometryOf(sphereTriangles(0.5, 24, true), matt(0.6)), [key], view);
    const bare = geometryOf(sphereTriangles(0.5, 24), matt(0.6));
    bare.normals.fill(0);
    bare.mesh.shading!.normals.fill(0);
    expect(mean(turned) / mean(right)).toBeCloseTo(1, 2);
    const none = picture(bare, [key], view);
    expect(finite(none)).toBe(true);
    expect(mean(none) / mean(right)).toBeCloseTo(1, 1);
  });
  it('an edge that three surfaces share stops light once', () => {
    const fin: [Vec3, Vec3, Vec3][] = [
      [
        [0, 0, -1],
        [0, 0, 1],
        [0, 0.5, 1],
      ],
    ];
    const pixels = picture(geometryOf([...floorTriangles(1), ...fin], matt(0.5)), [key], {
      camera: cameraAt([1, 2, 2], [0, 0, 0], 0.3),
      to: 8,
    });
    expect(finite(pixels)).toBe(true);
    expect(mean(pixels)).toBeGreaterThan(0);
  });
  it('a light inside a wall lights nothing outside it', () => {
    const walled = geometryOf(
      [...sphereTriangles(0.5, 16), ...floorTriangles(2).map((t) => t.map(([x, y, z]) => [x, y - 1, z]) as typeof t)],
      matt(0.5),
    );
    const inside = rectangleLight('in', { corner: [-0.1, 0, -0.1], ex: [0.2, 0, 0], ey: [0, 0, 0.2] });
    // both sides of the wall are looked at from outside: nothing leaks through it
    expect(mean(picture(walled, [inside], { to: 16 }))).toBeLessThan(1e-6);
  });
  it('a light that lies in a surface, and a point in the plane of a light, give numbers', () => {
    const floor = geometryOf(floorTriangles(1), matt(0.5, { roughness: 0.1 }));
    const lying = rectangleLight('flat', { corner: [-0.2, 0, -0.2], ex: [0.4, 0, 0], ey: [0, 0, -0.4] });
    expect(finite(picture(floor, [lying], { camera: cameraAt([0, 2, 2], [0, 0, 0], 0.3), to: 16 }))).toBe(true);
    const [r] = tracerOf(floor).irradiance([0.5, 0, 0], [0, 1, 0], [lying], { samples: 64, seed: 1, bounces: 1 });
    expect(lux(r!.direct)).toBe(0);
  });
  it('albedo 1 in a closed room ends: the bounces do', () => {
    const room = geometryOf(sphereTriangles(2, 16, true), matt(1, { specular: 0 }));
    const pixels = picture(room, [rectangleLight('lamp', overhead(0.5, 0.5, 1))], {
      camera: cameraAt([0, 0, 1], [0, 0, 0], 0.4),
      to: 4,
      bounces: 24,
    });
    expect(finite(pixels)).toBe(true);
    expect(mean(pixels)).toBeGreaterThan(0);
  });
  it.each([0, 1e-9, 1])('roughness %f gives numbers, and as much light', (roughness) => {
    const pixels = picture(ball(matt(1, { metallic: 1, roughness })), [dome], { camera: cameraAt([0, 0, 4], [0, 0, 0], 0.07), to: 16 });
    expect(finite(pixels)).toBe(true);
    expect(mean(pixels)).toBeGreaterThan(0.97);
  });
  it('an f-stop of 0 is a pinhole: all is sharp', () => {
    const setup = setupWith();
    const { lens: none } = compileCamera({ ...setup, camera: { ...setup.camera, lens: { fNumber: 0, focus: 2 } } });
    expect(none).toBeUndefined();
    const { lens } = compileCamera({ ...setup, camera: { ...setup.camera, focal: 50, lens: { fNumber: 2, focus: 2 } } });
    expect(lens!.radius).toBeCloseTo((0.0125 * 2) / (2 - 0.05), 9);
  });
  it('a texture’s place that is no number is a colour all the same', () => {
    const use = {
      texture: { width: 2, height: 1, data: Uint8Array.from([255, 0, 0, 255, 0, 255, 0, 255]) },
      transform: [1, 0, 0, 0, 1, 0],
      wrapU: 'repeat',
      wrapV: 'clamp',
    } as unknown as Parameters<typeof sampleTexture>[0];
    for (const [u, v] of [
      [NaN, 0.5],
      [0.25, NaN],
      [Infinity, -Infinity],
      [1e30, 0],
    ] as const) {
      sampleTexture(use, u, v, true);
      expect([...texel].every((x) => Number.isFinite(x) && x >= 0 && x <= 1)).toBe(true);
    }
  });
});
