import { describe, expect, it } from '@jest/globals';
import { allDirections, directionOf, DIRECTIONS, SIDE, squareOf, wrapped } from './directions.ts';

const out = new Float64Array(2);

describe('directions of equal areas', () => {
  it('are unit, and lead back to their place of the square', () => {
    for (let k = 0; k < 500; k++) {
      const u = ((k * 0.618034) % 1) * 0.998 + 0.001,
        v = ((k * 0.754878) % 1) * 0.998 + 0.001;
      const [x, y, z] = directionOf(u, v);
      expect(Math.hypot(x, y, z)).toBeCloseTo(1, 12);
      squareOf(x, y, z, out);
      expect(out[0]).toBeCloseTo(u, 6);
      expect(out[1]).toBeCloseTo(v, 6);
    }
  });
  it('fall into a cap in the share of its area, (1 − cos α)/2 (Archimedes)', () => {
    const all = allDirections();
    expect(DIRECTIONS).toBeGreaterThanOrEqual(1000);
    for (const axis of [
      [0.06, 0.18, 0.98],
      [0.28, 0.93, 0.24],
      [-0.6, 0.64, -0.48],
    ])
      for (const alpha of [20, 45, 90, 130]) {
        const cos = Math.cos((alpha * Math.PI) / 180);
        let inside = 0;
        for (let d = 0; d < all.length; d += 3) if (all[d]! * axis[0]! + all[d + 1]! * axis[1]! + all[d + 2]! * axis[2]! > cos) inside++;
        expect(Math.abs(inside / DIRECTIONS - (1 - cos) / 2)).toBeLessThan(0.012);
      }
  });
  it('over an edge of the square lies what is next to it on the sphere', () => {
    const at = (n: number) => directionOf(((n % SIDE) + 0.5) / SIDE, (Math.floor(n / SIDE) + 0.5) / SIDE);
    const step = 2.6 * Math.sqrt((4 * Math.PI) / DIRECTIONS);
    for (let k = 0; k < SIDE; k++)
      for (const [i, j, ni, nj] of [
        [0, k, -1, k],
        [SIDE - 1, k, SIDE, k],
        [k, 0, k, -1],
        [k, SIDE - 1, k, SIDE],
      ] as const) {
        const a = at(wrapped(i, j)),
          b = at(wrapped(ni, nj));
        expect(Math.acos(Math.min(1, a[0] * b[0] + a[1] * b[1] + a[2] * b[2]))).toBeLessThan(step);
      }
  });
});
