import { readFileSync } from 'node:fs';
import { describe, expect, it } from '@jest/globals';
import { buildBall } from '../geometry/index.ts';
import type { Part } from '../scene/index.ts';
import { material } from '../surface/index.ts';
import { proposeHead } from './index.ts';
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
    const head = proposeHead(asset.parts, asset.bounds);
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
