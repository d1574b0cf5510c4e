import { describe, expect, it } from '@jest/globals';
import {
  cosTurn,
  cross,
  dimension,
  ditherMask,
  dot,
  fastAcos,
  MASK_SIZE,
  maskCell,
  maskWords,
  mix,
  normalize,
  openDimension,
  point,
  sample2,
  shiftedA,
  shiftedB,
  sinTurn,
  textKey,
  turnY,
} from './index.ts';

describe('fast functions', () => {
  it('agree with Math to 3e-8', () => {
    for (let i = -1000; i <= 1000; i++) {
      const x = i / 1000;
      expect(Math.abs(fastAcos(x) - Math.acos(x))).toBeLessThan(3e-8);
      expect(Math.abs(cosTurn(x * 2) - Math.cos(x * 4 * Math.PI))).toBeLessThan(1e-9);
      expect(Math.abs(sinTurn(x * 2) - Math.sin(x * 4 * Math.PI))).toBeLessThan(1e-9);
    }
  });
});

describe('vectors', () => {
  it('are right-handed: the subject’s left is up × forward', () => {
    expect(cross([0, 1, 0], [0, 0, 1])).toEqual([1, 0, 0]);
  });
  it('turn +Z towards +X', () => {
    const [x, y, z] = turnY([0, 2, 1], Math.PI / 2);
    expect([x, y, z].map((v) => +v.toFixed(12))).toEqual([1, 2, 0]);
  });
  it('fall back where there is no direction', () => {
    expect(normalize([0, 0, 0], [1, 0, 0])).toEqual([1, 0, 0]);
    expect(dot([1, 2, 3], [4, 5, 6])).toBe(32);
  });
});

describe('low-discrepancy points', () => {
  /** Points of one sequence. */
  const sequence = (n: number, key: number) =>
    Array.from({ length: n }, (_, i) => {
      sample2(i, key);
      return [point[0]!, point[1]!] as const;
    });

  it.each([1, 99, -5])('fill every elementary interval of a (0,2)-net in base 2, key %i', (key) => {
    const n = 64;
    for (let a = 0; a <= 6; a++) {
      const columns = 2 ** a,
        rows = 2 ** (6 - a);
      const cells = new Set(sequence(n, key).map(([x, y]) => Math.floor(x * columns) * rows + Math.floor(y * rows)));
      expect(cells.size).toBe(n);
    }
  });

  it('differ from key to key and repeat for one key', () => {
    expect(sequence(8, 3)).toEqual(sequence(8, 3));
    expect(sequence(8, 3)).not.toEqual(sequence(8, 4));
  });

  it('integrate a smooth function far better than chance', () => {
    // ∫∫ 4xy = 1; the error of 256 random points would be about 0.03
    let worst = 0;
    for (let key = 0; key < 20; key++) {
      const mean = sequence(256, key).reduce((s, [x, y]) => s + 4 * x * y, 0) / 256;
      worst = Math.max(worst, Math.abs(mean - 1));
    }
    expect(worst).toBeLessThan(0.004);
  });

  it('are keyed by texts and numbers without easy collisions', () => {
    const keys = new Set<number>();
    for (let i = 0; i < 1000; i++) keys.add(mix(i, 7));
    for (const t of ['key', 'fill', 'rim', 'light-1', 'light-2']) keys.add(textKey(t));
    expect(keys.size).toBe(1005);
  });
});

describe('the blue-noise mask', () => {
  const n = MASK_SIZE;
  it('holds every rank once', () => {
    expect(new Set(Array.from(maskWords(), (w) => w >>> 20)).size).toBe(n * n);
    expect(ditherMask().reduce((s, v) => s + v)).toBeCloseTo(0, 3);
  });
  it('has hardly any slow variation: what it does in blocks of 8 × 8 averages out much better than white noise', () => {
    const mask = ditherMask();
    const blocks = (value: (i: number) => number) => {
      let sum = 0;
      for (let by = 0; by < n; by += 8)
        for (let bx = 0; bx < n; bx += 8) {
          let mean = 0;
          for (let y = 0; y < 8; y++) for (let x = 0; x < 8; x++) mean += value((by + y) * n + bx + x) / 64;
          sum += mean * mean;
        }
      return sum;
    };
    const white = blocks((i) => (mix(i, 5) >>> 0) / 4294967296 - 0.5);
    expect(blocks((i) => mask[i]!)).toBeLessThan(white / 8);
  });

  it('shifts a net to a net: every pixel’s points fill every elementary interval', () => {
    const mask = maskWords(),
      d = dimension();
    for (const cell of [0, 777, 4095])
      for (let a = 0; a <= 6; a++) {
        const columns = 2 ** a,
          rows = 2 ** (6 - a),
          cells = new Set<number>();
        for (let i = 0; i < 64; i++) {
          openDimension(d, i, 42);
          cells.add(Math.floor(shiftedA(d, mask, cell) * columns) * rows + Math.floor(shiftedB(d, mask, cell) * rows));
        }
        expect(cells.size).toBe(64);
      }
  });
  it('makes the first sample’s error look fine: neighbours disagree instead of agreeing', () => {
    // estimate ∫u du = ½ with one sample a pixel; the error's mean over 8 × 8 pixels is well below white noise's
    const mask = maskWords(),
      d = dimension();
    openDimension(d, 0, 7);
    let own = 0,
      white = 0;
    for (let by = 0; by < 8; by++)
      for (let bx = 0; bx < 8; bx++) {
        let a = 0,
          b = 0;
        for (let k = 0; k < 64; k++) {
          const x = bx * 8 + (k & 7),
            y = by * 8 + (k >> 3);
          a += (shiftedA(d, mask, maskCell(x, y, 1)) - 0.5) / 64;
          sample2(0, mix(y * 65536 + x, 1));
          b += (point[0]! - 0.5) / 64;
        }
        own += a * a;
        white += b * b;
      }
    expect(own).toBeLessThan(white / 5);
  });
  it('looks at another part of the mask in every block', () => {
    expect(maskCell(0, 0, 1)).not.toBe(maskCell(64, 0, 1));
    expect(maskCell(1, 0, 1) - maskCell(0, 0, 1) === 1 || maskCell(1, 0, 1) % 64 === 0).toBe(true);
  });
});
