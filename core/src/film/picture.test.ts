import { describe, expect, it } from '@jest/globals';
import { plainFilmMath } from '@plinket/kernel';
import type { Scene } from '../scene/index.ts';
import { applyPatch, type Plate, type Setup } from '../setup/index.ts';
import { flat } from '../testing/films.ts';
import { panelLight, setupWith } from '../testing/setups.ts';
import { alphaPlane, Film, Guides, OPENNESS, pickAt, PictureMaker, type FilmSource, type PictureFiles, type Shown } from './index.ts';

const W = 4,
  H = 2;
/** Guides of a frame whose left half shows a ball 3 m away, two samples a pixel; one pixel is covered by half. */
function guides(): Guides {
  const g = new Guides(W, H);
  for (let p = 0; p < W * H; p++) {
    g.counts[p] = 2;
    if (p % W >= 2) continue;
    g.alpha[p] = p === 5 ? 1 : 2;
    g.sums[p * 11] = g.alpha[p]!;
    [0.5, 1.5, -1].forEach((v, c) => (g.sums[p * 11 + 4 + c] = v * g.alpha[p]!));
    g.sums[p * 11 + 10] = 3 * g.alpha[p]!;
    g.ids[p * 2] = 1;
  }
  return g;
}
const sourceOf = (films: Record<string, Shown>, own = guides()): FilmSource => ({
  width: W,
  height: H,
  guides: own,
  shown: (id) => films[id],
});
const none: PictureFiles = { gobo: () => undefined, cube: () => undefined };
const maker = (files = none) => new PictureMaker(plainFilmMath(), files);
/** Two lights at the camera's white: a film of 0.1 shows as 0.1. */
const level = panelLight().output;
const setup: Setup = applyPatch(setupWith({ key: panelLight(), fill: panelLight({ name: 'Fill', on: false }) }), {
  camera: { ev: 0 },
  lights: { items: { key: { output: { ...level, value: 1 } }, fill: { output: { ...level, value: 1 } } } },
});
const lit = sourceOf({ key: { film: flat(W, H, 0.1, 0.02) }, fill: { film: flat(W, H, 0.05, 0) } });
const factor = (s: Setup) => maker().voices(lit, s)[0]!.gain.diffuse[0];

describe('from films to pixels', () => {
  it('what is heard is what is on, or soloed; what is of another size or not there is left out', () => {
    const m = maker();
    expect(m.voices(lit, setup).map((v) => v.gain.diffuse[0] > 0)).toEqual([true, false]);
    expect(m.voices(lit, setup, ['fill']).map((v) => v.gain.diffuse[0] > 0)).toEqual([false, true]);
    expect(m.voices(sourceOf({ key: { film: new Film(2, 2) } }), setup)).toEqual([]);
  });
  it('is balance, linear, in every pixel', () => {
    const { linear } = maker().linear(lit, { setup });
    for (let i = 0; i < W * H; i++) expect(linear[i * 3]! / (0.12 * factor(setup))).toBeCloseTo(1, 5);
  });
  it('a coarse film waits for the fine one where noise is removed, and gives way where there is none to remove', () => {
    const film = flat(W, H, 0.1, 0),
      coarse = flat(2, 1, 0.4, 0);
    const voices = (smooth: number) => maker().voices(sourceOf({ key: { film, coarse } }), applyPatch(setup, { look: { smooth } }));
    expect(voices(1)[0]!.waits).toBe(true);
    expect(voices(0)[0]!.waits).toBe(false);
  });
  it('says whether all that is heard is free of noise', () => {
    const smooth = applyPatch(setup, { look: { smooth: 1 }, lights: { items: { fill: null } } });
    expect(maker().make(lit, { setup: smooth }).smoothed).toBe(false);
    const film = flat(W, H, 0.1, 0);
    film.smooth = { planes: film.planes.map((p) => p.slice()), samples: 4 };
    expect(maker().make(sourceOf({ key: { film } }), { setup: smooth }).smoothed).toBe(true);
  });
  it('writes over its own room, and grows when the size changes', () => {
    const math = plainFilmMath(),
      m = new PictureMaker(math, none);
    const first = m.make(lit, { setup }).rgba;
    expect(m.make(lit, { setup }).rgba).toBe(first);
    const wide = { ...lit, width: 8, guides: new Guides(8, H), shown: () => ({ film: flat(8, H, 0.1, 0) }) };
    expect(m.make(wide, { setup }).rgba).toHaveLength(8 * H * 4);
  });
  it('tones are measured with the plate, before touches', () => {
    const touched = applyPatch(setup, { look: { vignette: 1, grain: 1, glare: 1 } });
    const tones = (s: Setup) => maker().make(lit, { setup: s, measure: 1 }).tones;
    expect(tones(touched)).toEqual(tones(setup));
    expect(tones(setup)!.bins.reduce((a, b) => a + b)).toBe(W * H);
    expect(maker().make(lit, { setup }).tones).toBeUndefined();
    expect([...maker().make(lit, { setup: touched }).rgba]).not.toEqual([...maker().make(lit, { setup }).rgba]);
  });
  it('false colours and openness leave the look alone', () => {
    const m = maker();
    const looked = [...m.make(lit, { setup }).rgba];
    m.make(lit, { setup, kind: 'tones' });
    const open = sourceOf({ ...{ key: lit.shown('key')!, fill: lit.shown('fill')! }, [OPENNESS.id]: { film: flat(W, H, 1, 0) } });
    const white = m.make(open, { setup: applyPatch(setup, { look: { view: 'filmic', contrast: 2 } }), kind: 'openness' }).rgba;
    expect(white[0]).toBeGreaterThanOrEqual(254);
    expect([...m.make(lit, { setup }).rgba]).toEqual(looked);
    // and nothing is known of how open it is while no film says so
    expect(m.make(lit, { setup, kind: 'openness' }).rgba[0]).toBe(0);
  });
});

describe('what is covered', () => {
  it('is white, half covered grey, open black, all of it opaque, and the same as numbers', () => {
    const { rgba } = maker().make(lit, { setup, kind: 'alpha' });
    expect([...rgba.subarray(0, 4)]).toEqual([255, 255, 255, 255]);
    expect([...rgba.subarray(5 * 4, 5 * 4 + 4)]).toEqual([128, 128, 128, 255]);
    expect([...rgba.subarray(3 * 4, 3 * 4 + 4)]).toEqual([0, 0, 0, 255]);
    expect([...alphaPlane(guides())]).toEqual([1, 1, 0, 0, 1, 0.5, 0, 0]);
  });
});

describe('a plate', () => {
  const plate: Plate = { ...setup.plate, kind: 'radial', from: [0.4, 0.4, 0.4], to: [0.4, 0.4, 0.4] };
  const dark = sourceOf({});
  const behind = (more: Partial<Plate> = {}, source = dark, files = none) =>
    maker(files).linear(source, { setup: { ...setup, plate: { ...plate, ...more } } }).linear;

  it('stands behind what is covered, and shines through by half where half is', () => {
    const picture = behind();
    expect([picture[0], picture[5 * 3], picture[3 * 3]]).toEqual([0, expect.closeTo(0.2, 6), expect.closeTo(0.4, 6)]);
  });
  it('waits until it is known what is covered; there is none without one, nor behind a share on its own', () => {
    expect(behind({}, sourceOf({}, new Guides(1, 1))).every((v) => v === 0)).toBe(true);
    expect(behind({ kind: 'none' }).every((v) => v === 0)).toBe(true);
    expect(
      maker()
        .linear(dark, { setup: { ...setup, plate }, bare: true })
        .linear.every((v) => v === 0),
    ).toBe(true);
  });
  it('is asked for its picture by name', () => {
    const asked: string[] = [];
    behind({ kind: 'picture', asset: 'f'.repeat(64) }, dark, { ...none, gobo: (sha) => void asked.push(sha) });
    expect(asked).toEqual(['f'.repeat(64)]);
  });
});

describe('small pictures', () => {
  const whole = (source: FilmSource) => maker().small(source, applyPatch(setup, { look: { view: 'plain' } }), 'key', [6, 3]);
  it('show a light at its level, in the look’s view, also while it is off', () => {
    const bright = sourceOf({ key: { film: flat(W, H, 5, 0) } });
    const rgba = whole(bright)!;
    expect(rgba).toHaveLength(6 * 3 * 4);
    expect(rgba[0]).toBeGreaterThanOrEqual(254);
    const off = applyPatch(setup, { look: { view: 'plain' }, lights: { items: { key: { on: false } } } });
    expect([...maker().small(bright, off, 'key', [6, 3])!]).toEqual([...rgba]);
  });
  it('come from the coarse film while the fine one has gaps, from the smooth one when that is there', () => {
    const fine = new Film(W, H);
    expect(whole(sourceOf({ key: { film: fine, coarse: flat(2, 1, 5, 0) } }))![0]).toBeGreaterThan(250);
    const film = flat(W, H, 5, 0);
    film.smooth = { planes: film.planes.map((p) => p.slice().fill(0)), samples: 4 };
    expect(whole(sourceOf({ key: { film } }))![0]).toBe(0);
  });
  it('are none of a light that nobody traces', () => expect(whole(sourceOf({}))).toBeUndefined());
});

const scene = {
  camera: { origin: [0, 1.5, 2], forward: [0, 0, -1] },
  geometry: { objects: ['stage/backdrop', 'props/ball'] },
} as unknown as Scene;

describe('a click on the picture', () => {
  it('finds the object, its place, and how far it is along the camera’s axis', () => {
    expect(pickAt(guides(), scene, 0.1, 0.1)).toEqual({ object: 'props/ball', position: [0.5, 1.5, -1], depth: 3 });
  });
  it('finds nothing where nothing is, nor outside the frame', () => {
    expect(pickAt(guides(), scene, 0.9, 0.1)).toBeUndefined();
    expect(pickAt(guides(), scene, 0.1, 1.5)).toBeUndefined();
  });
  it('finds a surface without a name all the same', () => {
    const g = guides();
    g.ids[0] = 7;
    expect(pickAt(g, scene, 0, 0)!.object).toBe('');
  });
  it('where it is not known yet what is there, the plate lies behind what is dark only', () => {
    const early = sourceOf({ key: { film: flat(W, H, 0.1, 0.02) } }, new Guides(W, H));
    const white = applyPatch(setup, { plate: { kind: 'linear', from: [1, 1, 1], to: [1, 1, 1] } });
    const bare = [...maker().linear(early, { setup: white, bare: true }).linear];
    expect(bare[0]).toBeGreaterThan(0);
    expect([...maker().linear(early, { setup: white }).linear]).toEqual(bare);
    const dark = applyPatch(white, { lights: { items: { key: { on: false } } } });
    expect([...maker().linear(early, { setup: dark }).linear]).toEqual(new Array(W * H * 3).fill(1));
  });
});
