import { readFileSync } from 'node:fs';
import { attachKernel, buildAccel, compileKernel } from '@plinket/kernel';
import { describe, expect, it } from '@jest/globals';
import { rectangleIrradiance } from '../light/index.ts';
import { ggxG1, ggxV, roughnessToAlpha, schlick } from '../surface/index.ts';
import {
  cameraAt,
  dome,
  floorTriangles,
  geometryOf,
  matt,
  overhead,
  plainTracer,
  rectangleLight,
  roundNormals,
  sphereTriangles,
  lux,
} from '../testing/scenes.ts';
import type { SceneGeometry, SceneLight } from '../scene/index.ts';
import { MAX_TILE_PIXELS, Tracer, type TraceJob } from './index.ts';

const module = compileKernel(readFileSync(new URL('../../../kernel/build/kernel.wasm', import.meta.url)))!;
const tracerOf = (geometry: SceneGeometry) => new Tracer(attachKernel(module, buildAccel(module, geometry.mesh)), geometry);

const camera = cameraAt([0, 2, 0.001], [0, 0, 0], 0.02);
const job = (lights: SceneLight[], more: Partial<TraceJob> = {}): TraceJob => ({
  camera,
  width: 8,
  height: 8,
  tile: { x: 0, y: 0, width: 8, height: 8 },
  from: 0,
  to: 64,
  seed: 1,
  bounces: 0,
  lights,
  ...more,
});
/** Floats of a pixel without haze: two layers. */
const CHANNELS = 6;
/** Mean of one channel of one light's film. */
const mean = (films: Float32Array, light: number, channel: number, pixels = 64, samples = 64) => {
  let sum = 0;
  // two planes for each light: diffuse r g b, then specular r g b
  const plane = light * pixels * CHANNELS + (channel < 3 ? 0 : pixels * 3) + (channel % 3);
  for (let i = 0; i < pixels; i++) sum += films[plane + i * 3]!;
  return sum / pixels / samples;
};

describe('direct light on a matt floor', () => {
  const albedo = 0.5;
  const tracer = tracerOf(geometryOf(floorTriangles(5), matt(albedo, { specular: 0 })));
  it('is albedo / π times the closed-form irradiance', () => {
    const rect = overhead(1, 1, 1);
    const { films } = tracer.trace(job([rectangleLight('key', rect)], { to: 256 }));
    const E = rectangleIrradiance(rect, [0, 0, 0], [0, 1, 0]);
    const D = mean(films, 0, 0, 64, 256);
    expect(D / ((albedo / Math.PI) * E)).toBeCloseTo(1, 2);
  });
  it('is measured by the probe as the published factors say: 0.23945647 π for a unit square at 1', () => {
    const [r] = tracer.irradiance([0, 0, 0], [0, 1, 0], [rectangleLight('key', overhead(1, 1, 1))], { samples: 4096, seed: 3, bounces: 0 });
    expect(lux(r!.direct) / Math.PI).toBeCloseTo(0.23945647, 4);
    const [corner] = tracer.irradiance([0, 0, 0], [0, 1, 0], [rectangleLight('key', overhead(1, 1, 1, [0.5, 0.5]))], {
      samples: 4096,
      seed: 3,
      bounces: 0,
    });
    expect(lux(corner!.direct) / Math.PI).toBeCloseTo(0.13853161, 4);
  });
  it('is π for a uniform dome of luminance 1', () => {
    const [r] = tracer.irradiance([0, 0, 0], [0, 1, 0], [dome], { samples: 2048, seed: 3, bounces: 0 });
    expect(lux(r!.direct)).toBeCloseTo(Math.PI, 6);
  });
  it('falls in error as samples grow', () => {
    const rect = overhead(3, 0.2, 0.5, [1, 1]);
    const E = rectangleIrradiance(rect, [0, 0, 0], [0, 1, 0]);
    const error = (samples: number) => {
      let sum = 0;
      for (let seed = 1; seed <= 24; seed++) {
        const [r] = tracer.irradiance([0, 0, 0], [0, 1, 0], [rectangleLight('key', rect)], { samples, seed, bounces: 0 });
        sum += (lux(r!.direct) - E) ** 2;
      }
      return Math.sqrt(sum / 24);
    };
    // better than 1/√N, which would be 4, since the points are spread
    expect(error(16) / error(256)).toBeGreaterThan(4);
  });
});

describe('light inside closed forms', () => {
  it('in a white sphere of constant radiosity: E = ρ/(1−ρ) of the direct light, bounce by bounce', () => {
    // a sphere sends equal light to all of itself: with B bounces the indirect part is E0 (ρ + ρ² … ρ^B), E0 its mean
    const rho = 0.5;
    const tracer = tracerOf(roundNormals(geometryOf(sphereTriangles(1, 48, true), matt(rho, { specular: 0 }))));
    const small = {
      corner: [-0.05, 0, -0.05] as [number, number, number],
      ex: [0.1, 0, 0] as [number, number, number],
      ey: [0, 0, 0.1] as [number, number, number],
    };
    const light = rectangleLight('key', small);
    const at = (bounces: number) => tracer.irradiance([0, 0.999, 0], [0, -1, 0], [light], { samples: 8192, seed: 5, bounces })[0]!;
    // flux of the panel over the sphere's area is the mean direct irradiance
    const e0 = (Math.PI * 0.01) / (4 * Math.PI);
    const one = lux(at(1).total) - lux(at(1).direct);
    const two = lux(at(2).total) - lux(at(2).direct);
    expect(one / (e0 * rho)).toBeCloseTo(1, 1);
    expect(Math.abs(one / (e0 * rho) - 1)).toBeLessThan(0.03);
    expect(Math.abs((two - one) / one / rho - 1)).toBeLessThan(0.03);
  });

  // energy compensated (Turquin 2019; Kulla, Conty 2017): at most 1, and less than 2 % lost, whatever the roughness
  it.each([
    ['matt', { roughness: 1 }],
    ['half rough', { roughness: 0.5 }],
    ['smooth', { roughness: 0.1 }],
    ['rough metal', { roughness: 0.9, metallic: 1 }],
    ['metal', { roughness: 0.5, metallic: 1 }],
    ['coated', { roughness: 0.7, coat: 1, coatRoughness: 0.2 }],
  ])('a white furnace keeps its energy: %s', (_name, more) => {
    const tracer = tracerOf(roundNormals(geometryOf(sphereTriangles(0.5, 32), matt(1, more))));
    const { films } = tracer.trace(job([dome], { camera: cameraAt([0, 0, 3], [0, 0, 0], 0.1), bounces: 4, to: 256 }));
    for (let c = 0; c < 3; c++) {
      const sum = mean(films, 0, c, 64, 256) + mean(films, 0, c + 3, 64, 256);
      expect(sum).toBeLessThan(1.01);
      expect(sum).toBeGreaterThan(0.98);
    }
  });
});

describe('multiple importance sampling', () => {
  it('gives what the rectangle formula for a mirror-like floor gives: F times the light’s own luminance', () => {
    const tracer = tracerOf(geometryOf(floorTriangles(5), matt(0, { roughness: 0.05 })));
    const { films } = tracer.trace(job([rectangleLight('key', overhead(4, 4, 1))], { bounces: 1, to: 128 }));
    const a = roughnessToAlpha(0.05);
    const expected = schlick(0.04, 1) * ggxV(1, 1, a) * 4 * (1 / ggxG1(1, a));
    expect(mean(films, 0, 3, 64, 128)).toBeCloseTo(expected, 3);
  });
});

describe('one walk, many films', () => {
  const geometry = roundNormals(geometryOf([...sphereTriangles(0.5, 24)], matt(0.6, { roughness: 0.4 })));
  const view = cameraAt([0.5, 1, 3], [0, 0, 0], 0.2);
  const lights = [rectangleLight('key', overhead(0.5, 0.5, 1.5, [1, 0])), rectangleLight('fill', overhead(1, 1, 2, [-1, 1])), dome];
  const shot = (wanted: SceneLight[], more: Partial<TraceJob> = {}) =>
    tracerOf(geometry).trace(job(wanted, { camera: view, bounces: 3, to: 8, ...more }));
  const size = 64 * CHANNELS;

  it('the retrace of one light is the same bytes as its film among all', () => {
    const all = shot(lights).films;
    lights.forEach((light, i) =>
      expect(Buffer.from(shot([light]).films.buffer).equals(Buffer.from(all.slice(i * size, (i + 1) * size).buffer))).toBe(true),
    );
  });
  it('light adds up: the two halves of a panel give what the whole gives', () => {
    const { corner, ex, ey } = overhead(0.5, 0.5, 1.5, [1, 0]);
    const half: [number, number, number] = [ex[0] / 2, 0, 0];
    const parts = [
      rectangleLight('a', { corner, ex: half, ey }),
      rectangleLight('b', { corner: [corner[0] + half[0], corner[1], corner[2]], ex: half, ey }),
    ];
    const to = 2048;
    const films = shot([lights[0]!, ...parts], { to }).films;
    // the highlight covers few pixels, so its share is noisier than the diffuse one
    for (const [channel, digits] of [
      [0, 2],
      [3, 1],
    ] as const)
      expect((mean(films, 1, channel, 64, to) + mean(films, 2, channel, 64, to)) / mean(films, 0, channel, 64, to)).toBeCloseTo(1, digits);
  });
  it('needs no SIMD: the plain twin traces the same picture within noise', () => {
    const plain = plainTracer(geometry).trace(job([lights[0]!], { camera: view, bounces: 1, to: 16 })).films;
    const simd = shot([lights[0]!], { bounces: 1, to: 16 }).films;
    expect(mean(plain, 0, 0) / mean(simd, 0, 0)).toBeCloseTo(1, 3);
  });
  it('same seed, same bytes; another seed, others', () => {
    expect(shot(lights).films).toEqual(shot(lights).films);
    expect(shot(lights).films).not.toEqual(shot(lights, { seed: 2 }).films);
  });
  it('tiles and passes add up to the whole', () => {
    const whole = shot([lights[0]!]).films;
    const left = shot([lights[0]!], { tile: { x: 0, y: 0, width: 4, height: 8 } }).films;
    for (let plane = 0; plane < 2; plane++)
      for (let y = 0; y < 8; y++) {
        const l = plane * 32 * 3 + y * 4 * 3,
          w = plane * 64 * 3 + y * 8 * 3;
        expect(left.slice(l, l + 12)).toEqual(whole.slice(w, w + 12));
      }
    const a = shot([lights[0]!], { to: 4 }).films,
      b = shot([lights[0]!], { from: 4, to: 8 }).films;
    a.forEach((v, i) => expect(v + b[i]!).toBeCloseTo(whole[i]!, 4));
  });
  it('variance falls as samples grow', () => {
    const spread = (to: number) => {
      const values = [1, 2, 3, 4, 5, 6, 7, 8].map((seed) => mean(shot([lights[0]!], { to, seed }).films, 0, 0, 64, to));
      const m = values.reduce((s, v) => s + v) / values.length;
      return values.reduce((s, v) => s + (v - m) ** 2, 0);
    };
    expect(spread(1) / spread(16)).toBeGreaterThan(6);
  });
  it('counts its rays: a dome needs no shadow ray', () => {
    expect(shot([dome]).rays.shadow).toBe(0);
    expect(shot([lights[0]!]).rays.shadow).toBeGreaterThan(0);
  });
  it('refuses a tile that does not fit', () => {
    expect(() => shot([dome], { tile: { x: 0, y: 0, width: 100, height: 100 }, width: 100, height: 100 })).toThrow(
      `more than ${MAX_TILE_PIXELS}`,
    );
  });
});

describe('a clear coat', () => {
  it('lets the light through to what lies below and adds its own highlight', () => {
    const floor = floorTriangles(5);
    const raised = floorTriangles(5).map((t) => t.map(([x, y, z]) => [x, y + 0.01, z])) as typeof floor;
    const geometry = geometryOf([...floor, ...raised], matt(0.5));
    geometry.materials.push(matt(1, { transmission: 1, roughness: 0.05 }));
    geometry.triangleMaterial.set([1, 1], 2);
    geometry.mesh.clearFrom = 2;
    const light = rectangleLight('key', overhead(0.4, 0.4, 1.2, [0.8, 0]));
    const bare = tracerOf(geometryOf(floor, matt(0.5))).trace(job([light], { bounces: 1, to: 256 })).films;
    const coated = tracerOf(geometry).trace(job([light], { bounces: 1, to: 256 })).films;
    const ratio = mean(coated, 0, 0, 64, 256) / mean(bare, 0, 0, 64, 256);
    expect(ratio).toBeGreaterThan(0.93);
    expect(ratio).toBeLessThan(1.0);
  });
});
