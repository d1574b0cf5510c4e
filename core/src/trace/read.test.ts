import { readFileSync } from 'node:fs';
import { attachKernel, buildAccel, compileKernel, plainKernel } from '@plinket/kernel';
import { describe, expect, it } from '@jest/globals';
import { rectangleIrradiance } from '../light/index.ts';
import type { Vec3 } from '../math/index.ts';
import { compile, type SceneGeometry, type SceneLight } from '../scene/index.ts';
import { ball, glowing, spot, sun } from '../setup/index.ts';
import { dome, floorTriangles, geometryOf, matt, overhead, rectangleLight } from '../testing/scenes.ts';
import { panelLight, setupWith } from '../testing/setups.ts';
import { Tracer, type ReadJob } from './index.ts';

const module = compileKernel(readFileSync(new URL('../../../kernel/build/kernel.wasm', import.meta.url)))!;
const tracerOf = (geometry: SceneGeometry) => new Tracer(attachKernel(module, buildAccel(module, geometry.mesh)), geometry);
const up = (count: number) => Float32Array.from({ length: count * 3 }, (_, i) => (i % 3 === 1 ? 1 : 0));
const job = (lights: SceneLight[], points: number[], more: Partial<ReadJob> = {}): ReadJob => ({
  points: Float32Array.from(points),
  normals: up(points.length / 3),
  lights,
  samples: 256,
  seed: 1,
  ...more,
});

/** A level square at a height. */
const sheet = (half: number, y: number) => floorTriangles(half).map((t) => t.map(([x, , z]) => [x, y, z] as Vec3) as [Vec3, Vec3, Vec3]);

describe('reading direct light', () => {
  const floor = geometryOf(floorTriangles(5), matt(0.5));
  const panel = overhead(0.4, 0.3, 1.2);
  const key = rectangleLight('key', panel);

  it('agrees with the closed form for a panel (Lambert’s formula), nothing in the way', () => {
    const points = [0, 0, 0, 0.6, 0, 0.2, -1.5, 0, 1];
    const { open, lit, blockers } = tracerOf(floor).read(job([key], points, { samples: 1024 }));
    for (let p = 0; p < 3; p++) {
      const at = [points[p * 3]!, 0, points[p * 3 + 2]!] as [number, number, number];
      expect(open[p * 3]! / rectangleIrradiance(panel, at, [0, 1, 0])).toBeCloseTo(1, 2);
      expect(lit[p * 3]).toBe(open[p * 3]);
      expect(blockers[p]).toBe(-1);
    }
  });
  it('an even dome gives a free floor π, and through haze nothing from so far', () => {
    const { lit } = tracerOf(floor).read(job([dome], [0, 0, 0]));
    expect(lit[0]).toBeCloseTo(Math.PI, 4);
    expect(tracerOf(floor).read(job([dome], [0, 0, 0], { haze: 0.5 })).lit[0]!).toBeLessThan(1e-6);
    const dimmed = tracerOf(floor).read(job([key], [0, 0, 0], { haze: 0.5 })).lit[0]!;
    const clear = tracerOf(floor).read(job([key], [0, 0, 0])).lit[0]!;
    expect(dimmed / clear).toBeGreaterThan(Math.exp(-0.5 * 1.25));
    expect(dimmed / clear).toBeLessThan(Math.exp(-0.5 * 1.2));
  });
  it('every kind of light gives what the receiver’s own rays say it does', () => {
    const setup = setupWith({
      key: panelLight(),
      spot: spot({ place: { azimuth: -30, elevation: 60, distance: 2, aim: [0, 0, 0] }, angle: 60 }),
      ball: ball({ place: { azimuth: 90, elevation: 40, distance: 1.5, aim: [0, 0, 0] } }),
      sun: sun({ elevation: 60, bearing: 0 }),
      lamp: glowing('props/lamp'),
    });
    const lamp = {
      kind: 'ball' as const,
      rank: 'a0',
      finish: 'grey' as const,
      name: 'L',
      visible: true,
      radius: 0.1,
      position: [0.8, 1, 0.4],
    };
    const scene = compile({ ...setup, props: { items: { lamp } } } as typeof setup, () => undefined);
    const tracer = tracerOf(scene.geometry);
    const at: [number, number, number] = [0.1, 0.001, 0.3];
    const read = tracer.read(job(scene.lights, at, { samples: 4096 }));
    const alone = tracer.irradiance(at, [0, 1, 0], scene.lights, { samples: 4096, seed: 3, bounces: 0 });
    scene.lights.forEach((light, l) => {
      expect(alone[l]!.direct[0]).toBeGreaterThan(0);
      expect([light.id, read.lit[l * 3]! / alone[l]!.direct[0]]).toEqual([light.id, expect.closeTo(1, 1)]);
    });
  });
  it('says what takes the light away: the object, also behind what is clear', () => {
    const blocked = setupWith({ key: panelLight({ place: { azimuth: 0, elevation: 90, distance: 1.4, aim: [0, 0, 0] } }) });
    const props = {
      drum: { kind: 'ball', rank: 'a0', finish: 'grey', name: 'Drum', visible: true, radius: 0.4, position: [0, 1, 0] },
    };
    const scene = compile({ ...blocked, props: { items: props } } as unknown as typeof blocked, () => undefined);
    const read = tracerOf(scene.geometry).read(job(scene.lights, [0, 0.001, 0, 1.8, 0.001, 0.5]));
    expect(scene.geometry.objects[read.blockers[0]!]).toBe('props/drum');
    expect(read.lit[0]!).toBeLessThan(read.open[0]! * 0.05);
    expect(read.blockers[1]).toBe(-1);
    // a pane before the drum changes nothing: it lets light pass, and is not what is in the way
    const geometry = geometryOf([...sheet(0.5, 0.8), ...sheet(1, 0.4)], matt(0.5));
    geometry.mesh.clearFrom = 2;
    geometry.triangleObject.set([0, 0, 1, 1]);
    geometry.objects = ['props/slab', 'props/pane'];
    const through = tracerOf(geometry).read(job([key], [0, 0, 0]));
    expect(geometry.objects[through.blockers[0]!]).toBe('props/slab');
  });
  it('does not depend on the batch that a point comes in, and gives the same from the plain twin', () => {
    const points = Array.from({ length: 300 }, (_, i) => [(i % 20) * 0.1 - 1, 0, Math.floor(i / 20) * 0.1 - 1]).flat();
    const tracer = tracerOf(floor);
    const all = tracer.read(job([key], points, { samples: 32 }));
    const some = tracer.read(job([key], points.slice(300, 330), { samples: 32 }));
    expect([...some.lit]).toEqual([...all.lit.slice(300, 330)]);
    const plain = new Tracer(plainKernel(floor.mesh), floor).read(job([key], points.slice(0, 30), { samples: 32 }));
    expect([...plain.lit]).toEqual([...all.lit.slice(0, 30)]);
  });
  it('a shadow that takes less than all leaves its share, and one that is not cast leaves all', () => {
    const blocker = geometryOf(sheet(2, 0.6), matt(0.5));
    const with_ = (bent: SceneLight['bent']) => tracerOf(blocker).read(job([{ ...key, bent } as SceneLight], [0, 0, 0]));
    const half = with_({ cast: true, stays: [0.5, 0.25, 0], mirror: true });
    for (const [c, share] of [0.5, 0.25, 0].entries()) expect(half.lit[c]! / half.open[c]!).toBeCloseTo(share, 5);
    expect(half.blockers[0]).toBe(0);
    const none = with_({ cast: false, stays: [0, 0, 0], mirror: true });
    expect(none.lit[0]).toBe(none.open[0]);
    expect(none.blockers[0]).toBe(-1);
  });
});
