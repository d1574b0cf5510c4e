import { describe, expect, it } from '@jest/globals';
import { dot, length, normalize, scale, sub, type Vec3 } from '../math/index.ts';
import { mirrorOnSphere } from './catchlight.ts';

describe('the place of a sphere that mirrors one point to another', () => {
  it('obeys the law of reflection: both angles alike, all in one plane (Heron, Alhazen)', () => {
    for (let k = 1; k < 60; k++) {
      const at = (s: number): Vec3 => {
        const h = 1 - 2 * ((k * s) % 1),
          phi = 2 * Math.PI * ((k * s * 1.7) % 1),
          r = Math.sqrt(1 - h * h);
        return scale([r * Math.cos(phi), h, r * Math.sin(phi)], 1.6 + ((k * 0.37) % 3));
      };
      const centre: Vec3 = [0.1, -0.2, 0.3],
        light = sub(at(0.618), scale(centre, -1)),
        eye = sub(at(0.414), scale(centre, -1));
      const p = mirrorOnSphere(centre, 0.5, light, eye);
      const n = normalize(sub(p, centre)),
        a = normalize(sub(light, p)),
        b = normalize(sub(eye, p));
      expect(length(sub(p, centre))).toBeCloseTo(0.5, 12);
      expect(dot(n, a)).toBeCloseTo(dot(n, b), 9);
      // the mirrored ray is 2 (n·a) n − a
      const mirrored = sub(scale(n, 2 * dot(n, a)), a);
      expect(length(sub(mirrored, b))).toBeLessThan(1e-6);
    }
  });
  it('lies half way between two that are equally far, and faces one that stands at both places', () => {
    const p = mirrorOnSphere([0, 0, 0], 1, [3, 0, 0], [0, 3, 0]);
    expect(p[0]).toBeCloseTo(Math.SQRT1_2, 9);
    expect(p[1]).toBeCloseTo(Math.SQRT1_2, 9);
    expect(mirrorOnSphere([0, 0, 0], 1, [0, 0, 4], [0, 0, 9])[2]).toBeCloseTo(1, 9);
  });
});
