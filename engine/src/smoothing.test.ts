import { describe, expect, it } from '@jest/globals';
import { Film, Guides } from '@plinket/core';
import { plainFilmMath } from '@plinket/kernel';
import { Smoothing, type FilmSet, type SmoothStep } from './index.ts';

const W = 12,
  H = 8;
/** A film of one grey, as if it had so many samples. */
function grey(value: number): Film {
  const film = new Film(W, H);
  film.plane('diffuse')!.fill(value);
  film.counts.fill(4);
  for (const squares of film.squares) squares.fill(4 * value * value);
  film.missing = 0;
  return film;
}
/** As much of a set of films as smoothing asks for. */
function pretend(samples: number) {
  const films = new Map([
    ['key', { film: grey(0.5) }],
    ['fill', { film: grey(0.2) }],
  ]);
  const state = { films, guides: new Guides(W, H), samples, samplesOf: () => state.samples, meanSamplesOf: () => state.samples };
  return { state, set: state as unknown as FilmSet };
}

describe('smoothing', () => {
  /** Goes on until a film is smoothed or nothing is due; answers which, and how many parts it took. */
  const goOn = (smoothing: Smoothing, set: FilmSet, finished = false): { step: SmoothStep; parts: number } => {
    for (let parts = 0; parts < 100; parts++) {
      const step = smoothing.step(set, finished);
      if (step !== 'part') return { step, parts };
    }
    throw new Error('It never ends.');
  };
  const smoothed = (state: ReturnType<typeof pretend>['state']) => [...state.films.values()].filter((f) => f.film.smooth).length;

  it('takes one film at a time, in parts between which the worker answers, and rests when none is due', () => {
    const { state, set } = pretend(4);
    const smoothing = new Smoothing(plainFilmMath());
    const { step, parts } = goOn(smoothing, set);
    expect(step).toBe('film');
    // two layers, each read, filtered four times and written
    expect(parts).toBeGreaterThanOrEqual(10);
    expect(smoothed(state)).toBe(1);
    expect(goOn(smoothing, set).step).toBe('film');
    expect(smoothing.step(set, false)).toBe('none');
  });
  it('shows nothing of a film until both its layers are done', () => {
    const { state, set } = pretend(4);
    const smoothing = new Smoothing(plainFilmMath());
    for (let i = 0; i < 8; i++) expect(smoothing.step(set, false)).toBe('part');
    expect(smoothed(state)).toBe(0);
  });
  it('waits for twice the samples, or for the end', () => {
    const { state, set } = pretend(8);
    const smoothing = new Smoothing(plainFilmMath());
    while (smoothing.step(set, false) !== 'none');
    state.samples = 12;
    expect(smoothing.step(set, false)).toBe('none');
    expect(goOn(smoothing, set, true).step).toBe('film');
    expect(goOn(smoothing, set, true).step).toBe('film');
    expect(smoothing.step(set, true)).toBe('none');
  });
  it('gives a film up whose light has moved, with the memory that it took', () => {
    const { state, set } = pretend(4);
    // counts what is taken and given back
    const plain = plainFilmMath();
    const taken = new Set<unknown>();
    const math: typeof plain = {
      ...plain,
      floats: (n) => {
        const array = plain.floats(n);
        taken.add(array);
        return array;
      },
      free: (array) => void taken.delete(array),
    };
    const smoothing = new Smoothing(math);
    for (let i = 0; i < 5; i++) smoothing.step(set, false);
    const old = state.films.get('key')!.film;
    state.films.set('key', { film: grey(0.7) });
    smoothing.step(set, false);
    expect(old.smooth).toBeUndefined();
    while (smoothing.step(set, false) !== 'none');
    expect(smoothed(state)).toBe(2);
    smoothing.release();
    // what is left is what the two films show
    expect(taken).toEqual(new Set([...state.films.values()].flatMap(({ film }) => [film.smooth!.planes[0]!, film.smooth!.planes[1]!])));
  });
  it('leaves films alone that say nothing about their noise yet', () => {
    expect(new Smoothing(plainFilmMath()).step(pretend(2).set, false)).toBe('none');
  });
});
