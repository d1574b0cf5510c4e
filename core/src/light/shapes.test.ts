import { describe, expect, it } from '@jest/globals';
import fc from 'fast-check';
import { DEGREE, dot, normalize, point, sample2, type Vec3 } from '../math/index.ts';
import {
  ballIrradiance,
  capAngle,
  centreOf,
  diskIrradianceOnAxis,
  polygonIrradiance,
  rectangleIrradiance,
  smallSource,
  thinTubeIrradiance,
  viewOf,
  type Shape,
} from './index.ts';

/** Irradiance at a point by the view's own samples: mean of cos / density. */
function sampled(shape: Shape, at: Vec3, n: Vec3, count = 1 << 14): number {
  const view = viewOf(shape);
  let sum = 0;
  for (let i = 0; i < count; i++) {
    sample2(i, 7);
    const S = view.sample(at[0], at[1], at[2], point[0]!, point[1]!);
    if (S > 0) sum += S * Math.max(0, view.wx * n[0] + view.wy * n[1] + view.wz * n[2]);
  }
  return sum / count;
}

/** The same by rays sent evenly over the hemisphere: the shape's `meet` alone. */
function met(shape: Shape, at: Vec3, n: Vec3, count = 1 << 18): number {
  const view = viewOf(shape);
  let sum = 0;
  for (let i = 0; i < count; i++) {
    sample2(i & 4095, 100 + (i >> 12));
    const z = 1 - 2 * point[0]!,
      r = Math.sqrt(1 - z * z),
      w: Vec3 = [r * Math.cos(2 * Math.PI * point[1]!), z, r * Math.sin(2 * Math.PI * point[1]!)];
    const cos = dot(w, n);
    if (cos > 0 && view.meet(at[0], at[1], at[2], w[0], w[1], w[2]) < Infinity) sum += cos;
  }
  return (sum * 4 * Math.PI) / count;
}

const origin: Vec3 = [0, 0, 0],
  up: Vec3 = [0, 1, 0];
const disk = (r: number, h: number, twoSided = false): Shape => ({
  kind: 'disk',
  disk: { centre: [0, h, 0], a: [r, 0, 0], b: [0, 0, r] },
  twoSided,
});
const panel = (twoSided: boolean): Shape => ({
  kind: 'rectangle',
  rectangle: { corner: [-0.5, 1, -0.5], ex: [1, 0, 0], ey: [0, 0, 1] },
  twoSided,
});

// Howell, "A Catalog of Radiation Heat Transfer Configuration Factors", section B; values in the design's table.
describe('configuration factors', () => {
  it('disk of radius 0.5 at distance 1: 0.2', () => {
    expect(diskIrradianceOnAxis(0.5, 1) / Math.PI).toBeCloseTo(0.2, 12);
    expect(sampled(disk(0.5, 1), origin, up) / Math.PI).toBeCloseTo(0.2, 4);
  });
  it('sphere of radius 0.5 at distance 2, 30° off the normal: 0.05412659', () => {
    const cos = Math.cos(30 * DEGREE);
    expect(ballIrradiance(0.5, 2, cos) / Math.PI).toBeCloseTo(0.05412659, 8);
    const ball: Shape = { kind: 'ball', centre: [2 * Math.sin(30 * DEGREE), 2 * cos, 0], radius: 0.5 };
    expect(sampled(ball, origin, up) / Math.PI).toBeCloseTo(0.05412659, 6);
  });
  it('tilted triangle by Lambert’s formula: 0.08196612', () => {
    const triangle: Vec3[] = [
      [0.2, -0.1, 0.8],
      [1.1, 0.3, 0.6],
      [0.3, 0.9, 1.2],
    ];
    expect(polygonIrradiance(triangle, [0, 0, 1]) / Math.PI).toBeCloseTo(0.08196612, 7);
  });
  it('the sun’s disk of 0.2665° takes 6.7967e-5 sr', () => {
    expect(capAngle(0.2665 * DEGREE)).toBeCloseTo(6.7967e-5, 9);
    const sun: Shape = { kind: 'sun', towards: up, half: 0.2665 * DEGREE };
    expect(sampled(sun, origin, up)).toBeCloseTo(6.7967e-5, 8);
  });
});

describe('every shape', () => {
  const tube: Shape = { kind: 'tube', tube: { centre: [0.2, 1, 0], axis: normalize([1, 0.2, 0]), length: 1.2, radius: 0.15 } };
  const shapes: [string, Shape][] = [
    ['rectangle', panel(false)],
    ['disk', { kind: 'disk', disk: { centre: [0.4, 1, 0], a: [0.5, 0, 0], b: [0, 0.1, 0.3] }, twoSided: false }],
    ['ball', { kind: 'ball', centre: [0.4, 1, -0.2], radius: 0.3 }],
    ['tube', tube],
    ['sun', { kind: 'sun', towards: normalize([0.3, 1, 0.2]), half: 20 * DEGREE }],
  ];
  it.each(shapes)('%s: what is drawn and what is met make the same irradiance', (_name, shape) => {
    expect(met(shape, origin, up) / sampled(shape, origin, up)).toBeCloseTo(1, 2);
  });
  it.each(shapes)('%s: a drawn direction meets it where it was drawn, with the same density', (_name, shape) => {
    const view = viewOf(shape);
    fc.assert(
      fc.property(fc.double({ min: 0.001, max: 0.998, noNaN: true }), fc.double({ min: 0.001, max: 0.998, noNaN: true }), (u, v) => {
        const S = view.sample(0.1, -0.2, 0.3, u, v);
        if (!(S > 0)) return;
        const { wx, wy, wz, d } = view;
        const t = view.meet(0.1, -0.2, 0.3, wx, wy, wz);
        // grazing a curved edge may miss by rounding
        if (t === Infinity) return;
        expect(t / d).toBeCloseTo(1, 5);
        expect(view.met / S).toBeCloseTo(1, 4);
      }),
      { numRuns: 300, seed: 5 },
    );
  });
  it('stands where its centre is; the sun stands nowhere', () => {
    expect(centreOf(panel(false))).toEqual([0, 1, 0]);
    expect(centreOf(tube)).toEqual([0.2, 1, 0]);
    expect(centreOf({ kind: 'sun', towards: up, half: 0.1 })).toBeUndefined();
  });
});

describe('sides', () => {
  const behind: Vec3 = [0, 2, 0],
    down: Vec3 = [0, -1, 0];
  it('a one-sided source lights only the half-space before it; a two-sided one both alike', () => {
    for (const make of [panel, (both: boolean) => disk(0.5, 1, both)]) {
      // ex × ey and a × b point down
      const back = (both: boolean) => sampled(make(both), behind, down);
      expect(back(false)).toBe(0);
      expect(back(true)).toBeCloseTo(sampled(make(true), origin, up), 4);
      expect(sampled(make(true), origin, up)).toBeCloseTo(sampled(make(false), origin, up), 8);
    }
  });
});

describe('sources far away', () => {
  it('a tube is a line: E = 2r (β + sin β cos β) / d', () => {
    const thin: Shape = { kind: 'tube', tube: { centre: [0, 2, 0], axis: [1, 0, 0], length: 1.5, radius: 0.004 } };
    expect(sampled(thin, origin, up) / thinTubeIrradiance(0.004, 1.5, 2)).toBeCloseTo(1, 2);
  });
  it('rectangle and disk follow area · cos · cos / d²', () => {
    const n = normalize([0.2, 1, 0]);
    const r = { corner: [-0.05, 5, -0.05] as Vec3, ex: [0.1, 0, 0] as Vec3, ey: [0, 0, 0.1] as Vec3 };
    const point5 = smallSource(0.01, [0, 5, 0], [0, -1, 0], origin, n);
    expect(rectangleIrradiance(r, origin, n) / point5).toBeCloseTo(1, 3);
    expect(sampled(disk(0.1, 5), origin, n) / smallSource(Math.PI * 0.01, [0, 5, 0], [0, -1, 0], origin, n)).toBeCloseTo(1, 3);
  });
  it('inside a ball or a tube there is no light from it', () => {
    expect(sampled({ kind: 'ball', centre: origin, radius: 1 }, [0, 0.2, 0], up, 16)).toBe(0);
    expect(sampled({ kind: 'tube', tube: { centre: origin, axis: up, length: 2, radius: 1 } }, [0.1, 0, 0], up, 16)).toBe(0);
  });
});
