import { describe, expect, it } from '@jest/globals';
import { Film, Guides, LOOK_DEFAULTS, material, type CharacterAsset, type Gain } from '@plinket/core';
import type { Renderer } from '@plinket/engine';
import { plainFilmMath } from '../../../kernel/src/index.ts';
import { HEAD } from '../../../core/src/testing/setups.ts';
import { partsOf, reportOf } from './messages.ts';
import { Smoothing, type SmoothStep } from './smoothing.ts';
import { ThumbMaker } from './thumbs.ts';

const W = 12,
  H = 8;
/** A film of one grey, as if it had so many samples. */
function grey(value: number): Film {
  const film = new Film(W, H);
  film.diffuse.fill(value);
  film.counts.fill(4);
  film.squares.fill(4 * value * value);
  film.missing = 0;
  return film;
}
/** As much of a renderer as smoothing asks for. */
function pretend(samples: number, finished = false) {
  const films = new Map([
    ['key', { film: grey(0.5) }],
    ['fill', { film: grey(0.2) }],
  ]);
  const state = { films, guides: new Guides(W, H), finished, samples, samplesOf: () => state.samples, meanSamplesOf: () => state.samples };
  return { state, renderer: state as unknown as Renderer };
}

describe('smoothing', () => {
  /** Goes on until a film is smoothed or nothing is due; answers which, and how many parts it took. */
  const goOn = (smoothing: Smoothing, renderer: Renderer): { step: SmoothStep; parts: number } => {
    for (let parts = 0; parts < 100; parts++) {
      const step = smoothing.step(renderer);
      if (step !== 'part') return { step, parts };
    }
    throw new Error('It never ends.');
  };
  const smoothed = (state: ReturnType<typeof pretend>['state']) => [...state.films.values()].filter((f) => f.film.smooth).length;

  it('takes one film at a time, in parts between which the worker answers, and rests when none is due', () => {
    const { state, renderer } = pretend(4);
    const smoothing = new Smoothing(plainFilmMath());
    const { step, parts } = goOn(smoothing, renderer);
    expect(step).toBe('film');
    // two layers, each read, filtered four times and written
    expect(parts).toBeGreaterThanOrEqual(10);
    expect(smoothed(state)).toBe(1);
    expect(goOn(smoothing, renderer).step).toBe('film');
    expect(smoothing.step(renderer)).toBe('none');
  });
  it('shows nothing of a film until both its layers are done', () => {
    const { state, renderer } = pretend(4);
    const smoothing = new Smoothing(plainFilmMath());
    for (let i = 0; i < 8; i++) expect(smoothing.step(renderer)).toBe('part');
    expect(smoothed(state)).toBe(0);
  });
  it('waits for twice the samples, or for the end', () => {
    const { state, renderer } = pretend(8);
    const smoothing = new Smoothing(plainFilmMath());
    while (smoothing.step(renderer) !== 'none');
    state.samples = 12;
    expect(smoothing.step(renderer)).toBe('none');
    state.finished = true;
    expect(goOn(smoothing, renderer).step).toBe('film');
    expect(goOn(smoothing, renderer).step).toBe('film');
    expect(smoothing.step(renderer)).toBe('none');
  });
  it('gives a film up whose light has moved, with the memory that it took', () => {
    const { state, renderer } = pretend(4);
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
    for (let i = 0; i < 5; i++) smoothing.step(renderer);
    const old = state.films.get('key')!.film;
    state.films.set('key', { film: grey(0.7) });
    smoothing.step(renderer);
    expect(old.smooth).toBeUndefined();
    while (smoothing.step(renderer) !== 'none');
    expect(smoothed(state)).toBe(2);
    smoothing.release();
    // what is left is what the two films show
    expect(taken).toEqual(new Set([...state.films.values()].flatMap(({ film }) => [film.smooth!.diffuse, film.smooth!.specular])));
  });
  it('leaves films alone that say nothing about their noise yet', () => {
    expect(new Smoothing(plainFilmMath()).step(pretend(2).renderer)).toBe('none');
  });
});

describe('small pictures', () => {
  const full: Gain = { diffuse: [1, 1, 1], specular: [0, 0, 0], volume: [0, 0, 0] };
  it('show a film at its level, in the look’s view', () => {
    const thumb = new ThumbMaker(plainFilmMath()).make('key', { film: grey(1) }, full, { ...LOOK_DEFAULTS, view: 'plain' }, [6, 3]);
    expect(thumb).toMatchObject({ id: 'key', width: 6, height: 3 });
    const bytes = new Uint8Array(thumb.rgba);
    expect(bytes.length).toBe(6 * 3 * 4);
    expect(bytes[0]).toBeGreaterThanOrEqual(254);
  });
  it('come from the coarse film while the fine one has gaps', () => {
    const fine = new Film(W, H);
    const thumb = new ThumbMaker(plainFilmMath()).make(
      'key',
      { film: fine, coarse: grey(1) },
      full,
      { ...LOOK_DEFAULTS, view: 'plain' },
      [6, 3],
    );
    expect(new Uint8Array(thumb.rgba)[0]).toBeGreaterThan(250);
  });
});

describe('what the page is told of a character', () => {
  const skin = material({ name: 'skin', subsurface: 1, freePath: [0.003, 0.001, 0.0005], sheen: [0.1, 0.4, 0.2] });
  const triangle = { positions: new Float32Array(9), normals: new Float32Array(9), indices: Uint32Array.from([0, 1, 2]) };
  const asset: CharacterAsset = {
    name: 'Goat',
    parts: [
      { name: 'hide', ...triangle, material: skin },
      { name: 'horn', ...triangle, material: material({ roughness: 0.3 }) },
    ],
    bounds: { min: [-0.5, 0.1, -0.2], max: [0.5, 1.6, 0.2] },
    triangles: 2,
    head: HEAD,
    landmarks: { noseTip: [0, 1, 0] },
    warnings: [],
  };
  it('is its size in metres, its parts and landmarks', () => {
    expect(reportOf(asset, 'goat.glb')).toMatchObject({ size: { width: 1, height: 1.5 }, floor: 0.1, triangles: 2, landmarks: 1 });
  });
  it('are its parts’ surfaces, with paths in millimetres', () => {
    const [hide, horn] = partsOf(asset);
    expect(hide).toMatchObject({ name: 'hide', subsurface: 1, freePath: [3, 1, 0.5], sheen: 0.4 });
    expect(horn).toMatchObject({ name: 'horn', roughness: 0.3, subsurface: 0 });
  });
});
