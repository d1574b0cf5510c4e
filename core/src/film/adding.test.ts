// What is done for every tile and every new picture while a hand moves a light: adding, filling in, measuring.
import { readFileSync } from 'node:fs';
import { compileKernel, plainFilmMath, simdFilmMath } from '@plinket/kernel';
import { describe, expect, it } from '@jest/globals';
import { luminance } from '../photometry/index.ts';
import { flat, gain, traced } from '../testing/films.ts';
import { balance, Film, FineColours, Guides, noiseOf, TONE_BINS, TONE_RANGE, toneOf, tonesOf, type Voice } from './index.ts';

const plain = plainFilmMath();
const simd = simdFilmMath(compileKernel(readFileSync(new URL('../../../kernel/build/film.wasm', import.meta.url)))!);
const wave = (n: number, f: number) => Float32Array.from({ length: n }, (_, i) => Math.abs(Math.sin(i * f)) * 3);

describe('taking a tile in', () => {
  it.each([
    ['one float', 1, 1, 7],
    ['an odd row', 5, 3, 11],
    ['whole fours', 96, 32, 640 * 3],
    ['more than is brought in at once', 700, 60, 800],
    ['rows longer than that', 20_000, 2, 20_003],
  ])('in SIMD is what the plain twin does: %s', (_name, columns, rows, stride) => {
    const size = stride * rows + 40;
    const start = wave(size, 0.37),
      from = wave(columns * rows + 13, 0.11);
    const [a, b] = [simd.floats(size), plain.floats(size)];
    for (const [math, to] of [
      [simd, a],
      [plain, b],
    ] as const) {
      to.set(start);
      math.mixBlock(to, 17, stride, from, 13, columns, rows, 0.75, 0.25);
    }
    expect(a.reduce((most, v, i) => Math.max(most, Math.abs(v - b[i]!)), 0)).toBeLessThan(1e-6);
    // nothing before, after or between the rows is touched
    expect(a.subarray(0, 17)).toEqual(start.subarray(0, 17));
    if (stride > columns) expect(a[17 + columns]).toBe(start[17 + columns]);
    expect(a[size - 1]).toBe(start[size - 1]);
    simd.free(a);
  });

  it.each([
    ['a row of fours', 16, 8, 4, 2, true],
    ['odd sizes', 37, 23, 10, 6, true],
    ['without ratios', 37, 23, 10, 6, false],
    ['one pixel', 9, 7, 1, 1, true],
  ])('enlarged in SIMD is what the plain twin does: %s', (_name, width, height, w, h, withRatios) => {
    const [size, small] = [
      { width, height },
      { width: w, height: h },
    ];
    const made = [simd, plain].map((math) => {
      const filled = (n: number, f: number) => {
        const array = math.floats(n);
        array.set(wave(n, f));
        return array;
      };
      const out = filled(width * height * 3, 0.2);
      const [light, gloss, ratios] = [filled(w * h * 3, 0.7), filled(w * h * 3, 1.3), filled(width * height * 3, 0.05)];
      math.enlarge(out, size, light, gloss, small, withRatios ? ratios : undefined);
      const sums = Array.from(out);
      [out, light, gloss, ratios].forEach((a) => math.free(a));
      return sums;
    });
    made[0]!.forEach((v, i) => expect(v).toBeCloseTo(made[1]![i]!, 4));
  });

  it('a film is the mean of all its samples, whatever parts they came in', () => {
    const tile = { x: 2, y: 1, width: 3, height: 2 };
    const parts = [1, 2, 5].map((samples, k) =>
      traced(
        6,
        (p) => (p + k) * samples,
        (p) => p * k * samples,
        1,
      ),
    );
    for (const math of [plain, simd]) {
      const film = new Film(6, 4, { math });
      [1, 2, 5].forEach((samples, k) => film.add(tile, parts[k]!, 0, samples));
      // (p + 0)·1 + (p + 1)·2 + (p + 2)·5, over eight
      for (let p = 0; p < 6; p++) {
        const at = ((1 + Math.floor(p / 3)) * 6 + 2 + (p % 3)) * 3;
        expect(film.plane('diffuse')![at]).toBeCloseTo(p + 12 / 8, 5);
        expect(film.plane('specular')![at + 2]).toBeCloseTo((p * 12) / 8, 5);
      }
      expect(film.counts[8]).toBe(8);
      expect(film.counts[7]).toBe(0);
      expect(film.missing).toBe(18);
      film.release();
    }
  });
  it('tiles that overlap by whole rows keep their own counts; ragged rows are refused', () => {
    const film = new Film(4, 4);
    const ones = (n: number) =>
      traced(
        n,
        () => 1,
        () => 0,
        1,
      );
    film.add({ x: 0, y: 0, width: 4, height: 2 }, ones(8), 0, 1);
    film.add({ x: 0, y: 1, width: 4, height: 2 }, ones(8), 0, 1);
    expect([...film.counts]).toEqual([1, 1, 1, 1, 2, 2, 2, 2, 1, 1, 1, 1, 0, 0, 0, 0]);
    film.add({ x: 0, y: 3, width: 2, height: 1 }, ones(2), 0, 1);
    expect(() => film.add({ x: 1, y: 3, width: 2, height: 1 }, ones(2), 0, 1)).toThrow(RangeError);
  });
});

describe('the coarse film in the gaps of the fine one', () => {
  it('is bilinear between its pixels, in both directions, by the definition', () => {
    const W = 40,
      H = 24;
    const coarse = new Film(10, 6);
    coarse.add(
      { x: 0, y: 0, width: 10, height: 6 },
      traced(
        60,
        (p) => Math.sin(p) + 2,
        (p) => Math.cos(p) + 2,
        1,
      ),
      0,
      1,
    );
    const fine = new Film(W, H);
    const voice: Voice = { film: fine, coarse, gain: gain(2, 3) };
    const out = new Float32Array(W * H * 3);
    balance(plain, [voice], out);
    const value = (x: number, y: number, c: number) => {
      const o = (y * 10 + x) * 3 + c;
      return coarse.plane('diffuse')![o]! * 2 + coarse.plane('specular')![o]! * 3;
    };
    for (const [x, y] of [
      [0, 0],
      [1, 1],
      [7, 11],
      [21, 13],
      [39, 23],
      [38, 0],
    ] as const) {
      const fx = Math.min(9, Math.max(0, (x + 0.5) / 4 - 0.5)),
        fy = Math.min(5, Math.max(0, (y + 0.5) / 4 - 0.5));
      const [x0, y0] = [Math.floor(fx), Math.floor(fy)],
        [x1, y1] = [Math.min(9, x0 + 1), Math.min(5, y0 + 1)],
        [u, v] = [fx - x0, fy - y0];
      for (let c = 0; c < 3; c++) {
        const expected =
          (value(x0, y0, c) * (1 - u) + value(x1, y0, c) * u) * (1 - v) + (value(x0, y1, c) * (1 - u) + value(x1, y1, c) * u) * v;
        expect(out[(y * W + x) * 3 + c]).toBeCloseTo(expected, 4);
      }
    }
  });
  it('gives way pixel by pixel to what is traced', () => {
    const coarse = flat(2, 2, 1, 0),
      fine = new Film(8, 8);
    fine.add(
      { x: 0, y: 0, width: 4, height: 8 },
      traced(
        32,
        () => 5,
        () => 0,
        1,
      ),
      0,
      1,
    );
    const out = new Float32Array(8 * 8 * 3);
    balance(plain, [{ film: fine, coarse, gain: gain(1) }], out);
    expect(out[0]).toBeCloseTo(5, 5);
    expect(out[3 * 3]).toBeCloseTo(5, 5);
    expect(out[4 * 3]).toBeCloseTo(1, 5);
  });
});

describe('lights whose coarse films are shown alone', () => {
  const W = 16,
    H = 16;
  /** Guides of a frame whose left half is white and whose right half is dark red. */
  const guides = () => {
    const g = new Guides(W, H);
    for (let p = 0; p < W * H; p++) {
      g.counts[p] = g.alpha[p] = 1;
      g.sums[p * 11] = 1;
      (p % W < W / 2 ? [0.8, 0.8, 0.8] : [0.4, 0.05, 0.05]).forEach((v, c) => (g.sums[p * 11 + 7 + c] = v));
    }
    return g;
  };
  const noisy = flat(W, H, 9, 9, 1);

  it('leave the fine ones out, and add up as they do', () => {
    const [a, b] = [flat(4, 4, 0.5, 0.25), flat(4, 4, 0.1, 0)];
    const out = new Float32Array(W * H * 3);
    balance(
      plain,
      [
        { film: noisy, coarse: a, gain: gain(2), waits: true },
        { film: noisy, coarse: b, gain: gain(1), waits: true },
        { film: flat(W, H, 1, 0), coarse: b, gain: gain(3), waits: false },
      ],
      out,
    );
    for (const v of out) expect(v).toBeCloseTo(2 * 0.75 + 0.1 + 3, 5);
  });
  it('light the surfaces’ own colours: an edge stays where it is, and no light is made or lost', () => {
    const coarse = new Film(4, 4);
    // what a coarse camera sees of even light: the colours' means
    const of = (p: number) => (p % 4 < 2 ? 0.8 : 0.4);
    coarse.add(
      { x: 0, y: 0, width: 4, height: 4 },
      traced(16, of, () => 0, 1),
      0,
      1,
    );
    const voices: Voice[] = [{ film: noisy, coarse, gain: gain(1), waits: true }];
    const [without, withThem] = [new Float32Array(W * H * 3), new Float32Array(W * H * 3)];
    balance(plain, voices, without);
    balance(plain, voices, withThem, new FineColours(guides(), plain));
    const row = (picture: Float32Array) => Array.from({ length: W }, (_, x) => picture[(8 * W + x) * 3]!);
    // enlarged alone the edge is four pixels wide; with the colours it is none
    expect(row(without)[7]! - row(without)[8]!).toBeLessThan(0.15);
    expect(row(withThem)[7]! - row(withThem)[8]!).toBeGreaterThan(0.35);
    row(withThem).forEach((v, x) => expect(v).toBeCloseTo(x < W / 2 ? 0.8 : 0.4, 5));
  });
  it('gloss takes no colour, and where nothing is colours change nothing', () => {
    const coarse = flat(4, 4, 0, 0.3);
    const out = new Float32Array(W * H * 3);
    balance(plain, [{ film: noisy, coarse, gain: gain(1), waits: true }], out, new FineColours(guides(), plain));
    for (const v of out) expect(v).toBeCloseTo(0.3, 5);
    balance(
      plain,
      [{ film: noisy, coarse: flat(4, 4, 0.3, 0), gain: gain(1), waits: true }],
      out,
      new FineColours(new Guides(W, H), plain),
    );
    for (const v of out) expect(v).toBeCloseTo(0.3, 5);
  });
  it('a dark colour beside a light one makes no firefly', () => {
    const g = guides();
    for (let p = 0; p < W * H; p++) if (p % W >= W / 2) for (let c = 0; c < 3; c++) g.sums[p * 11 + 7 + c] = 0;
    const out = new Float32Array(W * H * 3);
    balance(plain, [{ film: noisy, coarse: flat(4, 4, 1, 0), gain: gain(1), waits: true }], out, new FineColours(g, plain));
    expect(Math.max(...out)).toBeLessThanOrEqual(4);
  });
  it('the guides know when all of them are there', () => {
    const g = guides();
    expect(g.least).toBe(1);
    g.counts[100] = 0;
    expect(g.least).toBe(0);
    expect(new Guides(0, 0).least).toBe(0);
  });
});

describe('what is measured in every picture', () => {
  it('tones fall into the bins that the logarithm says, but for a thousandth of a stop', () => {
    const values = Array.from({ length: 4000 }, (_, i) => 0.18 * 2 ** (-8 + (i / 4000) * 16));
    const { bins, clipped, crushed } = tonesOf(Float32Array.from(values.flatMap((v) => [v, v, v])));
    const expected = new Uint32Array(TONE_BINS);
    for (const v of values) {
      const bin = Math.floor(((toneOf(Math.fround(v)) + TONE_RANGE) / (2 * TONE_RANGE)) * TONE_BINS);
      expected[Math.min(TONE_BINS - 1, Math.max(0, bin))]!++;
    }
    // a value at the edge of a bin may fall on either side
    for (let i = 0; i < TONE_BINS; i++) expect(Math.abs(bins[i]! - expected[i]!)).toBeLessThanOrEqual(1);
    expect(bins.reduce((a, b) => a + b, 0)).toBe(4000);
    expect(clipped).toBeCloseTo(values.filter((v) => v >= 1).length / 4000, 3);
    expect(crushed).toBeCloseTo(values.filter((v) => v <= 0.18 / 64).length / 4000, 3);
  });
  it('of some pixels the tones lie where those of all lie', () => {
    const linear = Float32Array.from({ length: 3 * 5005 }, (_, i) => 0.18 * 2 ** (-7 + (((Math.floor(i / 3) * 7919) % 5005) / 5005) * 12));
    const all = tonesOf(linear),
      some = tonesOf(linear, 7);
    expect(some.bins.reduce((a, b) => a + b, 0)).toBe(715);
    expect(Math.abs(some.clipped - all.clipped)).toBeLessThan(0.02);
    expect(Math.abs(some.crushed - all.crushed)).toBeLessThan(0.02);
  });
  it('black, negative and endless values are tones too', () => {
    const t = tonesOf(Float32Array.from([0, 0, 0, -1, -1, -1, Infinity, Infinity, Infinity, 1e-30, 1e-30, 1e-30]));
    expect(t.bins[0]).toBe(3);
    expect(t.bins[TONE_BINS - 1]).toBe(1);
    expect(t.crushed).toBe(0.75);
    expect(t.clipped).toBe(0.25);
  });
  it('noise is the root mean square of what the films’ own variances say', () => {
    const n = 16,
      film = new Film(8, 8);
    film.counts.fill(n);
    film.missing = 0;
    film.plane('diffuse')!.fill(0.5);
    // each sample's luminance varies by 0.2 about 0.5
    const y = luminance(0.5, 0.5, 0.5);
    film.squares[0]!.fill(n * (y * y + 0.04));
    const shown = (v: number) => v * 255;
    const expected = Math.sqrt(0.04 / (n - 1)) * 255;
    expect(noiseOf([{ film, gain: gain(1) }], { x: 0, y: 0, width: 8, height: 8 }, shown)).toBeCloseTo(expected, 3);
    // level scales it, two lights add their variances, a silent light adds none
    expect(noiseOf([{ film, gain: gain(2) }], { x: 0, y: 0, width: 8, height: 8 }, shown)).toBeCloseTo(2 * expected, 3);
    const two = [
      { film, gain: gain(1) },
      { film, gain: gain(1) },
      { film: new Film(8, 8), gain: gain(0) },
    ];
    expect(noiseOf(two, { x: 0, y: 0, width: 8, height: 8 }, shown)).toBeCloseTo(Math.SQRT2 * expected, 3);
    film.counts.fill(1);
    expect(noiseOf([{ film, gain: gain(1) }], { x: 0, y: 0, width: 8, height: 8 }, shown)).toBe(Infinity);
  });
  it('and of a large picture from fewer points, to the same number', () => {
    const film = flat(160, 160, 0.4, 0.1, 8);
    for (let i = 0; i < film.counts.length; i++) film.squares[0]![i] = 8 * (0.16 + 0.01 * (1 + Math.sin(i)));
    const whole = noiseOf([{ film, gain: gain(1) }], { x: 0, y: 0, width: 160, height: 160 }, (v) => v * 255);
    const tiles = [0, 40, 80, 120].flatMap((y) => [0, 40, 80, 120].map((x) => ({ x, y, width: 40, height: 40 })));
    const parts = tiles.map((t) => noiseOf([{ film, gain: gain(1) }], t, (v) => v * 255) ** 2);
    expect(whole / Math.sqrt(parts.reduce((a, b) => a + b, 0) / 16)).toBeCloseTo(1, 1);
  });
});
