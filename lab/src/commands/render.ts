import { readFileSync, writeFileSync } from 'node:fs';
import {
  alphaPlane,
  compile,
  exposureFactor,
  factorOn,
  lightRadiance,
  objectName,
  OPENNESS,
  orderOf,
  PictureMaker,
  readCube,
  shadowChannels,
  Smoother,
  smoothInPlace,
  surfaceChannels,
  wantsOpenness,
  writeCutPng,
  writeExr,
  writePng,
  type Cube,
  type CutOut,
  type ExrChannel,
  type PictureFiles,
  type Scene,
  type SceneLight,
  type Setup,
} from '@plinket/core';
import { render, type FilmSet, type TurnFilms } from '@plinket/engine';
import { loadFilmMath, nodePool } from '@plinket/engine/node';
import { loadAssets, loadLightFiles, loadSetup } from '../load.ts';
import { positive, UsageError, whole } from '../usage.ts';

/** Name of the pseudo light that holds how open surfaces lie: where no reach is asked for, as pictures know it. */
const OPEN = OPENNESS.id;

export interface RenderWish {
  width: number;
  height: number;
  samples: number;
  seed: number;
  bounces: number;
  workers?: number;
  only?: string;
  clamp?: number;
  clay?: boolean;
  /** For the view “lut”. */
  cube?: Cube;
  /** Also trace how open the first surfaces lie, within so many metres. */
  openness?: number;
}

export interface Rendered {
  set: FilmSet;
  scene: Scene;
  /** What lights, plate and look name. */
  files: PictureFiles;
}

/** Traces a setup to a finished set of films, one for each light. */
export async function renderFilms(
  setup: Setup,
  folders: string[],
  wish: RenderWish,
  progress: (done: number, msLeft: number) => void = () => undefined,
): Promise<Rendered> {
  const assets = await loadAssets(setup, folders);
  const shelf = loadLightFiles(setup, folders);
  const scene = compile(setup, (sha) => assets.get(sha), undefined, { clay: wish.clay, files: shelf });
  const lights: SceneLight[] = wish.only ? scene.lights.filter((l) => l.id === wish.only) : [...scene.lights];
  if (wish.openness) lights.push({ id: OPEN, key: `open ${wish.openness}`, kind: 'openness', reach: wish.openness });
  else if (wantsOpenness(setup)) lights.push(OPENNESS);
  const { width, height, samples, seed, bounces, clamp } = wish;
  const pool = nodePool({ workers: wish.workers });
  try {
    const how = { width, height, samples, seed, bounces, ...(clamp ? { clamp } : {}) };
    const set = await render({ ...scene, lights }, how, { pool, math: loadFilmMath(), progress });
    return { set, scene, files: { gobo: (sha) => shelf.gobo(sha), cube: () => wish.cube } };
  } finally {
    pool.close();
  }
}

/**
 * Removes the noise of every film, where it stands (by `share`, 0…1) or beside it; answers how many could be smoothed. Beside it
 * the films stay as they were traced, for layers that are wanted raw, and take half as much memory again.
 */
export function smoothFilms({ set }: Rendered, samples: number, share?: number): number {
  const wanted = [...set.films].filter(([id]) => id !== OPEN).map(([, { film }]) => film);
  if (share !== undefined) return smoothInPlace(set.math, set.guides, wanted, samples, share);
  const smoother = new Smoother(set.math, set.guides);
  const done = wanted.filter((film) => smoother.smooth(film, samples)).length;
  smoother.release();
  return done;
}

/** What `--layers` may name, beside the lights' own. */
const LAYERS = ['depth', 'normal', 'albedo', 'position', 'identity', 'noise', 'samples', 'openness'] as const;

const rgb = (plane: Float32Array, c: number, factor = 1): Float32Array =>
  Float32Array.from({ length: plane.length / 3 }, (_, i) => plane[i * 3 + c]! * factor);

/**
 * Channels of an EXR: the balanced picture with its alpha, and each light's layers scaled to what it gives (cd/m² times
 * exposure), so that their sum is the picture; lights that are off have none. `layers` adds what the first surfaces are.
 */
export function exrChannels(
  setup: Setup,
  { set }: { set: Pick<FilmSet, 'films' | 'guides'> | TurnFilms },
  linear: Float32Array,
  layers: string[] = [],
  alpha = alphaPlane(set.guides),
): ExrChannel[] {
  const { films, guides } = set;
  const pixels = linear.length / 3;
  const each = (f: (i: number) => number): Float32Array => Float32Array.from({ length: pixels }, (_, i) => f(i));
  const channels: ExrChannel[] = ['R', 'G', 'B'].map((name, c) => ({ name, data: rgb(linear, c) }));
  channels.push({ name: 'A', data: alpha });
  for (const [id, { film }] of films) {
    const light = setup.lights.items[id];
    // a light that is off gives the picture nothing, unless it alone was asked for
    if (!light || !(light.on || films.size === 1)) continue;
    const level = lightRadiance(light).map((v) => v * exposureFactor(setup.camera.ev));
    film.layers.forEach(({ name: layer }, l) =>
      ['R', 'G', 'B'].forEach((name, c) =>
        channels.push({ name: `${id}.${layer}.${name}`, data: rgb(film.planes[l]!, c, level[c]! * factorOn(light, layer)) }),
      ),
    );
    channels.push(...shadowChannels(id, film));
    if (layers.includes('noise'))
      film.layers.forEach(({ name: layer }, l) =>
        channels.push({ name: `${id}.${layer}.variance`, data: each((i) => Math.min(1e9, film.variance(i, l))) }),
      );
    if (layers.includes('samples')) channels.push({ name: `${id}.samples`, data: each((i) => film.counts[i]!) });
  }
  for (const layer of layers) channels.push(...surfaceChannels(guides, layer));
  if (layers.includes('identity')) {
    channels.push({ name: 'identity.object', data: each((i) => guides.ids[i * 2]!) });
    channels.push({ name: 'identity.material', data: each((i) => guides.ids[i * 2 + 1]!) });
  }
  const open = films.get(OPEN)?.film;
  // of a catcher it lies on a layer of its own
  if (open)
    channels.push({
      name: 'openness.Y',
      data: each((i) => open.plane('diffuse')![i * 3]! + ((open.plane('bounce') ?? open.plane('arrives'))?.[i * 3] ?? 0)),
    });
  return channels;
}

/** Width and height of a picture. @throws UsageError */
export function sizeOf(options: Record<string, string | undefined>): { width: number; height: number } {
  const size = /^(\d+)x(\d+)$/.exec(options['size'] ?? '640x360');
  if (!size) throw new UsageError(`--size ${options['size']}: width and height are needed, like 640x360.`);
  const width = Number(size[1]),
    height = Number(size[2]);
  if (width < 1 || height < 1 || width > 8192 || height > 8192) throw new UsageError('--size: from 1x1 to 8192x8192.');
  return { width, height };
}

function wishOf(options: Record<string, string | undefined>, setup: Setup, layers: string[]): RenderWish {
  const { width, height } = sizeOf(options);
  const only = options['share'];
  if (only !== undefined && !setup.lights.items[only])
    throw new UsageError(`--share ${only}: the setup has ${orderOf(setup.lights).join(', ')}.`);
  const workers = whole(options, 'workers', 0, 64);
  return {
    width,
    height,
    samples: Math.max(1, whole(options, 'samples', 64, 65535)),
    seed: whole(options, 'seed', 1, 2 ** 31),
    bounces: whole(options, 'bounces', 3, 16),
    clay: options['clay'] !== undefined,
    ...(options['lut'] === undefined ? {} : { cube: readCube(readFileSync(options['lut'], 'utf8'), options['lut']) }),
    ...(workers ? { workers } : {}),
    ...(only === undefined ? {} : { only }),
    ...(options['clamp'] === undefined ? {} : { clamp: positive(options, 'clamp') }),
    ...(layers.includes('openness') ? { openness: options['reach'] === undefined ? 0.5 : positive(options, 'reach') } : {}),
  };
}

/** What is to be cut out, if anything. */
function cutOf({ cut, bits = '8', premultiplied }: Record<string, string | undefined>): CutOut | undefined {
  if (cut === undefined) return undefined;
  if (cut !== 'all' && cut !== 'figure' && cut !== 'shadow') throw new UsageError(`--cut ${cut}: all, figure or shadow can be cut out.`);
  if (bits !== '8' && bits !== '16') throw new UsageError(`--bits ${bits}: 8 or 16.`);
  return { parts: cut, deep: bits === '16', premultiplied: premultiplied !== undefined };
}

export async function renderCommand(positional: string[], options: Record<string, string | undefined>): Promise<void> {
  const { setup, folder } = await loadSetup(positional[0], options['server']);
  const out = options['out'];
  if (!out || !/\.(png|exr)$/i.test(out)) throw new UsageError('--out needs a file that ends in .png or .exr.');
  const layers = (options['layers'] ?? '').split(',').filter(Boolean);
  for (const l of layers)
    if (!(LAYERS as readonly string[]).includes(l)) throw new UsageError(`--layers ${l}: ${LAYERS.join(', ')} can be written.`);
  const wish = wishOf(options, setup, layers),
    cut = cutOf(options);
  const { width, height } = wish;
  let told = 0;
  const rendered = await renderFilms(setup, [...(options['assets'] ? [options['assets']] : []), folder], wish, (done, msLeft) => {
    if (!process.stderr.isTTY || Date.now() - told < 250) return;
    told = Date.now();
    process.stderr.write(`\r${Math.round(done * 100)} %, ${Math.ceil(msLeft / 1000)} s left   `);
  });
  if (process.stderr.isTTY) process.stderr.write('\r                         \r');
  const { set } = rendered;
  const { offered, removed } = set.clamped;
  if (wish.clamp) console.error(`The clamp took ${offered > 0 ? ((removed / offered) * 100).toFixed(2) : '0'} % of the indirect light.`);
  const smooth = options['smooth'] === undefined ? 0 : Math.min(1, positive(options, 'smooth'));
  // layers are written as they were traced; a picture needs no films afterwards
  const inPlace = !/\.exr$/i.test(out);
  if (smooth > 0 && smoothFilms(rendered, wish.samples, inPlace ? smooth : undefined) === 0)
    console.error('Too few samples to remove noise: at least 4 are needed.');
  const maker = new PictureMaker(set.math, rendered.files);
  const solo = wish.only === undefined ? [] : [wish.only];
  if (/\.exr$/i.test(out)) {
    // light as it is: no plate behind it, no touches
    const shown = { setup: { ...setup, look: { ...setup.look, smooth }, plate: { ...setup.plate, kind: 'none' as const } }, solo };
    const { linear } = maker.linear(set, shown);
    const objects = rendered.scene.geometry.objects.map((o) => objectName(setup, o)).join(', ');
    const text = { setupName: printable(setup.name), objects: printable(objects) };
    writeFileSync(out, writeExr(width, height, exrChannels(setup, rendered, linear, layers, maker.alpha(set, shown)), text));
    return;
  }
  const look = wish.cube ? { ...setup.look, view: 'lut' as const } : setup.look;
  if (cut) {
    writeFileSync(out, writeCutPng(maker.cutOut(set, { setup: { ...setup, look }, solo, ...cut }), cut.premultiplied, setup));
    return;
  }
  const { rgba } = maker.make(set, { setup: { ...setup, look }, solo });
  writeFileSync(out, writePng(width, height, Uint8Array.from(rgba), setup));
}

/** What an EXR's attributes can hold. */
const printable = (text: string): string => text.replace(/[^ -~]/g, '?');
