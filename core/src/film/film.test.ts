import { describe, expect, it } from '@jest/globals';
import { readFileSync } from 'node:fs';
import { compileKernel, plainFilmMath, simdFilmMath } from '@plinket/kernel';
import { encodeSrgb, luminance } from '../photometry/index.ts';
import { LOOK_DEFAULTS, type Look } from '../setup/index.ts';
import { flat, gain, traced } from '../testing/films.ts';
import {
  applyTouches,
  balance,
  CLIPPED_COLOUR,
  CubeError,
  Developer,
  extended,
  falseTones,
  Film,
  filmic,
  readCube,
  tilesOf,
  TONE_BINS,
  TONE_COLOURS,
  toneOf,
  tonesOf,
  type Voice,
} from './index.ts';

const plain = plainFilmMath();
const simd = simdFilmMath(compileKernel(readFileSync(new URL('../../../kernel/build/film.wasm', import.meta.url)))!);
const look = (more: Partial<Look> = {}): Look => ({ ...LOOK_DEFAULTS, view: 'plain', smooth: 0, ...more });

const picture = (voices: Voice[], pixels: number) => {
  const out = new Float32Array(pixels * 3).fill(9);
  balance(plain, voices, out);
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
    coarse.add(
      { x: 0, y: 0, width: 2, height: 2 },
      traced(
        4,
        (p) => p % 2,
        (p) => p % 2,
        1,
      ),
      0,
      1,
    );
    const row = [...picture([{ film: fine, coarse, gain: gain(0.5) }], 64)].filter((_, i) => i % 3 === 0).slice(0, 8);
    expect(row[0]).toBe(0);
    expect(row[7]).toBe(1);
    for (let i = 1; i < 8; i++) expect(row[i]!).toBeGreaterThanOrEqual(row[i - 1]!);
    const seven = () => 7;
    fine.add({ x: 0, y: 0, width: 1, height: 1 }, traced(1, seven, seven, 1), 0, 1);
    expect(picture([{ film: fine, coarse, gain: gain(1) }], 64)[0]).toBe(14);
  });
  it('in SIMD is what the plain twin gives, for any number of pixels', () => {
    for (const [w, h] of [
      [7, 5],
      [64, 33],
    ] as const) {
      const make = (math: typeof plain) => {
        const film = new Film(w, h, { math });
        film.add(
          { x: 0, y: 0, width: w, height: h },
          traced(
            w * h,
            (p) => Math.sin(p),
            (p) => Math.cos(p),
            3,
          ),
          0,
          3,
        );
        const out = math.floats(w * h * 3);
        balance(math, [{ film, gain: { diffuse: [1, 2, 3], specular: [0.5, 0.25, 4], volume: [0, 0, 0] } }], out);
        return out;
      };
      const a = make(simd);
      make(plain).forEach((v, i) => expect(a[i]).toBeCloseTo(v, 5));
    }
  });
});

describe('a film', () => {
  it('adds tiles where they belong', () => {
    const film = new Film(6, 4);
    const one = () => 1;
    film.add({ x: 2, y: 1, width: 3, height: 2 }, traced(6, one, one, 5), 0, 5);
    expect(film.counts[0]).toBe(0);
    expect(film.counts[1 * 6 + 2]).toBe(5);
    expect(film.counts[2 * 6 + 4]).toBe(5);
    expect(film.counts[2 * 6 + 5]).toBe(0);
    expect(film.missing).toBe(18);
    expect(film.plane('diffuse')!.reduce((s, v) => s + v)).toBeCloseTo(18, 5);
  });
  it('holds means and the variance of means: of 2, 4, 4, 4, 5, 5, 7, 9 it is 32 / 7 / 8', () => {
    const film = new Film(1, 1);
    for (const v of [2, 4, 4, 4, 5, 5, 7, 9])
      film.add(
        { x: 0, y: 0, width: 1, height: 1 },
        traced(
          1,
          () => v,
          () => 0,
          1,
        ),
        0,
        1,
      );
    expect(film.plane('diffuse')![0]).toBeCloseTo(5, 6);
    expect(film.variance(0, 0)).toBeCloseTo(32 / 7 / 8, 5);
    expect(film.variance(0, 1)).toBe(0);
    expect(new Film(1, 1).variance(0, 0)).toBe(Infinity);
  });
  it('gives its memory back, and takes nothing in afterwards', () => {
    const before = simd.used;
    const film = flat(16, 16, 1, 1, 2, simd);
    expect(simd.used).toBeGreaterThan(before + 16 * 16 * 24);
    film.release();
    expect(simd.used).toBe(before);
    const other = new Film(16, 16, { math: simd });
    const late = () => 5;
    film.add({ x: 0, y: 0, width: 16, height: 16 }, traced(256, late, late, 1), 0, 1);
    expect(other.plane('diffuse')!.every((v) => v === 0)).toBe(true);
    other.release();
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
  const shown = (rgb: number[], l: Look, math = plain): number[] => {
    const linear = math.floats(rgb.length);
    linear.set(rgb);
    const out = math.bytes((rgb.length / 3) * 4);
    new Developer(math).develop(linear, rgb.length / 3, l, out, { dither: false });
    return [...out];
  };
  const byte = (v: number) => encodeSrgb(Math.min(1, Math.max(0, v))) * 255;
  it('Khronos PBR Neutral: base colours keep, highlights roll off below 1', () => {
    const mid = shown([0.4, 0.3, 0.2], look({ view: 'neutral' }));
    [0.36, 0.26, 0.16].forEach((v, i) => expect(Math.abs(mid[i]! - byte(v))).toBeLessThan(0.6));
    const white = shown([1, 1, 1], look({ view: 'neutral' }));
    expect(Math.abs(white[0]! - byte(1 - 0.24 ** 2 / (0.96 + 0.24 - 0.76)))).toBeLessThan(0.6);
    const dark = shown([0.02, 0.02, 0.02], look({ view: 'neutral' }));
    expect(Math.abs(dark[0]! - byte(6.25 * 0.02 ** 2))).toBeLessThan(0.6);
    const hot = shown([100, 50, 20], look({ view: 'neutral' }));
    expect(hot[0]).toBeGreaterThanOrEqual(hot[1]!);
    expect(hot[1]).toBeGreaterThan(hot[2]!);
  });
  it.each(['neutral', 'plain', 'filmic', 'extended'] as const)('%s never falls when the light rises, and begins at black', (view) => {
    const ramp = Array.from({ length: 900 }, (_, i) => Math.floor(i / 3) * 0.02);
    const out = shown(ramp, look({ view })).filter((_, i) => i % 4 === 0);
    expect(out[0]).toBe(0);
    for (let i = 1; i < out.length; i++) expect(out[i]!).toBeGreaterThanOrEqual(out[i - 1]!);
  });
  it('plain is the sRGB curve to the nearest step, clipped at both ends', () => {
    const values = Array.from({ length: 300 }, (_, i) => (i - 20) / 256);
    const out = shown(values, look());
    for (let p = 0; p < 100; p++)
      for (let c = 0; c < 3; c++) expect(Math.abs(out[p * 4 + c]! - byte(values[p * 3 + c]!))).toBeLessThan(0.6);
    expect(out[3]).toBe(255);
  });
  it('filmic is Hable’s curve: 0 at 0, 1 at half its white of 11.2 (his exposure bias is 2)', () => {
    expect(filmic(0)).toBeCloseTo(0, 12);
    expect(filmic(5.6)).toBeCloseTo(1, 12);
    // by hand at x = 0.5: f(1) / f(11.2) = (0.204/0.71 − 1/15) / (19.38/20.556 … ) with the published constants
    const f = (v: number) => (v * (0.15 * v + 0.1 * 0.5) + 0.2 * 0.02) / (v * (0.15 * v + 0.5) + 0.2 * 0.3) - 0.02 / 0.3;
    expect(filmic(0.5)).toBeCloseTo(f(1) / f(11.2), 12);
  });
  it('extended maps its white to 1 and is L / (1 + L) far below (Reinhard 2002, eq. 3 and 4)', () => {
    expect(extended(4, 4)).toBeCloseTo(1, 12);
    expect(extended(0.01, 1e6)).toBeCloseTo(0.01 / 1.01, 9);
  });
  it('contrast turns around middle grey: a slope in stops per stop', () => {
    const [grey, , , , up] = shown([0.18, 0.18, 0.18, 0.36, 0.36, 0.36], look({ contrast: 1.5 }));
    expect(Math.abs(grey! - byte(0.18))).toBeLessThan(0.6);
    expect(Math.abs(up! - byte(0.18 * 2 ** 1.5))).toBeLessThan(0.6);
  });
  it('a white point takes the colour of its light out', () => {
    const out = shown([0.5, 0.5, 0.5], look({ white: 4000 }));
    expect(out[2]).toBeGreaterThan(out[0]!);
    for (const v of shown([0.5, 0.5, 0.5], look({ white: 6500 })).slice(0, 3)) expect(Math.abs(v - byte(0.5))).toBeLessThan(0.6);
  });
  it.each(['neutral', 'plain', 'filmic', 'extended'] as const)('%s in SIMD is what the plain twin gives', (view) => {
    const rgb = Array.from({ length: 999 }, (_, i) => ((i * 7919) % 1000) / 400 - 0.1);
    const l = look({ view, white: 5000, contrast: 1.2 });
    const a = shown(rgb, l, simd);
    shown(rgb, l).forEach((v, i) => expect(Math.abs(a[i]! - v)).toBeLessThanOrEqual(1));
  });
  it.each([1, 3, 37, 64, 70, 199])('rows of %i pixels, dithered, in SIMD are what the plain twin gives', (width) => {
    const developed = [simd, plain].map((math) => {
      const linear = math.floats(width * 70 * 3),
        out = math.bytes(width * 70 * 4);
      for (let i = 0; i < linear.length; i++) linear[i] = ((i * 7919) % 1000) / 900;
      new Developer(math).develop(linear, width, look({ view: 'filmic' }), out);
      return [...out];
    });
    const off = developed[0]!.map((v, i) => Math.abs(v - developed[1]![i]!));
    expect(off.every((d) => d <= 1)).toBe(true);
    // rounding differs now and then; a mask that is out of place would differ at every other pixel
    expect(off.filter((d) => d > 0).length).toBeLessThan(off.length / 50);
  });
  it('dither keeps the mean of a tone between two steps', () => {
    const math = simd,
      n = 64 * 64;
    // halfway between 99 and 100
    const v = ((99.5 / 255 + 0.055) / 1.055) ** 2.4;
    const linear = math.floats(n * 3).fill(v),
      out = math.bytes(n * 4);
    new Developer(math).develop(linear, 64, look(), out);
    const red = [...out].filter((_, i) => i % 4 === 0);
    expect(new Set(red)).toEqual(new Set([99, 100]));
    expect(red.reduce((s, x) => s + x) / n).toBeCloseTo(99.5, 1);
  });
});

describe('a look-up cube', () => {
  const identity = (size: number, more = '') =>
    `TITLE "same"\n# a remark\nLUT_3D_SIZE ${size}\n${more}` +
    Array.from({ length: size ** 3 }, (_, i) =>
      [i % size, Math.floor(i / size) % size, Math.floor(i / size / size)].map((v) => v / (size - 1)).join(' '),
    ).join('\n');
  it('that changes nothing changes nothing, in SIMD and plain', () => {
    const cube = readCube(identity(5), 'x');
    expect(cube).toMatchObject({ title: 'same', size: 5 });
    for (const math of [plain, simd]) {
      const linear = math.floats(300).map((_, i) => i / 299),
        own = math.floats(300);
      own.set(linear);
      const a = math.bytes(400),
        b = math.bytes(400);
      new Developer(math).develop(own, 100, look({ view: 'lut' }), a, { cube, dither: false });
      new Developer(math).develop(own, 100, look(), b, { dither: false });
      a.forEach((v, i) => expect(Math.abs(v - b[i]!)).toBeLessThanOrEqual(1));
    }
  });
  it('over another domain is scaled to 0…1', () => {
    const cube = readCube(identity(3, 'DOMAIN_MIN 0 0 0\nDOMAIN_MAX 2 2 2\n'));
    // 1 lies halfway through 0…2, where the identity says ½
    expect(cube.values.at(-1)).toBeCloseTo(0.5, 6);
  });
  it.each([
    ['no size', '0 0 0\n', /Line 1: numbers come before LUT_3D_SIZE/],
    ['too few', 'LUT_3D_SIZE 2\n0 0 0\n', /1 entries where 2³ = 8/],
    ['too many', identity(2) + '\n1 1 1', /more than 2³ entries/],
    ['words', 'LUT_3D_SIZE 2\nred green blue', /Line 2: “red green blue” is not three numbers/],
    ['one dimension', 'LUT_1D_SIZE 16\n', /one-dimensional/],
    ['absurd size', 'LUT_3D_SIZE 9999\n', /from 2 to 129/],
    ['nothing', '', /LUT_3D_SIZE is missing/],
  ])('that is broken is refused: %s', (_name, text, message) => {
    expect(() => readCube(text)).toThrow(CubeError);
    expect(() => readCube(text)).toThrow(message);
  });
});

describe('last touches', () => {
  const spot = () => {
    const p = new Float32Array(40 * 30 * 3);
    p.fill(1, (15 * 40 + 20) * 3, (15 * 40 + 20) * 3 + 3);
    return p;
  };
  const sum = (a: Float32Array) => a.reduce((s, v) => s + v);
  it('glare spreads light and loses none', () => {
    const p = spot();
    applyTouches(p, 40, 30, look({ glare: 1 }));
    expect(sum(p)).toBeCloseTo(3, 3);
    expect(p[(15 * 40 + 20) * 3]).toBeLessThan(1);
    expect(p[(15 * 40 + 24) * 3]).toBeGreaterThan(0);
  });
  it('fringe leaves the middle and green alone', () => {
    const p = Float32Array.from({ length: 40 * 30 * 3 }, (_, i) => Math.floor(i / 3) % 40),
      before = p.slice();
    applyTouches(p, 40, 30, look({ fringe: 1 }));
    expect(p[(15 * 40 + 20) * 3]).toBeCloseTo(20, 5);
    expect(p[(15 * 40 + 38) * 3 + 1]).toBe(before[(15 * 40 + 38) * 3 + 1]);
    expect(p[(15 * 40 + 38) * 3]).toBeLessThan(38);
  });
  it('vignette darkens the corners, not the middle; grain keeps the mean within a percent', () => {
    const p = new Float32Array(40 * 30 * 3).fill(1);
    applyTouches(p, 40, 30, look({ vignette: 1 }));
    expect(p[(15 * 40 + 20) * 3]).toBeCloseTo(1, 2);
    expect(p[0]).toBeLessThan(0.5);
    const g = new Float32Array(200 * 200 * 3).fill(1);
    applyTouches(g, 200, 200, look({ grain: 1 }));
    expect(sum(g) / g.length).toBeCloseTo(1, 1);
    expect(new Set(g).size).toBeGreaterThan(100);
  });
});

describe('false tones', () => {
  it('show each stop in its own colour, darker below, and what is clipped apart', () => {
    const values = [0.18, 0.36, 0.09, 5].flatMap((v) => [v, v, v]);
    const out = new Uint8ClampedArray(16);
    falseTones(Float32Array.from(values), out);
    expect([...out.slice(0, 3)]).toEqual(TONE_COLOURS[6]);
    expect([...out.slice(4, 7)]).toEqual(TONE_COLOURS[7]);
    expect([...out.slice(8, 11)]).toEqual(TONE_COLOURS[5]);
    expect([...out.slice(12, 15)]).toEqual(CLIPPED_COLOUR);
  });
  it('rise in lightness from stop to stop', () => {
    const y = TONE_COLOURS.map(([r, g, b]) => luminance((r / 255) ** 2.2, (g / 255) ** 2.2, (b / 255) ** 2.2));
    for (let i = 1; i < y.length; i++) expect(y[i]!).toBeGreaterThan(y[i - 1]!);
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
});
