import { describe, expect, it } from '@jest/globals';
import { decode } from 'jpeg-js';
import { Shape } from '../form/field.ts';
import { even, polygonise, type Surface } from '../form/nets.ts';
import { ellipsoid, sphere } from '../form/primitives.ts';
import { skinColour } from '../form/skin-colour.ts';
import { CAST } from '../cast/index.ts';
import { bake, type Paint } from './bake.ts';
import { dots, noiseOf } from './noise.ts';
import { skinPaint } from './skin.ts';
import { unwrap } from './unwrap.ts';
import { THREADS, weaveNormals } from './weave.ts';

const axis = even(-36, 36, 3);
const shape = new Shape().add(sphere([0, 0, 0], 25), 1).addBoth(ellipsoid([22, 6, 0], [9, 12, 4]), 3);
const mesh = polygonise(shape, 'body with ears', { xs: axis, ys: axis, zs: axis });
const carry = (s: Surface, vertices: Uint32Array, indices: Uint32Array): Surface => {
  const pick = (from: Float32Array) =>
    Float32Array.from({ length: vertices.length * 3 }, (_, i) => from[vertices[(i / 3) | 0]! * 3 + (i % 3)]!);
  return { name: s.name, indices, positions: pick(s.positions), normals: pick(s.normals) };
};

describe('a surface laid flat', () => {
  const { surface, side } = unwrap(mesh, carry);
  const { uvs, indices, positions, tangents, normals } = surface;
  const corner = (i: number) => ({
    uv: [uvs[indices[i]! * 2]!, uvs[indices[i]! * 2 + 1]!] as const,
    at: [0, 1, 2].map((k) => positions[indices[i]! * 3 + k]!),
  });
  it('lies within the square', () => {
    expect(Math.min(...uvs)).toBeGreaterThanOrEqual(0);
    expect(Math.max(...uvs)).toBeLessThanOrEqual(1);
  });
  it('has no triangle turned over: U to the right and V down, seen from outside', () => {
    for (let i = 0; i < indices.length; i += 3) {
      const [a, b, c] = [corner(i).uv, corner(i + 1).uv, corner(i + 2).uv];
      // counter-clockwise outside is clockwise where V runs down
      expect((b[0] - a[0]) * (c[1] - a[1]) - (c[0] - a[0]) * (b[1] - a[1])).toBeLessThan(0);
    }
  });
  it('has one scale: an edge is never longer on the picture than on the surface, and long ones are nearly as long', () => {
    let best = 0;
    for (let i = 0; i < indices.length; i += 3) {
      const [a, b] = [corner(i), corner(i + 1)];
      const flat = Math.hypot(b.uv[0] - a.uv[0], b.uv[1] - a.uv[1]) * side,
        real = Math.hypot(...b.at.map((v, k) => v - a.at[k]!));
      expect(flat).toBeLessThan(real * 1.001);
      best = Math.max(best, flat / real);
    }
    expect(best).toBeGreaterThan(0.99);
  });
  it('gives every place of the picture to one place of the surface at most', () => {
    const size = 256,
      owner = new Map<number, number[]>();
    for (let i = 0; i < indices.length; i += 3) {
      const [a, b, c] = [corner(i), corner(i + 1), corner(i + 2)];
      const u = (a.uv[0] + b.uv[0] + c.uv[0]) / 3,
        v = (a.uv[1] + b.uv[1] + c.uv[1]) / 3;
      const key = Math.floor(u * size) + size * Math.floor(v * size);
      const at = a.at.map((x, k) => (x + b.at[k]! + c.at[k]!) / 3);
      const other = owner.get(key);
      if (other) expect(Math.hypot(...at.map((x, k) => x - other[k]!))).toBeLessThan(6);
      else owner.set(key, at);
    }
  });
  it('has tangents across the normals, along U', () => {
    for (let i = 0; i < tangents.length; i += 4) {
      const v = (i / 4) * 3;
      expect(tangents[i]! * normals[v]! + tangents[i + 1]! * normals[v + 1]! + tangents[i + 2]! * normals[v + 2]!).toBeCloseTo(0, 5);
      expect(Math.hypot(tangents[i]!, tangents[i + 1]!, tangents[i + 2]!)).toBeCloseTo(1, 5);
      expect(tangents[i + 3]).toBe(1);
    }
  });
});

describe('baked pictures', () => {
  // a square of 64 mm that looks at +Z: U runs along x, V down
  const square: Surface & { uvs: Float32Array } = {
    name: 'square',
    positions: new Float32Array([-32, 32, 0, -32, -32, 0, 32, -32, 0, 32, 32, 0]),
    normals: new Float32Array([0, 0, 1, 0, 0, 1, 0, 0, 1, 0, 0, 1]),
    uvs: new Float32Array([0, 0, 0, 1, 1, 1, 1, 0]),
    indices: new Uint32Array([0, 1, 2, 0, 2, 3]),
  };
  const painted = (paint: Partial<Paint>) => {
    const maps = bake(square, { tint: () => [1, 1, 1], roughness: () => 0.5, relief: () => 0, ...paint }, 64, { base: 100, normal: 100 });
    const pixel = (map: Uint8Array, x: number, y: number): number[] => {
      const { data, width, height } = decode(map, { useTArray: true });
      const p = (Math.floor(y * height) * width + Math.floor(x * width)) * 4;
      return [...data.slice(p, p + 3)].map((v) => v / 255);
    };
    return { maps, pixel };
  };
  it('hold what is painted at their place: colour in sRGB, roughness in green', () => {
    const { maps, pixel } = painted({ tint: ([x]) => (x > 0 ? [0.2, 0.5, 0.8] : [0, 0, 0]), roughness: ([, y]) => (y > 0 ? 0.25 : 0.75) });
    // sRGB of 0.5 is 0.735 (IEC 61966-2-1)
    expect(pixel(maps.base, 0.75, 0.5)[1]).toBeCloseTo(0.735, 1);
    expect(pixel(maps.base, 0.25, 0.5)[1]).toBeLessThan(0.04);
    expect(pixel(maps.roughness, 0.5, 0.2)[1]).toBeCloseTo(0.25, 1);
    expect(pixel(maps.roughness, 0.5, 0.8)[1]).toBeCloseTo(0.75, 1);
  });
  it('hold the slopes of the relief as glTF wants them: red against the rise along U, green against the rise upwards', () => {
    // a slope of 1 in 4 turns the normal by atan(1/4)
    const tilt = 0.25 / Math.hypot(1, 0.25);
    const right = painted({ relief: ([x]) => 0.25 * x });
    expect(right.pixel(right.maps.normal, 0.5, 0.5)[0]! * 2 - 1).toBeCloseTo(-tilt, 1);
    expect(right.pixel(right.maps.normal, 0.5, 0.5)[1]! * 2 - 1).toBeCloseTo(0, 1);
    const up = painted({ relief: ([, y]) => 0.25 * y });
    expect(up.pixel(up.maps.normal, 0.5, 0.5)[1]! * 2 - 1).toBeCloseTo(-tilt, 1);
  });
});

describe('weaves', () => {
  it.each(['plain', 'twill', 'knit', 'felt'] as const)('%s repeats without a seam and is no plain', (kind) => {
    const { data, width } = decode(weaveNormals(kind), { useTArray: true });
    const jump = (a: number, b: number): number => {
      let sum = 0;
      for (let y = 0; y < width; y++)
        for (let k = 0; k < 2; k++) sum += Math.abs(data[(y * width + a) * 4 + k]! - data[(y * width + b) * 4 + k]!);
      return sum / width;
    };
    // over the border no more than between threads within
    const period = (2 * width) / THREADS;
    expect(jump(width - 1, 0)).toBeLessThan(1.6 * Math.max(jump(period - 1, period), jump(2 * period - 1, 2 * period)) + 12);
    const reds = Array.from({ length: width * width }, (_, i) => data[i * 4]!);
    expect(Math.max(...reds) - Math.min(...reds)).toBeGreaterThan(25);
  });
});

describe('noise', () => {
  it('lies in −1…1 about 0, and dots where they are asked for', () => {
    const noise = noiseOf(3);
    const values = Array.from({ length: 2000 }, (_, i) => noise([i * 1.7, i * 0.9, -i * 1.3], 5));
    expect(Math.max(...values.map(Math.abs))).toBeLessThanOrEqual(1);
    expect(Math.abs(values.reduce((a, b) => a + b) / values.length)).toBeLessThan(0.05);
    const share = (of: number) =>
      Array.from({ length: 4000 }, (_, i) => dots([i * 0.37, i * 0.73, i * 0.11], 3, 0.45, of, 1)).filter((v) => v > 0).length / 4000;
    expect(share(0)).toBe(0);
    expect(share(1)).toBeGreaterThan(1.7 * share(0.4));
  });
});

describe('skin', () => {
  it.each(CAST.filter((a) => a.id !== 'goat').map((a) => [a.id, a] as const))(
    '%s reflects what skin reflects, redder than blue everywhere',
    (_id, { proportions: p, skin }) => {
      const colour = skinColour(p, skin),
        paint = skinPaint(p, { ...skin, hair: () => 0 }, 1);
      for (let y = -100; y <= 80; y += 12)
        for (let x = -50; x <= 50; x += 10) {
          const z = 85,
            at: [number, number, number] = [x, y, z],
            tint = paint.tint(at, [0, 0, 1]);
          const [r, g, b] = colour(x, y, z).map((v, k) => v * tint[k]!) as [number, number, number];
          // Cooksey, Allen, Tsai 2017 (J. Res. NIST 122:26), a hundred people: about 0.3–0.7 near 650 nm, 0.1–0.55 near 550, 0.06–0.45
          // near 450; read off from memory. Spots lie below.
          expect(r).toBeGreaterThan(0.25);
          expect(r).toBeLessThan(0.75);
          expect(g).toBeGreaterThan(0.1);
          expect(g).toBeLessThan(0.55);
          expect(b).toBeGreaterThan(0.05);
          expect(b).toBeLessThan(0.45);
          expect(r).toBeGreaterThan(g);
          expect(g).toBeGreaterThan(b);
        }
    },
  );
  it('shines on nose and forehead more than on cheeks', () => {
    const [keeper] = CAST,
      p = keeper!.proportions,
      paint = skinPaint(p, { ...keeper!.skin, hair: () => 0 }, 1);
    const mean = (x: number, y: number, z: number) =>
      Array.from({ length: 60 }, (_, i) => paint.roughness([x + (i % 8), y + ((i / 8) | 0), z], [0, 0, 1])).reduce((a, b) => a + b) / 60;
    expect(mean(-4, p.noseBaseY + 10, p.noseZ)).toBeLessThan(mean(33, -28, 90) - 0.05);
    expect(mean(-4, 45, 90)).toBeLessThan(mean(33, -28, 90) - 0.05);
  });
});
