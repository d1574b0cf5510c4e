import { describe, expect, it } from '@jest/globals';
import { encodeSrgb } from '../photometry/index.ts';
import { FILM_CHANNELS } from '../trace/index.ts';
import type { Gain } from '../setup/index.ts';
import { balance, develop, Film, neutral, shrink, tilesOf, TONE_BINS, toneOf, tonesOf, type Voice } from './index.ts';

const gain = (d: number, s = d): Gain => ({ diffuse: [d, d, d], specular: [s, s, s] });

/** A film whose pixels all hold one value in each layer, as the sum of `samples` samples. */
function flat(width: number, height: number, diffuse: number, specular: number, samples = 4): Film {
  const film = new Film(width, height);
  const sums = new Float32Array(width * height * FILM_CHANNELS).map((_, i) => (i % 6 < 3 ? diffuse : specular) * samples);
  film.add({ x: 0, y: 0, width, height }, sums, samples);
  return film;
}
const picture = (voices: Voice[], pixels: number) => {
  const out = new Float32Array(pixels * 3).fill(9);
  balance(voices, out);
  return out;
};

describe('balance', () => {
  it('is linear: level, shares and number of lights', () => {
    const a = flat(4, 2, 0.5, 0.25),
      b = flat(4, 2, 0.1, 0);
    expect(picture([{ film: a, gain: gain(2, 4) }], 8)[0]).toBeCloseTo(2, 6);
    const both = picture(
      [
        { film: a, gain: gain(1) },
        { film: b, gain: gain(3) },
      ],
      8,
    );
    const alone = [picture([{ film: a, gain: gain(1) }], 8), picture([{ film: b, gain: gain(3) }], 8)];
    both.forEach((v, i) => expect(v).toBeCloseTo(alone[0]![i]! + alone[1]![i]!, 6));
  });
  it('is black without a voice, and a silent voice adds nothing', () => {
    expect([...picture([], 8)].every((v) => v === 0)).toBe(true);
    expect(picture([{ film: flat(4, 2, 1, 1), gain: gain(0) }], 8)[5]).toBe(0);
  });
  it('does not depend on how many samples a pixel has had', () => {
    expect(picture([{ film: flat(2, 2, 0.3, 0.3, 2), gain: gain(1) }], 4)[0]).toBeCloseTo(
      picture([{ film: flat(2, 2, 0.3, 0.3, 100), gain: gain(1) }], 4)[0]!,
      5,
    );
  });
  it('fills what has no sample yet from the coarse film, smoothly', () => {
    const fine = new Film(8, 8),
      coarse = new Film(2, 2);
    const sums = new Float32Array(24);
    for (let p = 0; p < 4; p++) sums.fill(p % 2, p * 6, p * 6 + 6);
    coarse.add({ x: 0, y: 0, width: 2, height: 2 }, sums, 1);
    const row = [...picture([{ film: fine, coarse, gain: gain(0.5) }], 64)].filter((_, i) => i % 3 === 0).slice(0, 8);
    expect(row[0]).toBe(0);
    expect(row[7]).toBe(1);
    for (let i = 1; i < 8; i++) expect(row[i]!).toBeGreaterThanOrEqual(row[i - 1]!);
    fine.add({ x: 0, y: 0, width: 1, height: 1 }, new Float32Array(6).fill(7), 1);
    expect(picture([{ film: fine, coarse, gain: gain(1) }], 64)[0]).toBe(14);
  });
});

describe('a film', () => {
  it('adds tiles where they belong', () => {
    const film = new Film(6, 4);
    film.add({ x: 2, y: 1, width: 3, height: 2 }, new Float32Array(36).fill(1), 5);
    expect(film.counts[0]).toBe(0);
    expect(film.counts[1 * 6 + 2]).toBe(5);
    expect(film.counts[2 * 6 + 4]).toBe(5);
    expect(film.counts[2 * 6 + 5]).toBe(0);
    expect(film.sums.reduce((s, v) => s + v)).toBe(36);
    film.clear();
    expect(film.sums.some((v) => v !== 0) || film.counts.some((v) => v !== 0)).toBe(false);
  });
  it('is cut into tiles that cover it once, the face’s place first', () => {
    const tiles = tilesOf(150, 100, 64);
    const seen = new Uint8Array(150 * 100);
    for (const t of tiles) for (let y = t.y; y < t.y + t.height; y++) for (let x = t.x; x < t.x + t.width; x++) seen[y * 150 + x]!++;
    expect(seen.every((v) => v === 1)).toBe(true);
    expect(tiles[0]).toMatchObject({ x: 64, y: 0 });
  });
});

describe('view transforms', () => {
  // Khronos PBR Neutral, published specification: below the shoulder only the Fresnel offset 0.04 is taken away, so a base
  // colour lit by white at full comes out as itself; peak 1.0 compresses to 1 − (1−0.76)²/(1.0−0.04+0.24−0.76)
  it('Khronos PBR Neutral: base colours keep, highlights roll off below 1', () => {
    const mid = [0.4, 0.3, 0.2];
    neutral(mid);
    [0.36, 0.26, 0.16].forEach((v, i) => expect(mid[i]).toBeCloseTo(v, 6));
    const white = [1, 1, 1];
    neutral(white);
    expect(white[0]).toBeCloseTo(1 - 0.24 ** 2 / (0.96 + 0.24 - 0.76), 6);
    const dark = [0.02, 0.02, 0.02];
    neutral(dark);
    expect(dark[0]).toBeCloseTo(6.25 * 0.02 ** 2, 6);
    const hot = [100, 50, 20];
    neutral(hot);
    expect(Math.max(...hot)).toBeLessThan(1);
    expect(hot[0]).toBeGreaterThan(hot[1]!);
  });
  it('Khronos PBR Neutral never falls when the light rises', () => {
    let last = -1;
    for (let v = 0; v < 20; v += 0.01) {
      const c = [v, v, v];
      neutral(c);
      expect(c[1]!).toBeGreaterThanOrEqual(last);
      last = c[1]!;
    }
  });
  it('plain is the sRGB curve to the nearest step, clipped at both ends', () => {
    const values = Float32Array.from({ length: 300 }, (_, i) => (i - 20) / 256);
    const out = new Uint8ClampedArray(400);
    develop(values, 'plain', out);
    for (let p = 0; p < 100; p++)
      for (let c = 0; c < 3; c++) {
        const exact = encodeSrgb(Math.min(1, Math.max(0, values[p * 3 + c]!))) * 255;
        expect(Math.abs(out[p * 4 + c]! - exact)).toBeLessThan(0.75);
      }
    expect(out[3]).toBe(255);
  });
});

describe('tones', () => {
  it('count middle grey in the middle and a stop as ten bins', () => {
    expect(toneOf(0.18)).toBeCloseTo(0, 12);
    const grey = tonesOf(Float32Array.from([0.181, 0.181, 0.181]));
    expect(grey.bins[TONE_BINS / 2]).toBe(1);
    expect(tonesOf(Float32Array.from([0.362, 0.362, 0.362])).bins[TONE_BINS / 2 + 10]).toBe(1);
  });
  it('tell clipped and crushed pixels apart', () => {
    const t = tonesOf(Float32Array.from([1.2, 0.1, 0.1, 0, 0, 0, 0.2, 0.2, 0.2, 0.3, 0.3, 0.3]));
    expect(t.clipped).toBe(0.25);
    expect(t.crushed).toBe(0.25);
    expect(t.bins.reduce((s, v) => s + v)).toBe(4);
  });
  it('a shrunken picture keeps its mean', () => {
    const big = Float32Array.from({ length: 8 * 8 * 3 }, (_, i) => (i * 37) % 11);
    const small = shrink(big, 8, 8, 2, 4);
    const average = (a: Float32Array) => a.reduce((s, v) => s + v) / a.length;
    expect(average(small)).toBeCloseTo(average(big), 5);
  });
});
