import { describe, expect, it } from '@jest/globals';
import { point, sample2, type Vec3 } from '../math/index.ts';
import { rectangleIrradiance, SphericalRectangle, type Rectangle } from './index.ts';

/** Side by side with the element's plane: a rectangle at height h over the origin, shining down. */
const above = (x0: number, x1: number, z0: number, z1: number, h: number): Rectangle => ({
  corner: [x0, h, z0],
  ex: [x1 - x0, 0, 0],
  ey: [0, 0, z1 - z0],
});
const origin: Vec3 = [0, 0, 0],
  up: Vec3 = [0, 1, 0];
/** Configuration factor = irradiance / (π · luminance). */
const factor = (r: Rectangle, n: Vec3 = up) => rectangleIrradiance(r, origin, n) / Math.PI;

// Howell, "A Catalog of Radiation Heat Transfer Configuration Factors", section B: plane element to rectangle.
describe('irradiance of a rectangle against published configuration factors', () => {
  it.each([
    ['unit square, corner above the element, at 1', above(0, 1, 0, 1, 1), 0.13853161],
    ['unit square, centred, at 1', above(-0.5, 0.5, -0.5, 0.5, 1), 0.23945647],
    ['0.6 × 0.9, centred, at 2', above(-0.3, 0.3, -0.45, 0.45, 2), 0.04098274],
  ])('%s', (_name, rect, expected) => {
    expect(factor(rect)).toBeCloseTo(expected, 7);
  });

  it('perpendicular unit square whose edge lies at distance 1', () => {
    // element at the origin facing +x; the square stands on x–z with its edge along z at x = 1 … seen edge-on by its plane
    const standing: Rectangle = { corner: [0, 0, 1], ex: [0, 1, 0], ey: [1, 0, 0] };
    // shining side is ex × ey = −z, towards the element
    expect(rectangleIrradiance(standing, origin, [0, 1, 0]) / Math.PI).toBeCloseTo(0.0557342, 6);
  });

  it('is clipped at the receiver’s horizon', () => {
    const half: Rectangle = { corner: [-0.5, -0.5, 1], ex: [0, 1, 0], ey: [1, 0, 0] };
    const upper: Rectangle = { corner: [-0.5, 0, 1], ex: [0, 0.5, 0], ey: [1, 0, 0] };
    expect(rectangleIrradiance(half, origin, up)).toBeCloseTo(rectangleIrradiance(upper, origin, up), 10);
  });

  it('gives nothing behind the panel', () => {
    expect(rectangleIrradiance({ corner: [-0.5, -1, -0.5], ex: [1, 0, 0], ey: [0, 0, 1] }, origin, [0, -1, 0])).toBe(0);
  });

  it('falls with the square of the distance when it is small', () => {
    const at = (d: number) => factor(above(-0.005, 0.005, -0.005, 0.005, d));
    expect(at(1) / at(2)).toBeCloseTo(4, 3);
    expect(at(1) / at(3)).toBeCloseTo(9, 3);
  });
});

describe('sampling a rectangle by solid angle (Ureña, Fajardo, King 2013)', () => {
  const rects: [string, Rectangle][] = [
    ['near and large', above(-0.5, 0.5, -0.5, 0.5, 1)],
    ['aside', above(0.4, 1.4, -1, 0.2, 0.7)],
    ['far and small', above(3, 3.1, 2, 2.1, 6)],
    ['grazing', above(2, 4, -1, 1, 0.1)],
  ];

  it.each(rects)('%s: the mean of cos · S is the irradiance', (_name, rect) => {
    const s = new SphericalRectangle(rect);
    const S = s.prepare(0, 0, 0);
    let sum = 0;
    const n = 4096;
    for (let i = 0; i < n; i++) {
      sample2(i, 77);
      s.sample(point[0]!, point[1]!);
      sum += Math.max(0, s.wy) * S;
    }
    expect(sum / n / rectangleIrradiance(rect, origin, up)).toBeCloseTo(1, 3);
  });

  it.each(rects)('%s: every sample lies on the rectangle at the distance it says', (_name, rect) => {
    const s = new SphericalRectangle(rect);
    s.prepare(0, 0, 0);
    for (let i = 0; i < 200; i++) {
      sample2(i, 5);
      s.sample(point[0]!, point[1]!);
      const [x, y, z] = [s.wx * s.d, s.wy * s.d, s.wz * s.d];
      expect(y).toBeCloseTo(rect.corner[1], 5);
      expect(x).toBeGreaterThan(rect.corner[0] - 1e-4);
      expect(x).toBeLessThan(rect.corner[0] + rect.ex[0] + 1e-4);
      expect(z).toBeGreaterThan(rect.corner[2] - 1e-4);
      expect(z).toBeLessThan(rect.corner[2] + rect.ey[2] + 1e-4);
      expect(Math.hypot(s.wx, s.wy, s.wz)).toBeCloseTo(1, 6);
    }
  });

  it.each<[string, Rectangle]>([...rects, ['far and large', above(-1, 1, -1, 1, 5)], ['just far enough', above(0, 1, -0.5, 0.5, 2.1)]])(
    '%s: by area or by solid angle, the mean of cos over density is the irradiance',
    (_name, rect) => {
      const s = new SphericalRectangle(rect);
      expect(s.look(0, 0, 0)).toBe(true);
      let sum = 0;
      const n = 4096;
      for (let i = 0; i < n; i++) {
        sample2(i, 41);
        s.sample(point[0]!, point[1]!);
        // a ray that comes to the same point has the same density
        expect(s.spreadAt(s.facing(s.wx, s.wy, s.wz), s.d)).toBeCloseTo(s.spread, 9);
        sum += Math.max(0, s.wy) * s.spread;
      }
      expect(sum / n / rectangleIrradiance(rect, origin, up)).toBeCloseTo(1, 3);
    },
  );

  it('from three half diagonals on by area: no sample differs from the mean by more than a sixth there', () => {
    const s = new SphericalRectangle(above(-1, 1, -1, 1, 3 * Math.SQRT2 + 0.01));
    s.look(0, 0, 0);
    const S = s.prepare(0, 0, 0);
    s.look(0, 0, 0);
    let differ = 0;
    for (let i = 0; i < 64; i++) {
      s.sample((i % 8) / 7.001, Math.floor(i / 8) / 7.001);
      differ = Math.max(differ, Math.abs(s.spread / S - 1));
    }
    expect(differ).toBeGreaterThan(0);
    expect(differ).toBeLessThan(1 / 6);
  });

  it('nearer, by the solid angle: all samples weigh the same', () => {
    const s = new SphericalRectangle(above(-1, 1, -1, 1, 2));
    s.look(0, 0, 0);
    for (let i = 0; i < 16; i++) {
      s.sample(i / 16, ((i * 7) % 16) / 16);
      expect(s.spread).toBe(s.prepare(0, 0, 0));
    }
    expect(s.look(0, 4, 0)).toBe(false);
  });

  it('has the solid angle of one face of a cube around the point: 4π / 6', () => {
    expect(new SphericalRectangle(above(-1, 1, -1, 1, 1)).prepare(0, 0, 0)).toBeCloseTo((4 * Math.PI) / 6, 6);
  });

  it('is met by rays from the front only', () => {
    const s = new SphericalRectangle(above(-1, 1, -1, 1, 2));
    expect(s.intersectFrom(0, 0, 0, 0, 1, 0)).toBeCloseTo(2, 9);
    expect(s.intersectFrom(0, 4, 0, 0, -1, 0)).toBe(Infinity);
    expect(s.intersectFrom(1.5, 0, 0, 0, 1, 0)).toBe(Infinity);
    expect(s.prepare(0, 4, 0)).toBe(0);
  });
});
