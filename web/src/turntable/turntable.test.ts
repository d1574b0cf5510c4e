import { describe, expect, it } from '@jest/globals';
import { coarseToFine, framesRound, TURNTABLE_DEFAULTS } from '@plinket/core';
import { setupWith } from '../../../core/src/testing/setups.ts';
import { angleAt, movieSize, nearestFrame, planWords, sizeFor } from './state.ts';

const plan = (more: Partial<typeof TURNTABLE_DEFAULTS> = {}) => ({ ...TURNTABLE_DEFAULTS, ...more });

describe('the play-through', () => {
  it('traces every frame once, an eighth of them first', () => {
    for (const all of [1, 7, 48, 300]) {
      const order = coarseToFine(all);
      expect([...order].sort((a, b) => a - b)).toEqual(Array.from({ length: all }, (_, i) => i + 1));
      const first = Math.ceil(all / 8);
      expect(order.slice(0, first).every((n) => (n - 1) % 8 === 0)).toBe(true);
    }
  });
  it('keeps no more than 1200 frames of a long turn, evenly round', () => {
    const order = coarseToFine(10_000);
    expect(new Set(order).size).toBe(1200);
    const sorted = [...order].sort((a, b) => a - b);
    expect(Math.max(...sorted.map((n, i) => n - (sorted[i - 1] ?? 1)), 10_001 - sorted.at(-1)!)).toBeLessThanOrEqual(16);
  });
  it('shows the nearest frame that is there, also over the seam', () => {
    const frames = new Map([
      [1, 'first'],
      [9, 'ninth'],
    ]);
    expect(nearestFrame(frames, 4, 16)).toBe('first');
    expect(nearestFrame(frames, 8, 16)).toBe('ninth');
    expect(nearestFrame(frames, 15, 16)).toBe('first');
    expect(nearestFrame(new Map(), 3, 16)).toBeUndefined();
  });
  it('has angles evenly round, never more than there are frames', () => {
    expect(framesRound(plan(), 4)).toEqual([1, 76, 151, 226]);
    expect(framesRound(plan({ frames: 3 }), 8)).toEqual([1, 2, 3]);
  });
});

describe('words and sizes of a turn', () => {
  it('say the angle of what turns', () => {
    expect(angleAt(plan(), 76)).toBe(90);
    expect(angleAt(plan({ direction: 'right' }), 76)).toBe(-90);
    expect(angleAt(plan({ turning: 'dome' }), 151)).toBe(180);
    const both = plan({ turning: 'figure then dome', frames: 4 });
    expect([1, 3, 5, 7].map((n) => angleAt(both, n))).toEqual([0, 180, 0, 180]);
    expect(planWords(both)).toBe('8 frames, 0.3 s');
  });
  it('keep the frame’s shape; a movie has even sides', () => {
    const setup = setupWith({});
    const at = { camera: { ...setup.camera, aspect: 0.8 } };
    const { width, height } = sizeFor(at, 11_000);
    expect(width / height).toBeCloseTo(0.8, 1);
    expect(width * height).toBeLessThan(11_600);
    expect(movieSize(at, 181)).toEqual({ width: 144, height: 182 });
  });
});
