import { describe, expect, it } from '@jest/globals';
import { Guides, type Plate, type Scene } from '@plinket/core';
import { setupWith } from '../../../core/src/testing/setups.ts';
import { alphaPicture, layBehind, pickAt } from './guide-views.ts';

const W = 4,
  H = 2;
/** Guides of a frame whose left half shows a ball 3 m away, two samples a pixel; one pixel is covered by half. */
function guides(): Guides {
  const g = new Guides(W, H);
  for (let p = 0; p < W * H; p++) {
    g.counts[p] = 2;
    if (p % W >= 2) continue;
    g.alpha[p] = p === 5 ? 1 : 2;
    g.sums[p * 11] = g.alpha[p]!;
    [0.5, 1.5, -1].forEach((v, c) => (g.sums[p * 11 + 4 + c] = v * g.alpha[p]!));
    g.sums[p * 11 + 10] = 3 * g.alpha[p]!;
    g.ids[p * 2] = 1;
  }
  return g;
}
const scene = {
  camera: { origin: [0, 1.5, 2], forward: [0, 0, -1] },
  geometry: { objects: ['stage', 'a ball'] },
} as unknown as Scene;

describe('a click on the picture', () => {
  it('finds the object, its place, and how far it is along the camera’s axis', () => {
    expect(pickAt(guides(), scene, 0.1, 0.1)).toEqual({ object: 'a ball', position: [0.5, 1.5, -1], depth: 3 });
  });
  it('finds nothing where nothing is, nor outside the frame', () => {
    expect(pickAt(guides(), scene, 0.9, 0.1)).toBeUndefined();
    expect(pickAt(guides(), scene, 0.1, 1.5)).toBeUndefined();
  });
  it('finds a surface without a name all the same', () => {
    const g = guides();
    g.ids[0] = 7;
    expect(pickAt(g, scene, 0, 0)!.object).toBe('');
  });
});

describe('what is covered', () => {
  it('is white, half covered grey, open black, and all of it opaque', () => {
    const out = new Uint8ClampedArray(W * H * 4);
    alphaPicture(guides(), out);
    expect([...out.subarray(0, 4)]).toEqual([255, 255, 255, 255]);
    expect([...out.subarray(5 * 4, 5 * 4 + 4)]).toEqual([128, 128, 128, 255]);
    expect([...out.subarray(3 * 4, 3 * 4 + 4)]).toEqual([0, 0, 0, 255]);
  });
});

describe('a plate', () => {
  const plate: Plate = { ...setupWith().plate, kind: 'radial', from: [0.4, 0.4, 0.4], to: [0.4, 0.4, 0.4] };
  const none = { gobo: () => undefined };

  it('stands behind what is covered, and shines through by half where half is', () => {
    const picture = new Float32Array(W * H * 3).fill(0.1);
    layBehind(plate, picture, guides(), none);
    expect(picture[0]).toBeCloseTo(0.1, 6);
    expect(picture[5 * 3]).toBeCloseTo(0.1 + 0.2, 6);
    expect(picture[3 * 3]).toBeCloseTo(0.1 + 0.4, 6);
  });
  it('waits until it is known what is covered, and there is none without one', () => {
    for (const [p, g] of [
      [plate, new Guides(1, 1)],
      [{ ...plate, kind: 'none' }, guides()],
    ] as [Plate, Guides][]) {
      const picture = new Float32Array(W * H * 3).fill(0.1);
      layBehind(p, picture, g, none);
      expect(picture.every((v) => v === Math.fround(0.1))).toBe(true);
    }
  });
  it('is asked for its picture by name', () => {
    const asked: string[] = [];
    const files = { gobo: (sha: string) => void asked.push(sha) };
    layBehind({ ...plate, kind: 'picture', asset: 'f'.repeat(64) } as Plate, new Float32Array(W * H * 3), guides(), files as never);
    expect(asked).toEqual(['f'.repeat(64)]);
  });
});
