import { describe, expect, it } from '@jest/globals';
import { buildBall } from '../geometry/index.ts';
import type { HeadFrame } from '../setup/index.ts';
import { material } from '../surface/index.ts';
import type { CharacterAsset, Part } from './index.ts';
import { chooseProxy, headProxy, proxyAt } from './proxy.ts';

const ball = (name: string, centre: [number, number, number], radius: number, more = {}): Part => ({
  name,
  ...buildBall(centre, radius, 60),
  material: material({ name, base: [0.5, 0.25, 0.125], ...more }),
});
const asset = {
  parts: [ball('body', [0, 0.5, 0], 0.5), ball('eye', [0.1, 0.9, 0.4], 0.02), ball('cornea', [0.1, 0.9, 0.42], 0.02, { transmission: 1 })],
} as CharacterAsset;

describe('a proxy', () => {
  it('is of few triangles that stay on the surface, small parts among them, clear ones not', async () => {
    const kept = await chooseProxy(asset, 800);
    const { positions, indices, normals, colours } = proxyAt(asset, kept, undefined);
    expect(kept.map((k) => k.part)).toEqual([0, 1]);
    expect(indices.length / 3).toBeLessThan(1000);
    expect(indices.length / 3).toBeGreaterThan(300);
    expect(Math.max(...indices)).toBe(positions.length / 3 - 1);
    for (let i = 0; i < positions.length; i += 3) {
      const [x, y, z] = positions.subarray(i, i + 3);
      const off = Math.min(Math.abs(Math.hypot(x!, y! - 0.5, z!) - 0.5), Math.abs(Math.hypot(x! - 0.1, y! - 0.9, z! - 0.4) - 0.02));
      expect(off).toBeLessThan(1e-5);
      expect(Math.hypot(...normals.subarray(i, i + 3))).toBeCloseTo(1, 5);
      expect([...colours.subarray(i, i + 3)]).toEqual([0.5, 0.25, 0.125]);
    }
    // the volume within is still nearly the ball's
    let volume = 0;
    const p = (c: number) => positions.subarray(indices[c]! * 3, indices[c]! * 3 + 3);
    for (let i = 0; i < indices.length; i += 3) {
      const [a, b, c] = [p(i), p(i + 1), p(i + 2)];
      volume +=
        (a[0]! * (b[1]! * c[2]! - b[2]! * c[1]!) + a[1]! * (b[2]! * c[0]! - b[0]! * c[2]!) + a[2]! * (b[0]! * c[1]! - b[1]! * c[0]!)) / 6;
    }
    expect(Math.abs(volume) / ((4 / 3) * Math.PI * 0.125)).toBeGreaterThan(0.93);
  });
  it('leaves a character of few triangles as it is', async () => {
    const small = { parts: [{ ...ball('b', [0, 0, 0], 1), ...buildBall([0, 0, 0], 1, 6) }] } as CharacterAsset;
    const [kept] = await chooseProxy(small, 5000);
    expect(kept!.indices).toHaveLength(small.parts[0]!.indices.length);
  });
  it('stays within its bound however many parts there are: the smallest go', async () => {
    const many = {
      parts: Array.from({ length: 600 }, (_, i) => ({
        ...ball(`bead ${i}`, [i, 0, 0], 0.01 + (i % 10) / 100),
        ...buildBall([i, 0, 0], 0.01 + (i % 10) / 100, 8),
      })),
    } as CharacterAsset;
    const kept = await chooseProxy(many, 2000);
    expect(kept.reduce((n, k) => n + k.indices.length / 3, 0)).toBeLessThan(2400);
    expect(kept.length).toBeGreaterThan(30);
    // the largest ten in a hundred are there, the smallest not
    expect(kept.every(({ part }) => part % 10 >= 8)).toBe(true);
    expect(kept.map((k) => k.part)).toEqual([...kept.map((k) => k.part)].sort((a, b) => a - b));
  });
  it('of a head alone leaves out what is far from it', async () => {
    const head = { origin: [0.1, 0.9, 0.42], forward: [0, 0, 1], up: [0, 1, 0], height: 0.12, source: 'hand' } as const;
    const whole = { ...asset, parts: [...asset.parts, ball('foot', [0, -3, 0], 0.1)] };
    const { positions, indices } = await headProxy(whole, { ...head } as unknown as HeadFrame, 4000);
    expect(indices.length).toBeGreaterThan(300);
    let most = 0;
    for (let i = 0; i < positions.length; i += 3)
      most = Math.max(most, Math.hypot(positions[i]! - 0.1, positions[i + 1]! - 0.9, positions[i + 2]! - 0.38));
    // as far as the reach and one edge of the mesh
    expect(most).toBeLessThan((0.95 * 0.12 + 0.06) * Math.sqrt(3));
  });
});
