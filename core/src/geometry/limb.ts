import { cross, normalize, sub, type Vec3 } from '../math/index.ts';
import type { MeshData } from './sweep.ts';

const AROUND = 28,
  CAP = 7;

/** A limb: a tapered tube from a to b with round ends; y of `flat` below 1 squeezes it front to back. Metres. */
export function buildLimb(a: Vec3, b: Vec3, ra: number, rb: number, flat = 1): MeshData {
  const axis = normalize(sub(b, a), [0, 1, 0]);
  const x = normalize(cross(Math.abs(axis[1]) > 0.9 ? [0, 0, 1] : [0, 1, 0], axis)),
    z = cross(x, axis);
  const rings: { c: Vec3; r: number; lean: number }[] = [];
  for (let i = 0; i <= CAP; i++) {
    const t = (i / CAP) * (Math.PI / 2);
    rings.push({ c: along(a, axis, -ra * Math.cos(t)), r: ra * Math.sin(t), lean: -Math.cos(t) });
  }
  for (let i = 0; i <= CAP; i++) {
    const t = (i / CAP) * (Math.PI / 2);
    rings.push({ c: along(b, axis, rb * Math.sin(t)), r: rb * Math.cos(t), lean: Math.sin(t) });
  }
  const positions: number[] = [],
    normals: number[] = [],
    indices: number[] = [];
  rings.forEach(({ c, r, lean }, i) => {
    const out = Math.sqrt(Math.max(0, 1 - lean * lean));
    for (let j = 0; j < AROUND; j++) {
      const p = (j / AROUND) * 2 * Math.PI,
        cos = Math.cos(p),
        sin = Math.sin(p);
      const n: number[] = [];
      for (let k = 0; k < 3; k++) {
        const side = x[k]! * cos + z[k]! * sin;
        positions.push(k === 2 ? a[2] + (c[k]! + side * r - a[2]) * flat : c[k]! + side * r);
        n.push((side * out + axis[k]! * lean) / (k === 2 ? flat : 1));
      }
      const l = Math.hypot(...n) || 1;
      normals.push(n[0]! / l, n[1]! / l, n[2]! / l);
      if (!i) continue;
      const k = (j + 1) % AROUND,
        above = (i - 1) * AROUND,
        here = i * AROUND;
      indices.push(above + j, here + j, here + k, above + j, here + k, above + k);
    }
  });
  return { positions: Float32Array.from(positions), normals: Float32Array.from(normals), indices: Uint32Array.from(indices) };
}

const along = (p: Vec3, d: Vec3, by: number): Vec3 => [p[0] + d[0] * by, p[1] + d[1] * by, p[2] + d[2] * by];

/** A closed tube along a curve that ends where it begins; `at` gives its middle for 0…1. Metres. */
export function buildRing(at: (t: number) => Vec3, radius: number, steps: number): MeshData {
  const positions: number[] = [],
    normals: number[] = [],
    indices: number[] = [];
  for (let i = 0; i < steps; i++) {
    const c = at(i / steps),
      axis = normalize(sub(at((i + 0.5) / steps), at((i - 0.5) / steps)));
    const x = normalize(cross([0.31, 0.87, 0.38], axis)),
      z = cross(x, axis);
    for (let j = 0; j < AROUND; j++) {
      const p = (j / AROUND) * 2 * Math.PI;
      for (let k = 0; k < 3; k++) {
        const n = x[k]! * Math.cos(p) + z[k]! * Math.sin(p);
        positions.push(c[k]! + n * radius);
        normals.push(n);
      }
      const k = (j + 1) % AROUND,
        here = i * AROUND,
        next = ((i + 1) % steps) * AROUND;
      indices.push(here + j, next + j, next + k, here + j, next + k, here + k);
    }
  }
  return { positions: Float32Array.from(positions), normals: Float32Array.from(normals), indices: Uint32Array.from(indices) };
}
