import { describe, expect, it } from '@jest/globals';
import { validateBytes } from 'gltf-validator';
import { insideOut } from '../../geometry/index.ts';
import { readGlb, writeGlb } from '../index.ts';
import { proposeHead } from '../../face/index.ts';
import { STAND_INS, standIn } from './index.ts';

describe.each(STAND_INS)('the stand-in %s', (kind) => {
  const asset = standIn(kind);
  it('is closed, turned outwards, with normals of length 1 that agree with its triangles', () => {
    for (const { name, positions, normals, indices } of asset.parts) {
      expect([name, insideOut(positions, indices)]).toEqual([name, false]);
      let volume = 0,
        agree = 0,
        area = 0;
      const p = (i: number) => [...positions.subarray(indices[i]! * 3, indices[i]! * 3 + 3)] as [number, number, number];
      for (let i = 0; i < indices.length; i += 3) {
        const [a, b, c] = [p(i), p(i + 1), p(i + 2)];
        const n = [0, 1, 2].map((k) => {
          const [u, v] = [(k + 1) % 3, (k + 2) % 3];
          return (b[u]! - a[u]!) * (c[v]! - a[v]!) - (b[v]! - a[v]!) * (c[u]! - a[u]!);
        });
        volume += n.reduce((s, v, k) => s + v * a[k]!, 0) / 6;
        area += Math.hypot(...n);
        agree += n.reduce((s, v, k) => s + v * normals[indices[i]! * 3 + k]!, 0);
      }
      expect(volume).toBeGreaterThan(0);
      expect(agree / area).toBeGreaterThan(0.95);
      for (let i = 0; i < normals.length; i += 3) expect(Math.hypot(...normals.subarray(i, i + 3))).toBeCloseTo(1, 4);
    }
  });
  it('has a head of a person’s size, and is written as a valid GLB that reads back the same', async () => {
    expect(asset.head.source).toBe('file');
    expect(asset.head.height).toBeCloseTo(0.23, 2);
    const glb = await writeGlb(asset, 'stand-in');
    const { issues } = (await validateBytes(glb)) as { issues: { numErrors: number } };
    expect(issues.numErrors).toBe(0);
    const back = await readGlb(glb, 'x.glb');
    expect(back.head).toEqual(asset.head);
    expect(back.triangles).toBe(asset.triangles);
  });
});

describe('the stand-in figure', () => {
  it('stands on the floor, 1.7 m tall, and its face, rough as it is, is found without its landmarks', () => {
    const { bounds, parts, head } = standIn('figure');
    expect(bounds.min[1]).toBeCloseTo(0, 2);
    expect(bounds.max[1]).toBeCloseTo(1.7, 2);
    const found = proposeHead(parts, bounds);
    expect(Math.abs(found.origin[1] - head.origin[1])).toBeLessThan(0.05);
  });
});
