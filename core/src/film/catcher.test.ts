// What becomes of the light on a catcher: its share of alpha, by balance alone, and cut out of the picture.
import { describe, expect, it } from '@jest/globals';
import { readFileSync } from 'node:fs';
import { compileKernel, plainFilmMath, simdFilmMath } from '@plinket/kernel';
import { applyPatch, CATCHER_DEFAULTS, type Catcher, type Patch, type Setup } from '../setup/index.ts';
import type { TraceResult } from '../trace/index.ts';
import { panelLight, setupWith } from '../testing/setups.ts';
import { encodeSrgb } from '../photometry/index.ts';
import { Film, Guides, OPENNESS, PictureMaker, type FilmSource, type PictureFiles, type Shown } from './index.ts';

const W = 3,
  H = 1,
  N = W * H;
const tile = { x: 0, y: 0, width: W, height: H };
const none: PictureFiles = { gobo: () => undefined, cube: () => undefined };
/** Left a figure, in the middle a catcher, right half of each. */
function guides(): Guides {
  const g = new Guides(W, H);
  const ids = new Int32Array(N * 2);
  g.add(tile, { sums: new Float32Array(N * 11), ids }, { alpha: Float32Array.from([4, 4, 4]), caught: Float32Array.from([0, 4, 2]) }, 4);
  return g;
}
const LAYERS = ['diffuse', 'specular', 'bounce', 'mirror', 'arrives', 'open'] as const;
/** A film of a light whose layers hold these greys, pixel by pixel. */
function film(of: Partial<Record<(typeof LAYERS)[number], [number, number, number]>>): Film {
  const made = new Film(W, H, { catcher: true, followed: true });
  const films = Float32Array.from(
    { length: LAYERS.length * N * 3 },
    (_, i) => 4 * (of[LAYERS[Math.floor(i / (N * 3))]!]?.[Math.floor((i % (N * 3)) / 3)] ?? 0),
  );
  const result: TraceResult = {
    layers: [...LAYERS],
    films,
    squares: new Float32Array(LAYERS.length * N),
    alpha: new Float32Array(N),
    clamped: { offered: 0, removed: 0 },
    rays: { walk: 0, shadow: 0 },
  };
  made.add(tile, result, 0, 4);
  return made;
}
const key = film({ diffuse: [0.2, 0, 0.1], bounce: [0, 0.03, 0.015], mirror: [0, 0.01, 0], arrives: [0, 0, 0], open: [0, 3, 1.5] });
const fill = film({ diffuse: [0.05, 0, 0.025], arrives: [0, 1, 0.5], open: [0, 1, 0.5] });
const sourceOf = (films: Record<string, Shown>): FilmSource => ({ width: W, height: H, guides: guides(), shown: (id) => films[id] });
const source = sourceOf({ key: { film: key }, fill: { film: fill } });
const level = panelLight().output;
const base: Setup = applyPatch(setupWith({ key: panelLight(), fill: panelLight({ name: 'Fill' }) }), {
  camera: { ev: 0 },
  look: { view: 'plain', smooth: 0 },
  lights: { items: { key: { output: { ...level, value: 1 } }, fill: { output: { ...level, value: 1 } } } },
});
const withCatcher = (catcher: Partial<Catcher> = {}, more: Patch = {}): Setup =>
  applyPatch(applyPatch(base, { catcher: { ...CATCHER_DEFAULTS, objects: { stage: true }, ...catcher } as unknown as Patch }), more);
const maker = () => new PictureMaker(plainFilmMath(), none);
const alpha = (setup: Setup, solo: string[] = [], from = source) => [...maker().alpha(from, { setup, solo })];

describe('what lies behind, in WebAssembly', () => {
  const simd = simdFilmMath(compileKernel(readFileSync(new URL('../../../kernel/build/film.wasm', import.meta.url)))!);
  let state = 5;
  // Lehmer's generator: the same numbers in every run
  const draw = () => (state = (state * 48271) % 2147483647) / 2147483647;
  const plane = (length: number, of: (i: number) => number) => Float32Array.from({ length }, (_, i) => of(i));
  const M = 500;
  it('is what the plain twin gives', () => {
    // catchers nowhere, in part and whole; lights that do not arrive, arrive whole, or by a float's last digit more than without shadows
    const given = {
      shadow: new Float32Array(M),
      covered: plane(M, () => draw()),
      share: plane(M, (i) => [0, draw(), 1][i % 3]!),
      figure: plane(M, () => draw() / 2),
      arrives: plane(M * 3, (i) => [0, draw(), 1.0000001][i % 3]!),
      open: plane(M * 3, (i) => [0, 1, draw()][i % 3]!),
      openness: plane(M * 3, () => draw()),
    };
    for (const openness of [given.openness, undefined]) {
      const made = [simd, plainFilmMath()].map((math) => {
        const planes = Object.fromEntries(Object.entries(given).map(([name, from]) => [name, math.floats(from.length)])) as typeof given;
        for (const [name, from] of Object.entries(given)) planes[name as keyof typeof given].set(from);
        math.catchShadow({ ...planes, openness: openness && planes.openness }, 0.8, 0.6);
        math.layBehind(planes.open, planes.covered, planes.arrives);
        return [...planes.shadow, ...planes.covered, ...planes.open];
      });
      made[0]!.forEach((v, i) => expect(v).toBeCloseTo(made[1]![i]!, 5));
      expect(made[0]!.slice(0, M).some((s) => s > 0.5)).toBe(true);
    }
  });
});

describe('a shadow catcher in the picture', () => {
  it('alpha is 1 − Σ with / Σ without over the chosen lights, of the share of a pixel that the catcher is', () => {
    // key 0 of 3, fill 1 of 1
    expect(alpha(withCatcher())).toEqual([1, 0.75, 0.5 + 0.375]);
    expect(alpha(withCatcher({ without: { fill: true } }))).toEqual([1, 1, 1]);
    expect(alpha(withCatcher({ without: { key: true } }))).toEqual([1, 0, 0.5]);
    expect(alpha(withCatcher(), ['fill'])).toEqual([1, 0, 0.5]);
    expect(alpha(base)).toEqual([1, 1, 1]);
  });
  it('follows the levels without a ray: three stops more fill', () => {
    const brighter = withCatcher({}, { lights: { items: { fill: { stops: 3 } } } });
    expect(alpha(brighter)[1]).toBeCloseTo(1 - 8 / 11, 6);
  });
  it('density takes part of it; contact darkens where it lies less open', () => {
    expect(alpha(withCatcher({ density: 0.5 }))[1]).toBeCloseTo(0.375, 6);
    const near = sourceOf({ key: { film: key }, fill: { film: fill }, [OPENNESS.id]: { film: film({ bounce: [0, 0.6, 0.5] }) } });
    expect(alpha(withCatcher({ contact: 0.5 }), [], near)[1]).toBeCloseTo(1 - 0.25 * (1 - 0.5 * 0.4), 6);
    // half a pixel that is all open
    expect(alpha(withCatcher({ contact: 1, without: { key: true } }), [], near)[2]).toBeCloseTo(0.5, 6);
  });
  it('darkens what lies behind; what others throw on it and it mirrors of them comes on top where wished', () => {
    const grey = { plate: { kind: 'linear', from: [0.4, 0.4, 0.4], to: [0.4, 0.4, 0.4] } };
    const unit = maker().voices(source, withCatcher())[0]!.gain.diffuse[0];
    const linear = (catcher: Partial<Catcher>) => {
      const made = maker().linear(source, { setup: withCatcher(catcher, grey) }).linear;
      return [made[0]!, made[3]!, made[6]!];
    };
    expect(linear({})[1]).toBeCloseTo(0.25 * 0.4, 6);
    expect(linear({})[2]).toBeCloseTo(unit * 0.125 + 0.125 * 0.4, 6);
    expect(linear({ bounce: true })[1]).toBeCloseTo(0.1 + unit * 0.03, 6);
    expect(linear({ bounce: true, mirror: true })[1]).toBeCloseTo(0.1 + unit * 0.04, 6);
    expect(linear({ colour: [0.2, 0.2, 0.2] })[1]).toBeCloseTo(0.1 + 0.75 * 0.2, 6);
  });
  it('cut out: colours straight or multiplied, 8 bit or 16, all of it, the figure, the shadow', () => {
    const cut = (how: Partial<Parameters<PictureMaker['cutOut']>[1]>, setup = withCatcher()) =>
      maker().cutOut(source, { setup, parts: 'all', deep: false, premultiplied: false, ...how });
    const unit = maker().voices(source, withCatcher())[0]!.gain.diffuse[0];
    const of = (data: ArrayLike<number>, p: number) => [data[p * 4], data[p * 4 + 3]];
    const shown = (v: number, most: number) => Math.round(encodeSrgb(v) * most);
    expect(of(cut({}).data, 0)).toEqual([shown(unit * 0.25, 255), 255]);
    expect(of(cut({}).data, 1)).toEqual([0, 191]);
    // half figure, three eighths shadow: the figure's colour thinned by the shadow's black
    expect(of(cut({}).data, 2)[1]).toBe(223);
    expect(Math.abs(of(cut({}).data, 2)[0]! - shown((unit * 0.125) / 0.875, 255))).toBeLessThanOrEqual(1);
    expect(Math.abs(of(cut({ premultiplied: true }).data, 2)[0]! - shown((unit * 0.125) / 0.875, 255) * 0.875)).toBeLessThanOrEqual(1);
    const deep = cut({ deep: true });
    expect(deep.data).toBeInstanceOf(Uint16Array);
    expect(Math.abs(of(deep.data, 0)[0]! - shown(unit * 0.25, 65535))).toBeLessThan(20);
    expect(of(deep.data, 1)[1]).toBe(Math.round(0.75 * 65535));
    expect([of(cut({ parts: 'shadow' }).data, 0), of(cut({ parts: 'shadow' }).data, 1)]).toEqual([
      [0, 0],
      [0, 191],
    ]);
    expect([of(cut({ parts: 'figure' }).data, 1)[1], of(cut({ parts: 'figure' }).data, 2)[1]]).toEqual([0, 128]);
  });
  it('openness is shown on catchers too', () => {
    const open = sourceOf({ [OPENNESS.id]: { film: film({ diffuse: [0.5, 0, 0.25], bounce: [0, 0.6, 0.3] }) } });
    const { rgba } = maker().make(open, { setup: withCatcher(), kind: 'openness' });
    [0.5, 0.6, 0.55].forEach((v, p) => expect(Math.abs(rgba[p * 4]! - encodeSrgb(v) * 255)).toBeLessThan(2));
  });
  it('a picture that does not know yet where its catchers are is as it was', () => {
    const early = { ...source, guides: new Guides(W, H) };
    expect([...maker().alpha(early, { setup: withCatcher() })]).toEqual([0, 0, 0]);
    expect(maker().cutOut(early, { setup: withCatcher(), parts: 'all', deep: false, premultiplied: false }).data[3]).toBe(0);
  });
});
