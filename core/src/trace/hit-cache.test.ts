import { readFileSync } from 'node:fs';
import { attachKernel, buildAccel, compileKernel } from '@plinket/kernel';
import { describe, expect, it } from '@jest/globals';
import type { SceneGeometry, SceneLight } from '../scene/index.ts';
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
} from '../testing/scenes.ts';
import { Tracer, type TraceJob } from './index.ts';

const module = compileKernel(readFileSync(new URL('../../../kernel/build/kernel.wasm', import.meta.url)))!;
const geometry = roundNormals(geometryOf(sphereTriangles(0.5, 24), matt(0.6, { roughness: 0.4 })));
const key = rectangleLight('key', overhead(0.5, 0.5, 1.5, [1, 0])),
  rim = rectangleLight('rim', overhead(0.3, 1, 2, [-1, -1]));
const make = (g: SceneGeometry = geometry) => new Tracer(attachKernel(module, buildAccel(module, g.mesh)), g);
const job = (lights: SceneLight[], more: Partial<TraceJob> = {}): TraceJob => ({
  camera: cameraAt([0.5, 1, 3], [0, 0, 0], 0.2),
  width: 16,
  height: 16,
  tile: { x: 0, y: 0, width: 16, height: 16 },
  from: 0,
  to: 4,
  seed: 1,
  bounces: 3,
  lights,
  ...more,
});
const same = (a: Float32Array, b: Float32Array) => Buffer.from(a.buffer).equals(Buffer.from(b.buffer));

describe('what the walk met is remembered', () => {
  it('a light traced again walks no ray, and comes out the same as from nothing', () => {
    const tracer = make();
    expect(tracer.trace(job([key])).rays.walk).toBeGreaterThan(0);
    const again = tracer.trace(job([rim]));
    expect(again.rays.walk).toBe(0);
    expect(again.rays.shadow).toBeGreaterThan(0);
    expect(same(again.films, make().trace(job([rim])).films)).toBe(true);
  });
  it('also where a dome had the last vertex followed further', () => {
    const tracer = make();
    tracer.trace(job([key, dome]));
    const again = tracer.trace(job([rim]));
    expect(again.rays.walk).toBe(0);
    expect(same(again.films, make().trace(job([rim])).films)).toBe(true);
    // the other way round the dome needs more than is remembered
    const other = make();
    other.trace(job([key]));
    const lit = other.trace(job([dome]));
    expect(lit.rays.walk).toBeGreaterThan(0);
    expect(same(lit.films, make().trace(job([dome])).films)).toBe(true);
  });
  it('of a walk that ended early, since nothing was to be lit, as far as it went', () => {
    const open: SceneLight = { id: 'open', key: 'open 0.5', kind: 'openness', reach: 0.5 };
    const tracer = make();
    tracer.trace(job([open]));
    for (const light of [key, dome]) {
      const fresh = make().trace(job([light]));
      expect(same(tracer.trace(job([light])).films, fresh.films)).toBe(true);
    }
    expect(tracer.trace(job([rim])).rays.walk).toBe(0);
  });
  it.each<[string, Partial<TraceJob>]>([
    ['haze', { haze: { density: 0.3, anisotropy: 0 } }],
    ['camera', { camera: { ...cameraAt([0.5, 1, 2], [0, 0, 0], 0.2), key: 'nearer' } }],
    ['seed', { seed: 2 }],
    ['number of bounces', { bounces: 1 }],
    ['tile', { tile: { x: 0, y: 0, width: 8, height: 16 } }],
    ['sample', { from: 4, to: 6 }],
  ])('another %s is walked', (_name, more) => {
    const tracer = make();
    tracer.trace(job([key]));
    const other = tracer.trace(job([key], more));
    expect(other.rays.walk).toBeGreaterThan(0);
    expect(same(other.films, make().trace(job([key], more)).films)).toBe(true);
  });
  it('only for the first samples, since memory has an end', () => {
    const tracer = make();
    tracer.trace(job([key], { from: 8, to: 10 }));
    expect(tracer.trace(job([key], { from: 8, to: 10 })).rays.walk).toBeGreaterThan(0);
  });
  it('with skin, whose probes are remembered too', () => {
    const skin = roundNormals(geometryOf(sphereTriangles(0.5, 24), matt(0.7, { subsurface: 1, freePath: [0.02, 0.01, 0.005] })));
    const tracer = make(skin);
    tracer.trace(job([key]));
    const again = tracer.trace(job([rim]));
    expect(again.rays.walk).toBe(0);
    expect(same(again.films, make(skin).trace(job([rim])).films)).toBe(true);
  });
});

describe('the kernel’s shading and its plain twin', () => {
  /** The same geometry without what the kernel needs to shade. */
  const unshaded = (g: SceneGeometry): SceneGeometry => {
    const { shading: _, ...mesh } = g.mesh;
    return { ...g, mesh };
  };
  const sum = (films: Float32Array, from: number, to: number) => films.subarray(from, to).reduce((s, v) => s + v, 0);

  it.each([
    ['matt', matt(0.7, { roughness: 1 })],
    ['glossy', matt(0.4, { roughness: 0.3 })],
    ['metal', matt(0.9, { metallic: 1, roughness: 0.2 })],
    ['mirror', matt(0.9, { metallic: 1, roughness: 0.02 })],
  ])('agree on %s, layer by layer, within two percent', (_name, surface) => {
    const g = roundNormals(geometryOf(sphereTriangles(0.5, 32), surface));
    const floor = floorTriangles(4).map((t) => t.map(([x, y, z]) => [x, y - 0.5, z])) as ReturnType<typeof floorTriangles>;
    const both = geometryOf([...sphereTriangles(0.5, 32), ...floor], surface);
    for (const geometry of [g, both]) {
      const wide = job([key, rim, dome], { to: 512 });
      const a = make(geometry).trace(wide),
        b = make(unshaded(geometry)).trace(wide);
      const plane = 16 * 16 * 3;
      for (let k = 0; k < 6; k++) {
        const [x, y] = [a, b].map((r) => sum(r.films, k * plane, (k + 1) * plane));
        if (y! < 1) expect(Math.abs(x! - y!)).toBeLessThan(0.5);
        else expect(Math.abs(x! / y! - 1)).toBeLessThan(0.02);
      }
      expect(Math.abs(a.rays.walk / b.rays.walk - 1)).toBeLessThan(0.01);
    }
  });
  it('agree on the squares of samples', () => {
    const a = make().trace(job([key], { to: 32 })).squares,
      b = make(unshaded(geometry)).trace(job([key], { to: 32 })).squares;
    const total = (s: Float32Array) => s.reduce((x, v) => x + v, 0);
    expect(total(a) / total(b)).toBeCloseTo(1, 1);
  });
  it('films that find no room there are traced by the twin', () => {
    const many = Array.from({ length: 300 }, (_, i) => rectangleLight(`l${i}`, overhead(0.5, 0.5, 1.5, [i / 100 - 1, 0])));
    const r = make().trace(job(many, { to: 1, bounces: 0 }));
    const one = make().trace(job([many[299]!], { to: 1, bounces: 0 }));
    const size = 16 * 16 * 6;
    expect(sum(r.films, 299 * size, 300 * size) / sum(one.films, 0, size)).toBeCloseTo(1, 2);
  });
});
