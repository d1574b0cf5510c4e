import { describe, expect, it } from '@jest/globals';
import { fullScale, keepSpeed, pixelBudget } from './speed.ts';

const shelf = () => {
  const kept = new Map<string, string>();
  return { getItem: (k: string) => kept.get(k) ?? null, setItem: (k: string, v: string) => void kept.set(k, v) };
};

describe('how many pixels are traced', () => {
  it('is what half a second allows, within bounds; a fair guess before anything was measured', () => {
    const storage = shelf();
    expect(pixelBudget(storage)).toBe(240_000);
    keepSpeed(storage, 600_000);
    expect(pixelBudget(storage)).toBe(300_000);
    keepSpeed(storage, 1e9);
    expect(pixelBudget(storage)).toBe(1_000_000);
    const slow = shelf();
    keepSpeed(slow, 10);
    expect(pixelBudget(slow)).toBe(160_000);
  });
  it('does not jump for one odd measurement, and takes none that is none', () => {
    const storage = shelf();
    keepSpeed(storage, 500_000);
    keepSpeed(storage, 1_000_000);
    expect(pixelBudget(storage)).toBe(350_000);
    for (const odd of [0, -1, NaN, Infinity]) keepSpeed(storage, odd);
    expect(pixelBudget(storage)).toBe(350_000);
  });
  it('in a browser that keeps nothing is the guess', () => {
    const blocked = {
      getItem: () => {
        throw new Error('blocked');
      },
      setItem: () => {
        throw new Error('blocked');
      },
    };
    expect(() => keepSpeed(blocked, 1e6)).not.toThrow();
    expect(pixelBudget(blocked)).toBe(240_000);
  });
  it('at rest is what the screen has, as far as memory allows', () => {
    expect(fullScale({ width: 400, height: 500 }, 1)).toBe(1);
    expect(fullScale({ width: 400, height: 500 }, 2)).toBe(2);
    expect(fullScale({ width: 2000, height: 1400 }, 2) ** 2 * 2000 * 1400).toBeCloseTo(2_200_000, 0);
  });
});
