import fc from 'fast-check';
import { describe, expect, it } from '@jest/globals';
import { apart, ringStep } from './labels.ts';
import type { Point } from './projection.ts';

const covers = (labels: Point[], [w, h]: [number, number]) =>
  labels.some((a, i) => labels.slice(i + 1).some((b) => Math.abs(a[0] - b[0]) < w - 1e-6 && Math.abs(a[1] - b[1]) < h - 1e-6));

describe('labels on paper', () => {
  it('stay where they are when they stand free', () => {
    const free: Point[] = [
      [0, 0],
      [1, 0],
      [0, 2],
    ];
    expect(apart(free, [0.5, 0.5])).toEqual(free);
  });
  it('give way to each other alike, by as much as it takes', () => {
    expect(
      apart(
        [
          [0, 0],
          [0.3, 0.1],
        ],
        [0.4, 0.4],
      ),
    ).toEqual([
      [expect.closeTo(-0.052, 6), 0],
      [expect.closeTo(0.352, 6), 0.1],
    ]);
  });
  it('of twelve lights in one heap none covers another', () => {
    const heap = Array.from({ length: 12 }, (_, i): Point => [Math.sin(i) * 0.1, Math.cos(i * 2) * 0.1]);
    expect(covers(heap, [0.2, 0.15])).toBe(true);
    expect(covers(apart(heap, [0.2, 0.15]), [0.2, 0.15])).toBe(false);
    expect(apart(heap, [0.2, 0.15])).toEqual(apart(heap, [0.2, 0.15]));
  });
  it('end somewhere, wherever they come from', () => {
    const at = fc.tuple(fc.double({ min: -1, max: 1, noNaN: true }), fc.double({ min: -1, max: 1, noNaN: true }));
    fc.assert(
      fc.property(fc.array(at, { maxLength: 9 }), (labels) => {
        const out = apart(labels as Point[], [0.2, 0.2]);
        return out.length === labels.length && out.flat().every(Number.isFinite);
      }),
      { numRuns: 60 },
    );
  });
});

describe('rings', () => {
  it.each([
    [0.05, 0.05],
    [0.3, 0.5],
    [0.7, 1],
    [1, 1],
    [1.1, 2],
    [3, 5],
    [7, 10],
    [30, 50],
  ])('at least %d m apart stand every %d m', (least, step) => expect(ringStep(least)).toBe(step));
});
