import { describe, expect, it } from '@jest/globals';
import { DEGREE, point, sample2, type Vec3 } from '../math/index.ts';
import {
  flagPasses,
  goboAt,
  goboPattern,
  GOBOS,
  gridPasses,
  gridShare,
  inRange,
  intensityAt,
  OpticsView,
  peakOf,
  profileFlux,
  spotFlux,
  spotShape,
  type Flag,
  type Optics,
  type Profile,
} from './index.ts';

describe('a honeycomb grid', () => {
  it('passes the overlap of its cells’ two openings: counted on a raster for every angle', () => {
    for (const q of [0, 0.2, 0.5, 0.9]) {
      let both = 0,
        one = 0;
      for (let i = -200; i <= 200; i++)
        for (let j = -200; j <= 200; j++) {
          const x = i / 200,
            y = j / 200;
          if (x * x + y * y > 1) continue;
          one++;
          // the far opening, shifted by q diameters
          if ((x - 2 * q) ** 2 + y * y <= 1) both++;
        }
      expect(gridPasses(q * 0.7, 0.7)).toBeCloseTo(both / one, 2);
    }
    expect(gridPasses(0.7, 0.7)).toBe(0);
    expect(gridPasses(2, 0.7)).toBe(0);
  });
  it('takes more of the total the narrower it is', () => {
    const shares = [170, 120, 90, 60, 40, 20].map((a) => gridShare(a * DEGREE));
    shares.reduce((wider, narrower) => {
      expect(narrower).toBeLessThan(wider);
      return narrower;
    }, 1);
    // small angles: 2 ∫ g θ dθ with g of θ / half: half² / 4 (∫₀¹ g(q) q dq = 1/8)
    expect(gridShare(4 * DEGREE) / ((2 * DEGREE) ** 2 / 4)).toBeCloseTo(1, 2);
  });
});

describe('a spot', () => {
  it('has half of its intensity at the beam angle, all within, none beyond the edge', () => {
    const s = spotShape(40 * DEGREE, 0.5);
    expect(s(Math.cos(20 * DEGREE))).toBeCloseTo(0.5, 6);
    expect(s(1)).toBe(1);
    expect(s(Math.cos(14.9 * DEGREE))).toBe(1);
    expect(s(Math.cos(25.1 * DEGREE))).toBe(0);
    expect(s(-1)).toBe(0);
  });
  it('with a hard edge fills its cone: Φ = 2π (1 − cos θ)', () => {
    for (const angle of [10, 40, 120])
      expect(spotFlux(angle * DEGREE, 0.01) / (2 * Math.PI * (1 - Math.cos((angle / 2) * DEGREE)))).toBeCloseTo(1, 2);
  });
  it('has the flux that its shape has over all directions', () => {
    const shape = spotShape(60 * DEGREE, 0.8);
    let sum = 0;
    for (let i = 0; i < 4096; i++) {
      sample2(i, 3);
      sum += shape(1 - 2 * point[0]!);
    }
    expect((sum / 4096) * 4 * Math.PI).toBeCloseTo(spotFlux(60 * DEGREE, 0.8), 2);
  });
});

describe('a range', () => {
  it('is whole between its ends and fades softly at them', () => {
    const range = { near: 1, far: 4, soft: 0.25 };
    expect([0.5, 0.74, 1, 2, 3, 4, 5].map((d) => inRange(range, d))).toEqual([0, 0, 1, 1, 1, 0, 0]);
    expect(inRange(range, 0.875)).toBeCloseTo(0.5, 6);
    expect(inRange(range, 3.5)).toBeCloseTo(0.5, 6);
    expect(inRange({ near: 0, far: 0, soft: 0.5 }, 100)).toBe(1);
  });
});

describe('gobos', () => {
  it.each(GOBOS)('%s lets some light through and stops some, within 0…1', (name) => {
    const { rgb } = goboPattern(name);
    const mean = rgb.reduce((s, v) => s + v, 0) / rgb.length;
    expect(mean).toBeGreaterThan(0.25);
    expect(mean).toBeLessThan(0.85);
    expect(rgb.every((v) => v >= 0 && v <= 1)).toBe(true);
    expect(goboPattern(name)).toBe(goboPattern(name));
  });
  it('stop everything beside their frame', () => {
    const out = new Float64Array(3).fill(9);
    goboAt(goboPattern('window'), 1.01, 0.5, out);
    expect([...out]).toEqual([0, 0, 0]);
  });
});

const flag = (more: Partial<Flag> = {}): Flag => ({
  kind: 'panel',
  centre: [0, 1, 0],
  x: [1, 0, 0],
  y: [0, 0, 1],
  z: [0, 1, 0],
  half: [0.5, 0.25, 0.1],
  density: 1,
  soft: 0,
  ...more,
});
/** From a point below, straight up. */
const through = (f: Flag, x: number, z: number, far = 3) => flagPasses(f, x, 0, z, 0, 1, 0, far);

describe('flags', () => {
  it('stop what crosses them, and only between the point and the light', () => {
    expect(through(flag(), 0, 0)).toBe(0);
    expect(through(flag(), 0.51, 0)).toBe(1);
    expect(through(flag(), 0, 0.26)).toBe(1);
    expect(through(flag(), 0, 0, 0.9)).toBe(1);
    expect(flagPasses(flag(), 0, 2, 0, 0, 1, 0, 3)).toBe(1);
    expect(through(flag({ kind: 'disk' }), 0.45, 0.2)).toBe(1);
    expect(through(flag({ kind: 'disk' }), 0.3, 0.1)).toBe(0);
  });
  it('take their density, and thin out over their soft edge', () => {
    expect(through(flag({ density: 0.6 }), 0, 0)).toBeCloseTo(0.4, 9);
    const soft = flag({ soft: 0.5 });
    expect(through(soft, 0.2, 0)).toBe(0);
    expect(through(soft, 0.375, 0)).toBeCloseTo(0.5, 6);
    expect(through(soft, 0.499, 0)).toBeCloseTo(1, 3);
  });
  it('boxes stop what goes through them, a soft one by how far', () => {
    const box = flag({ kind: 'box' });
    expect(through(box, 0, 0)).toBe(0);
    expect(through(box, 0.6, 0)).toBe(1);
    expect(flagPasses(box, -2, 1, 0, 1, 0, 0, 4)).toBe(0);
    // 0.2 m thick where 0.4 m would stop all: smooth(0.5)
    expect(through(flag({ kind: 'box', half: [0.5, 0.5, 0.1], soft: 1 }), 0, 0, 1)).toBeCloseTo(0.5, 6);
  });
});

const at = (optics: Partial<Optics>, p: Vec3, w: Vec3, d: number) => {
  const view = new OpticsView({ centre: [0, 2, 0], x: [1, 0, 0], y: [0, 0, 1], z: [0, -1, 0], ...optics });
  return view.at(p[0], p[1], p[2], w[0], w[1], w[2], d) ? view.r : 0;
};

describe('light on its way', () => {
  it('goes through a gobo where it crosses its plane: a bar’s shadow grows with the distance', () => {
    const pattern = { width: 2, height: 1, rgb: Float32Array.from([1, 1, 1, 0, 0, 0]) };
    const gobo = { distance: 0.5, half: [0.5, 0.5] as [number, number], turn: 0, pattern };
    // from (x, 0, 0) straight at the source's middle: crosses the plane at x / 4
    const seen = (x: number) => at({ gobo }, [x, 0, 0], [-x / Math.hypot(x, 2), 2 / Math.hypot(x, 2), 0], Math.hypot(x, 2));
    expect(seen(-1.2)).toBeCloseTo(1, 6);
    expect(seen(1.2)).toBeCloseTo(0, 6);
    expect(seen(-2.5)).toBe(0);
    // between source and gobo nothing is in the way
    expect(at({ gobo }, [0.2, 1.8, 0], [-0.7071, 0.7071, 0], 0.28)).toBe(1);
    // behind the lamp there is its holder
    expect(at({ gobo }, [0, 3, 0], [0, -1, 0], 1)).toBe(0);
  });
  it('multiplies range, flags and beam', () => {
    const down = (o: Partial<Optics>) => at(o, [0, 0, 0], [0, 1, 0], 2);
    expect(down({})).toBe(1);
    expect(down({ range: { near: 0, far: 2.25, soft: 2 / 9 } })).toBeCloseTo(0.5, 6);
    expect(down({ flags: [flag({ density: 0.5 })], range: { near: 0, far: 2.25, soft: 2 / 9 } })).toBeCloseTo(0.25, 6);
    expect(down({ grid: 40 * DEGREE })).toBe(1);
    expect(at({ grid: 40 * DEGREE }, [1, 0, 0], [-0.447, 0.894, 0], 2.236)).toBe(0);
  });
});

describe('measured luminaires', () => {
  const lambert = (horizontal: number[], nv = 91): Profile => {
    const vertical = Array.from({ length: nv }, (_, i) => (i / (nv - 1)) * 90);
    return { vertical, horizontal, candela: horizontal.flatMap(() => vertical.map((g) => 500 * Math.cos(g * DEGREE))) };
  };
  it('a Lambertian one of 500 cd has π · 500 lm', () => {
    expect(profileFlux(lambert([0])) / (500 * Math.PI)).toBeCloseTo(1, 3);
    expect(profileFlux(lambert([0, 45, 90])) / (500 * Math.PI)).toBeCloseTo(1, 3);
    expect(peakOf(lambert([0]))).toBe(500);
  });
  it('an even one over the whole sphere has 4π · I', () => {
    const even: Profile = { vertical: [0, 180], horizontal: [0], candela: [100, 100] };
    expect(profileFlux(even) / (400 * Math.PI)).toBeCloseTo(1, 4);
  });
  it('is exact at measured angles and straight between them', () => {
    const p: Profile = { vertical: [0, 30, 90], horizontal: [0, 90, 180], candela: [9, 6, 3, 8, 4, 2, 7, 5, 1] };
    expect([0, 90, 180].flatMap((c) => [0, 30, 90].map((g) => intensityAt(p, g, c)))).toEqual(p.candela);
    expect(intensityAt(p, 15, 0)).toBe(7.5);
    expect(intensityAt(p, 30, 45)).toBe(5);
    // the other half by symmetry; nothing beyond what was measured
    expect(intensityAt(p, 30, 270)).toBe(4);
    expect(intensityAt(p, 91, 0)).toBe(0);
  });
  it('a quarter stands for all four', () => {
    const p: Profile = { vertical: [0, 90], horizontal: [0, 90], candela: [10, 10, 20, 20] };
    expect([30, 150, 210, 330].map((c) => Number(intensityAt(p, 45, c).toFixed(6)))).toEqual([13.333333, 13.333333, 13.333333, 13.333333]);
  });
});
