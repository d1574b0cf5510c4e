// How sure a proposed head is, on heads that have a face and on what has none.
import { readFileSync } from 'node:fs';
import { beforeAll, describe, expect, it } from '@jest/globals';
import { BoxGeometry, SphereGeometry, type BufferGeometry } from 'three';
import { withoutStrands } from '../geometry/index.ts';
import { boundsOf, readGlb, standIn } from '../formats/index.ts';
import type { Part } from '../scene/index.ts';
import { findHead } from './index.ts';

const proposed = (parts: Part[]): number => findHead(parts, boundsOf(parts)).sure;
let keeper: Part[];
beforeAll(async () => {
  keeper = withoutStrands(
    (await readGlb(Uint8Array.from(readFileSync(new URL('../../../demo/assets/keeper.glb', import.meta.url))))).parts,
  );
});
const moved = (parts: Part[], map: (p: number[]) => number[]): Part[] =>
  parts.map((p) => {
    const positions = p.positions.slice();
    for (let i = 0; i < positions.length; i += 3) positions.set(map([...p.positions.subarray(i, i + 3)]), i);
    return { ...p, positions };
  });
const partOf = (of: BufferGeometry): Part => ({
  ...keeper[0]!,
  positions: Float32Array.from(of.getAttribute('position').array),
  indices: Uint32Array.from(of.index!.array),
});
/** A palm with four fingers, standing. */
const hand = (): Part[] => [
  partOf(new BoxGeometry(0.09, 0.1, 0.03, 12, 12, 4)),
  ...[0, 1, 2, 3].map((i) => partOf(new BoxGeometry(0.018, 0.08, 0.02, 4, 12, 4).translate(-0.034 + i * 0.023, 0.09, 0))),
];

describe('how sure a head is', () => {
  it('of a face is high: whole, as a mask, larger, and of stand-ins', () => {
    expect(proposed(keeper)).toBeGreaterThan(0.85);
    // the front alone
    const mask = keeper.map((p) => ({
      ...p,
      indices: p.indices.filter((_, i) => {
        const t = i - (i % 3);
        return [0, 1, 2].every((k) => p.positions[p.indices[t + k]! * 3 + 2]! > 0);
      }),
    }));
    expect(proposed(mask)).toBeGreaterThan(0.6);
    expect(proposed(moved(keeper, (p) => p.map((v) => v * 100)))).toBeCloseTo(proposed(keeper), 1);
    expect(proposed(standIn('bust').parts)).toBeGreaterThan(0.6);
  });
  it('of the back of a head, of a head that is half another, and of what has no face is low', () => {
    expect(proposed(moved(keeper, ([x, y, z]) => [-x!, y!, -z!]))).toBeLessThan(0.65);
    // pushed aside where it is left: its halves are not alike
    expect(proposed(moved(keeper, ([x, y, z]) => [x!, y!, z! - (x! > 0.01 ? 0.06 : 0)]))).toBeLessThan(0.6);
    expect(proposed([partOf(new SphereGeometry(0.12, 48, 32))])).toBeLessThan(0.3);
    expect(proposed([partOf(new BoxGeometry(0.2, 0.3, 0.2, 20, 20, 20))])).toBeLessThan(0.3);
    expect(proposed(hand())).toBeLessThan(0.3);
  });
});
