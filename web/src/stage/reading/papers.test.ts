import { describe, expect, it } from '@jest/globals';
import { CELLS, COLUMNS, PATTERNS, ROWS, type PatternGrid } from '@plinket/core';
import { patternNames, patternTones } from './direction-paper.ts';
import { faceTones, outline } from './face-paper.ts';
import { pictureOutline, WHOLE } from './in-picture.ts';

describe('the face on paper', () => {
  it('is lighter the more stops it gets, black six stops down, and nothing where there is no face', () => {
    const stops = new Float32Array(CELLS).fill(NaN);
    stops.set([0, -1, -3, -6, -9, -Infinity]);
    const tones = faceTones(stops);
    const of = (c: number) => tones[c * 4]!;
    expect([of(0), of(1), of(2), of(3)]).toEqual([of(0), of(1), of(2), of(3)].sort((a, b) => b - a));
    expect(of(4)).toBe(of(3));
    expect(of(5)).toBe(of(3));
    expect(tones[3]).toBe(255);
    expect(tones[6 * 4 + 3]).toBe(0);
  });
  it('an outline goes round what hangs together, and not between its places', () => {
    const two = new Set([5 * COLUMNS + 7, 5 * COLUMNS + 8]);
    const path = outline((c) => two.has(c));
    // two places side by side have six edges around them
    expect(path.match(/M/g)).toHaveLength(6);
    expect(path).not.toContain('M8 5v1');
    expect(outline(() => false)).toBe('');
  });
});

describe('all directions on paper', () => {
  const azimuths = Array.from({ length: 12 }, (_, i) => -66 + 12 * i),
    elevations = Array.from({ length: 8 }, (_, i) => 70 - 12 * i);
  const pattern = Int8Array.from({ length: 96 }, (_, k) =>
    k % 12 < 6 ? PATTERNS.indexOf('loop') : k < 48 ? PATTERNS.indexOf('split') : -1,
  );
  const grid: PatternGrid = { azimuths, elevations, pattern, score: new Float32Array(96).fill(1) };
  it('names stand inside of what they name, once for each part, and not for what has no name', () => {
    const names = patternNames(grid);
    expect(names.map((n) => n.pattern).sort()).toEqual(['loop', 'split']);
    for (const n of names) {
      const i = azimuths.indexOf(n.azimuth),
        j = elevations.indexOf(n.elevation);
      expect(PATTERNS[pattern[j * 12 + i]!]).toBe(n.pattern);
    }
    expect(names.find((n) => n.pattern === 'loop')!.azimuth).toBeLessThan(-6);
  });
  it('each pattern has a tone of its own, darker where it is hardly shown', () => {
    const tones = patternTones(grid);
    const at = (k: number) => [...tones.subarray(k * 4, k * 4 + 3)];
    expect(at(0)).not.toEqual(at(7));
    expect(at(7)).not.toEqual(at(95));
    const faint = patternTones({ ...grid, score: new Float32Array(96).fill(0.2) });
    expect(faint[0]!).toBeLessThan(tones[0]!);
  });
});

describe('an outline in the picture', () => {
  // places in rows and columns as on the grid, the whole of it over the picture
  const places = Float32Array.from({ length: CELLS * 2 }, (_, i) => {
    const c = i >> 1;
    return i % 2 === 0 ? ((c % COLUMNS) + 0.5) / COLUMNS : (Math.floor(c / COLUMNS) + 0.5) / ROWS;
  });
  const block = [10, 11, 12].flatMap((x) => [20, 21].map((y) => y * COLUMNS + x));
  it('goes round places that hang together, through the middles to their neighbours', () => {
    const path = pictureOutline(block, places);
    // 3 × 2 places: ten edges outside, none inside
    expect(path.match(/M/g)).toHaveLength(10);
    const numbers = path.match(/[\d.]+/g)!.map(Number);
    const xs = numbers.filter((_, i) => i % 2 === 0),
      ys = numbers.filter((_, i) => i % 2 === 1);
    expect(Math.min(...xs)).toBeCloseTo((WHOLE * 10) / COLUMNS, 0);
    expect(Math.max(...xs)).toBeCloseTo((WHOLE * 13) / COLUMNS, 0);
    expect(Math.min(...ys)).toBeCloseTo((WHOLE * 20) / ROWS, 0);
    expect(Math.max(...ys)).toBeCloseTo((WHOLE * 22) / ROWS, 0);
  });
  it('leaves out what the camera does not see', () => {
    const hidden = places.slice().fill(NaN, block[0]! * 2, block[0]! * 2 + 2);
    expect(pictureOutline([block[0]!], hidden)).toBe('');
    expect(pictureOutline(block, hidden).match(/M/g)).toHaveLength(10);
  });
});
