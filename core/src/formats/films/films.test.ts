// Finished pictures as files that can be balanced anew. EXR is checked against three's loader (an independent reader).
import { describe, expect, it } from '@jest/globals';
import { plainFilmMath } from '@plinket/kernel';
import { FloatType } from 'three';
import { EXRLoader } from 'three/addons/loaders/EXRLoader.js';
import { Guides, PictureMaker, type Film, type FilmSource } from '../../film/index.ts';
import { applyPatch, parseSetup, setupGains, type Patch, type Setup } from '../../setup/index.ts';
import { flat } from '../../testing/films.ts';
import { panelLight, setupWith } from '../../testing/setups.ts';
import { readExrHead, writeExr } from '../exr/index.ts';
import { fileLevel, filmsFile, PASSES, readFilms, type Pass } from './index.ts';

const W = 5,
  H = 19,
  N = W * H;
const setup: Setup = applyPatch(
  setupWith({ key: panelLight({ name: 'Kéy ☀' }), rim: panelLight({ on: false }), fill: panelLight({ group: 'face, left' }) }),
  {
    look: { smooth: 0.75, view: 'plain' },
    lights: { items: { key: { stops: 1.5 }, rim: { stops: -3 } } },
  } as unknown as Patch,
);
/** A film whose pixels differ, with noise removed from its first layer. */
function film(base: number): Film {
  const made = flat(W, H, base, base / 3);
  made.planes.forEach((p, l) => p.forEach((v, i) => (p[i] = v * (1 + ((i * 7 + l) % 11) / 11))));
  made.smooth = { planes: [made.planes[0]!.map((v) => v * 0.9), undefined], samples: 16 };
  return made;
}
const films: Record<string, Film> = { key: film(0.2), rim: film(0.004), fill: film(3e-5) };
function guides(): Guides {
  const g = new Guides(W, H);
  g.counts.fill(4);
  g.alpha.forEach((_, p) => (g.alpha[p] = p % 5));
  for (let p = 0; p < N; p++) g.sums.set([4, 0, 0, 4, 4, 8, 12, 2, 2, 2, 4 * (p + 1)], p * 11);
  return g;
}
const source: FilmSource = { width: W, height: H, guides: guides(), shown: (id) => (films[id] ? { film: films[id] } : undefined) };
const maker = () => new PictureMaker(plainFilmMath(), { gobo: () => undefined, cube: () => undefined });
const linearOf = (of: FilmSource, by: Setup) => Float32Array.from(maker().linear(of, { setup: by, bare: true }).linear);

function file(passes: readonly Pass[] = []): Uint8Array {
  const wish = { linear: linearOf(source, setup), alpha: maker().alpha(source, { setup }), passes };
  const { channels, text } = filmsFile(source, setup, wish);
  return writeExr(W, H, channels, text);
}
const most = (a: Float32Array, b: Float32Array) => a.reduce((m, v, i) => Math.max(m, Math.abs(v - b[i]!) / Math.max(1e-6, Math.abs(v))), 0);
/** The picture of a file as three's loader reads it, which puts the last row first. */
function byThree(bytes: Uint8Array): Float32Array {
  const { data } = new EXRLoader().setDataType(FloatType).parse(Uint8Array.from(bytes).buffer) as unknown as { data: Float32Array };
  const at = (p: number) => ((H - 1 - Math.floor(p / W)) * W + (p % W)) * 4;
  return Float32Array.from({ length: N * 3 }, (_, i) => data[at(Math.floor(i / 3)) + (i % 3)]!);
}

describe('a finished picture’s file', () => {
  const bytes = file(PASSES);
  it('holds the picture where any reader finds it', () => {
    expect(most(linearOf(source, setup), byThree(bytes))).toBeLessThan(1e-3);
  });
  it('gives the same picture again, also with a light that was off turned on, levels and colours changed', async () => {
    const back = await readFilms(bytes, plainFilmMath());
    expect(back.setup).toEqual(parseSetup(JSON.parse(JSON.stringify(setup))));
    for (const change of [{}, { lights: { items: { rim: { on: true }, key: { stops: -2, color: { kelvin: 2700 } } } } }] as Patch[]) {
      const now = applyPatch(setup, change);
      expect(most(linearOf(source, now), linearOf(back, now))).toBeLessThan(1e-3);
    }
    // the noise that was removed by three quarters is not removed again
    expect(back.shown('key')!.film.smooth).toBeUndefined();
    expect([0, 1, 2, 7].map((p) => back.guides.alphaAt(p))).toEqual([0, 0.25, 0.5, 0.5]);
    back.release();
  });
  it('adds up: layers times gains over levels are the picture, the groups and the rest too', async () => {
    const names = readExrHead(bytes).channels.map((c) => c.name);
    expect(names).toEqual(
      expect.arrayContaining(['group_face_left.R', 'rest.B', 'depth.Z', 'normal.X', 'albedo.G', 'position.Z', 'rim.specular.B']),
    );
    const back = await readFilms(bytes, plainFilmMath()),
      gains = setupGains(setup);
    const sum = new Float32Array(N * 3);
    for (const id of ['key', 'rim', 'fill'])
      back
        .shown(id)!
        .film.layers.forEach(({ name }, l) =>
          back.shown(id)!.film.planes[l]!.forEach((v, i) => (sum[i] = sum[i]! + v * gains[id]![name][i % 3]!)),
        );
    expect(most(sum, byThree(bytes))).toBeLessThan(2e-3);
    expect(Math.log2(fileLevel(setup, 'key')) % 1).toBe(0);
  });
  it('is refused by name: a foreign one, one that was cut off, one whose channels are gone', async () => {
    await expect(readFilms(writeExr(1, 1, [{ name: 'Y', data: new Float32Array(1) }]), plainFilmMath())).rejects.toThrow(
      /plinketSetup.*missing/,
    );
    await expect(readFilms(bytes.subarray(0, bytes.length - 40), plainFilmMath())).rejects.toThrow(/ends at byte|cut off/);
    const { channels, text } = filmsFile(source, setup, { linear: linearOf(source, setup), alpha: new Float32Array(N), passes: [] });
    const fewer = channels.filter((c) => c.name !== 'rim.specular.G' && c.name !== 'covered.A');
    await expect(readFilms(writeExr(W, H, fewer, text), plainFilmMath())).rejects.toThrow(
      'Channels are missing: rim.specular.G, covered.A.',
    );
    await expect(readFilms(writeExr(W, H, channels, { ...text, plinketLevels: '{' }), plainFilmMath())).rejects.toThrow(
      /plinketLevels.*cannot be read/,
    );
  });
});
