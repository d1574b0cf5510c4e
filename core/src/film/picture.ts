// The one way from films to pixels: balance → plate → touches → tones or look → bytes, with what is covered beside them. The Stage, its small
// pictures, contact sheets, files and the command line all take it.
import type { FilmMath } from '@plinket/kernel';
import type { Scene, SceneLight } from '../scene/index.ts';
import {
  CATCHER_DEFAULTS,
  gainOn,
  hasCatcher,
  orderOf,
  SEEN_LAYERS,
  setupGains,
  wantsOpenness,
  type Gain,
  type LayerName,
  type Look,
  type Setup,
} from '../setup/index.ts';
import { balance, type Voice } from './balance.ts';
import { CaughtLight } from './catcher.ts';
import type { Cube } from './cube.ts';
import { Developer } from './develop.ts';
import { falseTones } from './false-tones.ts';
import type { Film, Guides } from './film.ts';
import { FilmSum } from './film-sum.ts';
import { tonesOf, type Tones } from './histogram.ts';
import { KnownColours } from './known-colours.ts';
import { PlatePlane, type PlatePicture } from './plate.ts';
import { smallBalance } from './small.ts';
import type { FilmSource } from './source.ts';
import { applyTouches, hasTouches } from './touches.ts';

/** What a setup names beside its lights. */
export interface PictureFiles {
  gobo(sha256: string): PlatePicture | undefined;
  cube(look: Look): Cube | undefined;
}

/** What is shown: the picture, its tones in false colour, what is covered, or how open the first surfaces lie. */
export type PictureKind = 'look' | 'tones' | 'alpha' | 'openness';

export interface PictureWish {
  setup: Setup;
  /** Lights that are heard alone; none: all that are on. */
  solo?: readonly string[];
  kind?: PictureKind;
  /** A share on its own: neither plate nor touches belong to it. */
  bare?: boolean;
  /** Also measure how its tones lie, of every so many-th of its pixels. */
  measure?: number;
}

/** What is cut out, and how it stands in a file. */
export interface CutOut {
  parts: 'all' | 'figure' | 'shadow';
  /** 16 bit instead of 8. */
  deep: boolean;
  premultiplied: boolean;
}

/** A picture. Its arrays are the maker's, and are written over by the next one. */
export interface Picture {
  width: number;
  height: number;
  /** How its tones lie, before touches and look; where that was asked for. */
  tones: Tones | undefined;
  /** Display r g b with alpha 255. */
  rgba: Uint8ClampedArray<ArrayBufferLike>;
  /** The noise of all that is heard has been removed. */
  smoothed: boolean;
}

/** The pseudo light that holds how open surfaces lie, within half a metre. */
export const OPENNESS: SceneLight = { id: '~openness', key: 'openness 0.5', kind: 'openness', reach: 0.5 };

/** A scene with what its setup's pictures need besides its lights: how open surfaces lie, where catchers darken at contact. */
export const withOpenness = (setup: Setup, scene: Scene): Scene =>
  wantsOpenness(setup) ? { ...scene, lights: [...scene.lights, OPENNESS] } : scene;

/** How much of each pixel is covered, 0…1: the picture's alpha plane, catchers like all else. */
export function alphaPlane({ width, height, alpha, counts }: Guides, out: Float32Array = new Float32Array(width * height)): Float32Array {
  for (let p = 0; p < out.length; p++) out[p] = counts[p]! > 0 ? alpha[p]! / counts[p]! : 0;
  return out;
}

/** How open catchers lie: it falls on the first of their layers. */
const caughtOpenness = (film: Film | undefined): Float32Array | undefined => film?.plane('bounce') ?? film?.plane('arrives');

function alphaPixels(alpha: Float32Array, out: Uint8ClampedArray<ArrayBufferLike>): void {
  for (let i = 0; i < out.length / 4; i++) {
    out[i * 4] = out[i * 4 + 1] = out[i * 4 + 2] = Math.round(alpha[i]! * 255);
    out[i * 4 + 3] = 255;
  }
}

interface Room {
  linear: Float32Array;
  /** How much of each pixel is covered, where nothing is caught. */
  covered: Float32Array;
  rgba: Uint8ClampedArray<ArrayBufferLike>;
}

/** Makes pictures of films in the films' own memory; keeps its tables and room while look and size stay. */
export class PictureMaker {
  private readonly math: FilmMath;
  private readonly files: PictureFiles;
  private readonly developer: Developer;
  /** For views that are not the setup's. */
  private readonly plain: Developer;
  private readonly colours: KnownColours;
  private readonly rooms: { large?: Room; small?: Room } = {};
  private caught: CaughtLight | undefined;
  /** Light of all that is heard, as it was summed last. */
  private sum: FilmSum | undefined;
  private readonly plate: PlatePlane;

  constructor(math: FilmMath, files: PictureFiles) {
    this.math = math;
    this.files = files;
    this.colours = new KnownColours(math);
    this.developer = new Developer(math);
    this.plain = new Developer(math);
    this.plate = new PlatePlane(math);
  }

  /** The lights of a setup that are there, with what balance does to them. */
  voices(
    source: FilmSource,
    setup: Setup,
    solo: readonly string[] = [],
    layers: readonly LayerName[] = SEEN_LAYERS,
  ): (Voice & { id: string })[] {
    const gains = setupGains(setup, solo, layers);
    const { smooth } = setup.look;
    return orderOf(setup.lights).flatMap((id) => {
      const films = source.shown(id);
      if (!films || films.film.width !== source.width || films.film.height !== source.height) return [];
      const { film, coarse } = films;
      const voice = { id, film, gain: gains[id]!, smooth };
      // where noise is removed anyway, the coarse picture is the better one until it has been
      return [coarse ? { ...voice, coarse, waits: smooth > 0 && !film.smooth } : voice];
    });
  }

  /** Makes ready what a hand's first picture of this view needs; of no use before the surfaces are known. */
  prepare(source: FilmSource, id: string): void {
    const coarse = source.shown(id)?.coarse;
    if (coarse) this.colours.prepare(source.guides, coarse);
  }

  /** What a linear grey shows as in a look, 0…255: for the noise that an eye would see. */
  shown(look: Look): (y: number) => number {
    this.developer.prepare(look, this.files.cube(look));
    return (y) => this.developer.shown(y);
  }

  /** Linear r g b of all that is heard, with the plate behind it; written over by the next picture. */
  linear(source: FilmSource, { setup, solo = [], bare = false }: PictureWish): { linear: Float32Array; heard: Voice[] } {
    const { linear } = this.room('large', source.width, source.height);
    const heard = this.voices(source, setup, solo);
    // what stands still but for levels is not summed anew
    if (FilmSum.isWhole(heard)) linear.set(this.sumOf(linear.length / 3).make(heard));
    else balance(this.math, heard, linear, this.colours.for(source.guides, heard));
    if (!bare) this.layBehind(setup, linear, source, this.addCaught(source, { setup, solo }, linear));
    return { linear, heard };
  }

  /** How much of each pixel is covered, catchers by their shadows alone, 0…1: the picture's alpha. */
  alpha(source: FilmSource, wish: PictureWish): Float32Array {
    return this.cast(source, wish)?.covered.slice() ?? alphaPlane(source.guides);
  }

  /** What is caught in a picture; nothing where nothing catches, or it is not known yet where. */
  private cast(source: FilmSource, { setup, solo = [] }: PictureWish): CaughtLight | undefined {
    const { width, height, guides } = source;
    if (!hasCatcher(setup) || guides.width !== width || guides.height !== height) return undefined;
    if (this.caught?.shadow.length !== width * height) {
      this.caught?.release();
      this.caught = new CaughtLight(this.math, width * height);
    }
    if (!this.caught.learn(guides)) return undefined;
    const { without, contact } = setup.catcher!;
    const chosen = (layer: LayerName) => this.voices(source, setup, solo, [layer]).filter(({ id }) => !without[id]);
    const openness = contact > 0 ? caughtOpenness(source.shown(OPENNESS.id)?.film) : undefined;
    this.caught.cast(setup, { arrives: chosen('arrives'), open: chosen('open'), ...(openness ? { openness } : {}) });
    return this.caught;
  }

  /** Adds what catchers show of others, where wished, and the colour of their shadows; answers what is caught. */
  private addCaught(source: FilmSource, wish: PictureWish, linear: Float32Array): CaughtLight | undefined {
    const { setup, solo } = wish,
      { bounce, mirror, colour } = setup.catcher ?? CATCHER_DEFAULTS;
    const caught = this.cast(source, wish);
    if (!caught) return undefined;
    const others: LayerName[] = [...(bounce ? (['bounce'] as const) : []), ...(mirror ? (['mirror'] as const) : [])];
    if (others.length > 0) {
      balance(this.math, this.voices(source, setup, solo, others), caught.room);
      for (let i = 0; i < linear.length; i++) linear[i] = linear[i]! + caught.room[i]!;
    }
    const { shadow } = caught;
    if (colour.some((v) => v > 0))
      for (let p = 0, i = 0; p < shadow.length; p++) for (let c = 0; c < 3; c++, i++) linear[i] = linear[i]! + colour[c]! * shadow[p]!;
    return caught;
  }

  /** A picture as it is to be seen. */
  make(source: FilmSource, wish: PictureWish): Picture {
    const { setup, kind = 'look', bare = false, measure } = wish;
    const { look } = setup,
      { width, height } = source;
    const { linear, heard } = this.linear(source, wish);
    const { rgba } = this.room('large', width, height);
    const tones = measure ? tonesOf(linear, measure) : undefined;
    if (kind === 'tones') falseTones(linear, rgba);
    else if (kind === 'alpha') alphaPixels(this.alpha(source, wish), rgba);
    else if (kind === 'openness') this.openness(source, setup, linear, rgba);
    else {
      if (!bare && hasTouches(look)) applyTouches(linear, width, height, look);
      this.developer.develop(linear, width, look, rgba, this.cubeOf(look));
    }
    const smoothed = look.smooth > 0 && heard.length > 0 && heard.every((v) => v.film.smooth !== undefined);
    return { width, height, tones, rgba, smoothed };
  }

  /** The same with 16 bits a channel, for files: r g b and a full alpha. The array is the caller's. */
  deep(source: FilmSource, { setup, solo = [] }: PictureWish): { width: number; height: number; data: Uint16Array } {
    const { width, height } = source,
      { look } = setup;
    const { linear } = this.linear(source, { setup, solo });
    if (hasTouches(look)) applyTouches(linear, width, height, look);
    const data = this.developer.shownIn(linear, width, look, 65535, this.cubeOf(look)) as Uint16Array;
    for (let p = 3; p < data.length; p += 4) data[p] = 65535;
    return { width, height, data };
  }

  /**
   * A picture without what lies behind it, its alpha beside its colours: the figure, the shadows on catchers, or both.
   * Colours are straight (as they would be without alpha), or multiplied with it as they stand in the file.
   */
  cutOut(source: FilmSource, wish: PictureWish & CutOut): { width: number; height: number; data: Uint8Array | Uint16Array } {
    const { setup, solo = [], parts, deep, premultiplied } = wish,
      { width, height, guides } = source;
    const { look } = setup;
    const { linear } = this.linear(source, { setup, solo, bare: true });
    if (parts === 'shadow') linear.fill(0);
    const shadow = parts === 'figure' ? undefined : this.addCaught(source, { setup, solo }, linear)?.shadow;
    const alpha = Float32Array.from({ length: width * height }, (_, p) => {
      const figure = parts === 'shadow' ? 0 : Math.max(0, guides.alphaAt(p) - guides.caughtAt(p));
      return Math.min(1, figure + (shadow?.[p] ?? 0));
    });
    for (let p = 0; p < alpha.length; p++) for (let c = p * 3; c < p * 3 + 3; c++) linear[c] = alpha[p]! > 0 ? linear[c]! / alpha[p]! : 0;
    const most = deep ? 65535 : 255;
    const shown = this.developer.shownIn(linear, width, look, most, this.cubeOf(look));
    for (let p = 0; p < alpha.length; p++) {
      if (premultiplied || alpha[p] === 0) for (let c = p * 4; c < p * 4 + 3; c++) shown[c] = Math.round(shown[c]! * alpha[p]!);
      shown[p * 4 + 3] = Math.round(alpha[p]! * most);
    }
    return { width, height, data: shown };
  }

  /** A light's share, small, from the band that holds the head, at the level that it has, also while it is off. */
  small(source: FilmSource, setup: Setup, id: string, [width, height]: [number, number]): Uint8ClampedArray<ArrayBufferLike> | undefined {
    const films = source.shown(id);
    if (!films) return undefined;
    const { linear, rgba } = this.room('small', width, height);
    smallBalance(films, setupGains(setup, [id])[id]!, linear, width, height);
    const { look } = setup;
    this.developer.develop(linear, width, look, rgba, this.cubeOf(look));
    return rgba;
  }

  private cubeOf(look: Look): { cube?: Cube } {
    const cube = this.files.cube(look);
    return cube ? { cube } : {};
  }

  private openness(source: FilmSource, setup: Setup, linear: Float32Array, rgba: Uint8ClampedArray<ArrayBufferLike>): void {
    const films = source.shown(OPENNESS.id);
    // of catchers it lies on the first of their layers
    const full: Gain = gainOn([1, 1, 1], ['diffuse', 'bounce', 'arrives']);
    balance(this.math, films ? [{ ...films, gain: full }] : [], linear);
    this.plain.develop(linear, source.width, { ...setup.look, view: 'plain', white: 6500, contrast: 1 }, rgba);
  }

  /** Once it is known what is covered. */
  private layBehind({ plate }: Setup, linear: Float32Array, { guides, width, height }: FilmSource, caught: CaughtLight | undefined): void {
    if (plate.kind === 'none' || guides.width !== width || guides.height !== height) return;
    const image = plate.kind === 'picture' && plate.asset ? this.files.gobo(plate.asset) : undefined;
    const covered = caught?.covered ?? alphaPlane(guides, this.room('large', width, height).covered);
    // where it is not known yet what is there, what is lit is something
    if (guides.missing > 0)
      for (let p = 0; p < covered.length; p++)
        if (guides.counts[p] === 0) covered[p] = linear[p * 3]! + linear[p * 3 + 1]! + linear[p * 3 + 2]! > 0 ? 1 : 0;
    this.math.layBehind(linear, covered, this.plate.of(plate, width, height, image));
  }

  private sumOf(pixels: number): FilmSum {
    if (this.sum?.plane.length !== pixels * 3) {
      this.sum?.release();
      this.sum = new FilmSum(this.math, SEEN_LAYERS, pixels);
    }
    return this.sum;
  }

  private room(which: 'large' | 'small', width: number, height: number): Room {
    const { math, rooms } = this;
    const had = rooms[which];
    if (had?.linear.length === width * height * 3) return had;
    if (had) {
      math.free(had.linear);
      math.free(had.covered);
      math.free(had.rgba);
    }
    return (rooms[which] = {
      linear: math.floats(width * height * 3),
      covered: math.floats(width * height),
      rgba: math.bytes(width * height * 4),
    });
  }
}
