import { describe, expect, it } from '@jest/globals';
import { plainFilmMath, type FilmMath } from '@plinket/kernel';
import { gainOn, SEEN_LAYERS } from '../setup/index.ts';
import { flat, traced } from '../testing/films.ts';
import { balance, type Voice } from './index.ts';
import { FilmSum } from './film-sum.ts';

const W = 8,
  H = 4;
/** Arithmetic that counts how many planes it read. */
function counting(): { math: FilmMath; planes: () => number } {
  const math = plainFilmMath();
  let n = 0;
  return {
    math: { ...math, accumulate: (out, a, b, from, count, g, h) => (n++, math.accumulate(out, a, b, from, count, g, h)) },
    planes: () => n,
  };
}
const films = Array.from({ length: 6 }, (_, i) => flat(W, H, 0.1 * (i + 1), 0.02 * i));
const voices = (...levels: number[]): Voice[] =>
  levels.map((v, i) => ({ film: films[i]!, gain: gainOn([v, v * 0.9, v * 0.8], SEEN_LAYERS) }));
const anew = (of: Voice[]): number[] => {
  const out = new Float32Array(W * H * 3);
  balance(plainFilmMath(), of, out);
  return [...out];
};

describe('a sum that follows levels', () => {
  it('is what balance makes, with less to read where one light changed', () => {
    const { math, planes } = counting();
    const sum = new FilmSum(math, SEEN_LAYERS, W * H);
    sum.make(voices(1, 1, 1, 1, 1, 1));
    const whole = planes();
    const now = voices(1, 1, 2.5, 1, 1, 1);
    const made = [...sum.make(now)];
    expect(planes() - whole).toBeLessThan(whole);
    anew(now).forEach((v, i) => expect(made[i]).toBeCloseTo(v, 5));
    // the same again reads nothing
    const before = planes();
    expect([...sum.make(voices(1, 1, 2.5, 1, 1, 1))]).toEqual(made);
    expect(planes()).toBe(before);
  });
  it('does not drift over a long drag down, and forgets what was a thousand times as bright', () => {
    const sum = new FilmSum(plainFilmMath(), SEEN_LAYERS, W * H);
    let last = voices(1e7, 1, 1, 1, 1, 1);
    sum.make(last);
    for (let step = 0; step < 200; step++) {
      last = voices(1e7 * 2 ** (-step / 4), 1, 1, 1, 1, 1);
      sum.make(last);
    }
    const made = [...sum.make(last)];
    anew(last).forEach((v, i) => expect(Math.abs(made[i]! / v - 1)).toBeLessThan(1e-4));
  });
  it('begins anew where films got samples, and where most of them changed', () => {
    const sum = new FilmSum(plainFilmMath(), SEEN_LAYERS, W * H);
    const own = flat(W, H, 0.3, 0.1);
    const of = (level: number): Voice[] => [...voices(1, 1, 1, 1, 1), { film: own, gain: gainOn([level, level, level], SEEN_LAYERS) }];
    sum.make(of(1));
    own.add(
      { x: 0, y: 0, width: W, height: H },
      traced(
        W * H,
        () => 0.9,
        () => 0,
        4,
      ),
      0,
      4,
    );
    expect([...sum.make(of(1))]).toEqual(anew(of(1)));
    expect([...sum.make(voices(3, 2, 4, 2, 5, 6))]).toEqual(anew(voices(3, 2, 4, 2, 5, 6)));
  });
});
