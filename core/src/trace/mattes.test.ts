// What the samples of a pixel met: shares against the area that a plate covers.
import { describe, expect, it } from '@jest/globals';
import type { Vec3 } from '../math/index.ts';
import type { SceneLight } from '../scene/index.ts';
import { cameraAt, floorTriangles, geometryOf, matt, overhead, plainTracer } from '../testing/scenes.ts';
import { addTrace } from './join.ts';
import { addMatte, MATTE_RANKS } from './mattes.ts';
import type { TraceJob, TraceResult } from './tracer.ts';

const SIZE = 8;
/** A floor, and a plate of another stuff a millimetre over the half of it where x > edge. */
function tracer(edge: number) {
  const plate = floorTriangles(2).map((t) => t.map(([x, , z]) => [x + 2 + edge, 0.001, z])) as [Vec3, Vec3, Vec3][];
  const g = geometryOf([...floorTriangles(4), ...plate], matt(0.5));
  g.objects.splice(0, 1, 'stage/backdrop', 'props/plate');
  g.triangleObject.fill(1, 2);
  g.materials.push(matt(0.6));
  g.triangleMaterial.fill(1, 2);
  return plainTracer(g);
}
const light: SceneLight = { id: 'key', key: 'key', kind: 'rectangle', rectangle: overhead(1, 1, 3) };
/** From straight above, a square metre or so. */
const job: TraceJob = {
  camera: cameraAt([0, 2, 0.0001], [0, 0, 0], 0.25),
  width: SIZE,
  height: SIZE,
  tile: { x: 0, y: 0, width: SIZE, height: SIZE },
  seed: 5,
  from: 0,
  to: 64,
  bounces: 0,
  lights: [light],
  guides: true,
  mattes: true,
};
/** Samples of a pixel that met object `what`, in whatever place it stands. */
function met({ guides }: TraceResult, kind: 'objects' | 'materials', pixel: number, what: number): number {
  const slots = guides!.mattes![kind];
  for (let i = 0, at = pixel * MATTE_RANKS * 2; i < MATTE_RANKS; i++, at += 2) if (slots[at] === what + 1) return slots[at + 1]!;
  return 0;
}

describe('what the samples of a pixel met', () => {
  it('is as much of each thing as covers the pixel', () => {
    // the frame is 2 · 2 m · 0.25 = 1 m wide on the floor: a pixel ⅛ m; the edge lies a quarter into the fifth column
    const result = tracer(0.25 / SIZE).trace(job);
    for (const kind of ['objects', 'materials'] as const) {
      const column = (x: number, what: number) =>
        Array.from({ length: SIZE }, (_, y) => met(result, kind, y * SIZE + x, what) / job.to).reduce((a, b) => a + b, 0) / SIZE;
      expect([column(0, 0), column(0, 1), column(7, 0), column(7, 1)]).toEqual([1, 0, 0, 1]);
      expect(column(4, 1)).toBeCloseTo(0.75, 1);
      expect(column(4, 0) + column(4, 1)).toBe(1);
    }
  });

  it('adds up over passes, and is not written down unasked', () => {
    const t = tracer(0.03);
    const whole = t.trace(job),
      sum = t.trace({ ...job, to: 24 });
    addTrace(sum, t.trace({ ...job, from: 24 }));
    for (let p = 0; p < SIZE * SIZE; p++)
      for (const what of [0, 1]) expect(met(sum, 'objects', p, what)).toBe(met(whole, 'objects', p, what));
    expect(t.trace({ ...job, mattes: false }).guides!.mattes).toBeUndefined();
  });

  it('leaves out what finds no place, and nothing else', () => {
    const slots = new Uint16Array(2 * MATTE_RANKS * 2);
    for (let what = 0; what < MATTE_RANKS + 3; what++) addMatte(slots, 0, what, 2);
    addMatte(slots, 0, 3, 5);
    expect([...slots.subarray(0, MATTE_RANKS * 2)]).toEqual(Array.from({ length: MATTE_RANKS }, (_, i) => [i + 1, i === 3 ? 7 : 2]).flat());
    expect(slots.subarray(MATTE_RANKS * 2).every((v) => v === 0)).toBe(true);
  });
});
