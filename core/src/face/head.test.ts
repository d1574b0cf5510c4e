import { readFileSync } from 'node:fs';
import fc from 'fast-check';
import { describe, expect, it } from '@jest/globals';
import { buildBall, withoutStrands } from '../geometry/index.ts';
import type { Part } from '../scene/index.ts';
import { material } from '../surface/index.ts';
import { findHead, proposeHead } from './index.ts';
import { boundsOf, readGlb } from '../formats/index.ts';

const file = (name: string) => readGlb(Uint8Array.from(readFileSync(new URL(`../../../demo/assets/${name}.glb`, import.meta.url))), name);
const ball = (centre: [number, number, number], r: number): Part => ({
  name: 'b',
  ...buildBall(centre, r),
  material: material({ name: 'm' }),
});

describe('a head proposed from the shape of the face', () => {
  // the demo's heads know where their own eyes, chin and crown are: the file's landmarks are the truth here
  it.each([
    ['keeper', 0.012, 0.03],
    ['keeper-figure', 0.012, 0.03],
    ['signaller', 0.012, 0.03],
    ['signaller-figure', 0.012, 0.03],
  ])('%s', async (name, eyes, height) => {
    const asset = await file(name);
    // as files are read: without what grows on the head
    const bare = withoutStrands(asset.parts),
      head = proposeHead(bare, boundsOf(bare));
    expect(head.source).toBe('proposed');
    expect(Math.abs(head.origin[0] - asset.head.origin[0])).toBeLessThan(0.006);
    expect(Math.abs(head.origin[1] - asset.head.origin[1])).toBeLessThan(eyes);
    expect(Math.abs(head.origin[2] - asset.head.origin[2])).toBeLessThan(0.03);
    expect(Math.abs(head.height - asset.head.height)).toBeLessThan(height);
  });
  it('a ball has no face: the bounding box proposes', () => {
    const parts = [ball([0, 1, 0], 0.15)];
    const head = proposeHead(parts, boundsOf(parts));
    expect(head.origin[1]).toBeGreaterThan(0.85);
    expect(head.origin[1]).toBeLessThan(1.15);
  });
});

describe('a head from any mesh', () => {
  const part = (positions: number[]): Part => ({
    name: 'p',
    positions: Float32Array.from(positions),
    normals: new Float32Array(positions.length),
    indices: Uint32Array.from({ length: positions.length / 3 }, (_, i) => i),
    material: material({ name: 'm' }),
  });
  const tall = (x: number) => [x, 0, 0, x, 1.8, 0.1, x + 0.02, 0.9, 0.2];
  it.each<[string, number[]]>([
    ['two posts with nothing between them', [...tall(-0.4), ...tall(0.4)]],
    ['one triangle', [0, 0, 0, 1, 0, 0, 0, 1, 0]],
    ['a flat sheet', [-1, 0, 0, 1, 0, 0, 1, 0, 2, -1, 0, 0, 1, 0, 2, -1, 0, 2]],
    ['a point', [1, 1, 1, 1, 1, 1, 1, 1, 1]],
    ['something as wide as a house', [-50, 0, 0, 50, 0, 0, 0, 3, 0]],
    ['specks far apart', [-3, 0, 0, -3, 0.01, 0, -3, 0, 0.01, 4, 9, 2, 4, 9.01, 2, 4, 9, 2.01]],
  ])('%s: finite, and said to be a guess', (_name, positions) => {
    const parts = [part(positions)];
    const { head, found } = findHead(parts, boundsOf(parts));
    expect([...head.origin, ...head.forward, ...head.up, head.height].every(Number.isFinite)).toBe(true);
    expect(head.height).toBeGreaterThan(0);
    expect(found).toBe(false);
  });
  it('of chance triangles is finite too', () => {
    const number = fc.double({ min: -2, max: 2, noNaN: true });
    fc.assert(
      fc.property(fc.array(fc.tuple(number, number, number), { minLength: 3, maxLength: 30 }), (points) => {
        const parts = [part(points.slice(0, points.length - (points.length % 3)).flat())];
        const { head } = findHead(parts, boundsOf(parts));
        return [...head.origin, head.height].every(Number.isFinite) && head.height > 0;
      }),
      { numRuns: 200, seed: 7 },
    );
  });
});
