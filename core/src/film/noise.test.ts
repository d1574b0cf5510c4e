import { describe, expect, it } from '@jest/globals';
import { readFileSync } from 'node:fs';
import { compileKernel, plainFilmMath, simdFilmMath } from '@plinket/kernel';
import { gain, traced } from '../testing/films.ts';
import { GUIDE_CHANNELS } from '../trace/index.ts';
import { Film, Guides, noiseOf, Smoother, smoothInPlace } from './index.ts';

const plain = plainFilmMath();
const simd = simdFilmMath(compileKernel(readFileSync(new URL('../../../kernel/build/film.wasm', import.meta.url)))!);

describe('noise', () => {
  it('is told in steps of 8 bit', () => {
    const film = new Film(4, 4);
    // two samples of 0 and 0.2 for each pixel: mean 0.1, variance of the mean 0.01
    for (const v of [0, 0.2])
      film.add(
        { x: 0, y: 0, width: 4, height: 4 },
        traced(
          16,
          () => v,
          () => 0,
          1,
        ),
        0,
        1,
      );
    const voices = [{ film, gain: gain(1) }];
    expect(noiseOf(voices, { x: 0, y: 0, width: 4, height: 4 }, (y) => y * 255)).toBeCloseTo(25.5, 3);
    expect(noiseOf([{ film: new Film(4, 4), gain: gain(1) }], { x: 0, y: 0, width: 4, height: 4 }, (y) => y * 255)).toBe(Infinity);
  });
});

describe('noise removal', () => {
  const W = 48,
    N = 16;
  /** A wall whose left half is dark paper and right half light, seen straight on; samples are noisy around the truth. */
  function scene(math: typeof plain, kind: 'flat' | 'edge', H = 40) {
    const guides = new Guides(W, H),
      film = new Film(W, H, { math });
    const pixels = W * H,
      sums = new Float32Array(pixels * GUIDE_CHANNELS);
    const albedo = (p: number) => (kind === 'edge' && p % W >= W / 2 ? 0.8 : 0.2);
    for (let p = 0; p < pixels; p++)
      sums.set([1, 0, 0, 1, (p % W) * 0.001, Math.floor(p / W) * 0.001, 0, albedo(p), albedo(p), albedo(p), 2], p * GUIDE_CHANNELS);
    guides.add(
      { x: 0, y: 0, width: W, height: H },
      { sums, ids: new Int32Array(pixels * 2) },
      { alpha: new Float32Array(pixels).fill(1) },
      1,
    );
    let seed = 1;
    const random = () => ((seed = (Math.imul(seed, 1664525) + 1013904223) >>> 0) / 4294967296) * 2;
    for (let s = 0; s < N; s++)
      film.add(
        { x: 0, y: 0, width: W, height: H },
        traced(
          pixels,
          (p) => albedo(p) * random(),
          () => 0,
          1,
        ),
        0,
        1,
      );
    return { guides, film, albedo };
  }
  const H = 40;
  const error = (plane: Float32Array, truth: (p: number) => number) =>
    Math.sqrt(Array.from({ length: W * H }, (_, p) => (plane[p * 3]! - truth(p)) ** 2).reduce((s, v) => s + v) / (W * H));

  it.each(['flat', 'edge'] as const)('takes most of the noise out and keeps edges: %s', (kind) => {
    const { guides, film, albedo } = scene(simd, kind);
    const smoother = new Smoother(simd, guides);
    // given up in the middle of what all films share: the next one goes on with it
    const given = smoother.steps(film, N);
    for (let i = 0; i < 3; i++) given.next();
    given.return();
    expect(film.smooth).toBeUndefined();
    expect(smoother.smooth(film, N)).toBe(true);
    expect(error(film.smooth!.planes[0]!, albedo)).toBeLessThan(0.25 * error(film.plane('diffuse')!, albedo));
    // on both sides of the edge the tone is still its own
    for (const x of [W / 2 - 1, W / 2]) {
      const p = 20 * W + x;
      expect(film.smooth!.planes[0]![p * 3]! / albedo(p)).toBeCloseTo(1, 0);
      expect(Math.abs(film.smooth!.planes[0]![p * 3]! / albedo(p) - 1)).toBeLessThan(0.15);
    }
    smoother.release();
  });
  it('in SIMD is what the plain twin gives', () => {
    const [a, b] = [simd, plain].map((math) => {
      const { guides, film } = scene(math, 'edge');
      new Smoother(math, guides).smooth(film, N);
      return film.smooth!.planes[0]!;
    });
    b!.forEach((v, i) => expect(a![i]).toBeCloseTo(v, 4));
  });
  it('band by band, in place, gives what the whole frame at once gives, and mixes by its share', () => {
    // three bands of 96 rows, the last one short
    const whole = scene(simd, 'edge', 230),
      banded = scene(simd, 'edge', 230),
      half = scene(simd, 'edge', 230);
    new Smoother(simd, whole.guides).smooth(whole.film, N);
    expect(smoothInPlace(simd, banded.guides, [banded.film], N)).toBe(1);
    expect(smoothInPlace(simd, half.guides, [half.film], N, 0.5)).toBe(1);
    const wanted = whole.film.smooth!.planes[0]!;
    let most = 0;
    wanted.forEach((v, i) => {
      most = Math.max(most, Math.abs(banded.film.plane('diffuse')![i]! - v));
      expect(half.film.plane('diffuse')![i]!).toBeCloseTo((v + whole.film.plane('diffuse')![i]!) / 2, 5);
    });
    expect(most).toBeLessThan(1e-6);
    expect(smoothInPlace(simd, banded.guides, [banded.film], 3)).toBe(0);
  });
  it('waits until the variance says something', () => {
    const { guides, film } = scene(plain, 'flat');
    expect(new Smoother(plain, guides).smooth(film, 3)).toBe(false);
    expect(film.smooth).toBeUndefined();
  });
  it('keeps the mean of what it smooths', () => {
    const { guides, film } = scene(simd, 'flat');
    new Smoother(simd, guides).smooth(film, N);
    const mean = (a: Float32Array) => a.reduce((s, v) => s + v) / a.length;
    expect(mean(film.smooth!.planes[0]!) / mean(film.plane('diffuse')!)).toBeCloseTo(1, 1);
  });
});
