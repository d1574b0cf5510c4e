import {
  Film,
  Guides,
  layersIn,
  tilesOf,
  type FilmKind,
  type FilmSource,
  type Scene,
  type SceneLight,
  type Shown,
  type Tile,
  type TraceResult,
} from '@plinket/core';
import { plainFilmMath, type FilmMath } from '@plinket/kernel';
import type { Step, Work } from './schedule.ts';

/** The coarse picture has one pixel for so many, in each direction. */
const COARSE = 4;
/** Samples of the coarse picture's pixels. */
export const COARSE_SAMPLES = 2;

/** Workers from which on pieces of a coarse picture are small. */
const MANY = 4;

/** Films of one light: the fine one, tile by tile, and the coarse one that stands in for it. */
export interface LightFilms {
  key: string;
  film: Film;
  coarse: Film | undefined;
  /** Samples that each tile has. */
  done: Uint16Array;
  busy: Uint8Array;
  coarseDone: Uint8Array;
  coarseBusy: Uint8Array;
  /** The last good films of this light, shown until the coarse ones are whole. */
  before: LightFilms | undefined;
}

/** The frame that films are made for. */
export interface Frame {
  width: number;
  height: number;
  /** Which layers the films have. */
  kind: FilmKind;
  /** With coarse films that are there at once. */
  coarse: boolean;
  /** With the objects and materials that all samples met. */
  mattes?: boolean;
}

/** What becomes of a step that was handed out. */
export interface Handed {
  arrived(result: TraceResult): void;
  lost(): void;
  /** Whether the films are still those that the picture is made of. */
  current(): boolean;
}

/** The films that are there: of every light of a scene, with what has been done to each tile. */
export class FilmSet implements FilmSource, Work {
  readonly films = new Map<string, LightFilms>();
  /** What the first surfaces are; from the first passes over each tile. */
  guides = new Guides(0, 0);
  /** Luminance of indirect contributions since the last new picture, and what the clamp took of it. */
  clamped = { offered: 0, removed: 0 };
  tiles: Tile[] = [];
  coarseTiles: Tile[] = [];
  guided = new Uint16Array(0);
  resting = new Uint8Array(0);
  readonly math: FilmMath;
  private readonly coarseTile: number;
  private frame: Frame = { width: 0, height: 0, kind: {}, coarse: true };

  /** @param workers among whom a coarse picture is shared out: for few, larger pieces need fewer messages */
  constructor(math: FilmMath = plainFilmMath(), workers = MANY) {
    this.math = math;
    this.coarseTile = workers < MANY ? 64 : 32;
  }

  get width(): number {
    return this.frame.width;
  }
  get height(): number {
    return this.frame.height;
  }
  get allGuided(): boolean {
    return this.frame.mattes === true;
  }
  /** Pixels of the coarse picture. */
  get coarseSize(): { width: number; height: number } {
    return { width: Math.ceil(this.width / COARSE), height: Math.ceil(this.height / COARSE) };
  }

  /**
   * Makes place for a scene's lights; films whose key stayed are kept, unless `all` start again.
   * @returns whether any film is new or gone
   */
  prepare(scene: Scene, frame: Frame, all: boolean): boolean {
    const sameSize = this.width === frame.width && this.height === frame.height;
    this.frame = frame;
    if (!sameSize) {
      this.tiles = tilesOf(frame.width, frame.height);
      const small = this.coarseSize;
      this.coarseTiles = tilesOf(small.width, small.height, this.coarseTile);
    }
    if (all) {
      this.guides = new Guides(frame.width, frame.height, frame.mattes);
      this.guided = new Uint16Array(this.tiles.length);
      this.clamped = { offered: 0, removed: 0 };
    }
    const kept = new Map(this.films);
    let changed = all;
    this.films.clear();
    for (const light of scene.lights) {
      const old = kept.get(light.id);
      kept.delete(light.id);
      const stays = old !== undefined && !all && old.key === light.key;
      if (!stays) changed = true;
      this.films.set(light.id, stays ? old : this.fresh(light, old, sameSize));
    }
    for (const gone of kept.values()) release(gone);
    return changed || kept.size > 0;
  }

  private fresh(light: SceneLight, old: LightFilms | undefined, sameSize: boolean): LightFilms {
    const { width, height, coarse, kind } = this.frame,
      small = this.coarseSize;
    let before: LightFilms | undefined;
    const film = (old && sameSize && unusedOf(old, kind)) || new Film(width, height, { math: this.math, ...kind });
    if (old && sameSize && isPresentable(old)) {
      before = { ...old, before: undefined };
      if (old.before) release(old.before, film, old.film);
    } else if (old) {
      before = sameSize ? old.before : undefined;
      release(before ? { ...old, before: undefined } : old, film, before?.film);
    }
    return {
      key: light.key,
      film,
      coarse: coarse ? new Film(small.width, small.height, { math: this.math, ...kind }) : undefined,
      done: new Uint16Array(this.tiles.length),
      busy: new Uint8Array(this.tiles.length),
      coarseDone: new Uint8Array(this.coarseTiles.length),
      coarseBusy: new Uint8Array(this.coarseTiles.length),
      before,
    };
  }

  /** Takes a step's tile; what comes of it is told to what is answered. Films that were replaced meanwhile ignore it. */
  hand(step: Step): Handed {
    const targets = step.lights.map((id) => this.films.get(id)!);
    const current = () => targets.some((f, i) => this.films.get(step.lights[i]!) === f);
    return { ...(step.kind === 'coarse' ? this.handCoarse(step, targets) : this.handFine(step, targets)), current };
  }

  private handCoarse({ tile: t, from, to }: Step, targets: LightFilms[]): Omit<Handed, 'current'> {
    const tile = this.coarseTiles[t]!;
    for (const f of targets) f.coarseBusy[t] = 1;
    return {
      arrived: (result) =>
        targets.forEach((f, i) => {
          f.coarse!.add(tile, result, i, to - from);
          f.coarseDone[t] = 1;
          f.coarseBusy[t] = 0;
        }),
      lost: () => targets.forEach((f) => (f.coarseBusy[t] = 0)),
    };
  }

  private handFine({ tile: t, from, to, guides: wanted }: Step, targets: LightFilms[]): Omit<Handed, 'current'> {
    const tile = this.tiles[t]!,
      guides = wanted ? this.guides : undefined;
    if (guides) this.guided[t] = to;
    for (const f of targets) f.busy[t] = 1;
    return {
      arrived: (result) => {
        if (guides && result.guides) guides.add(tile, result.guides, result, to - from);
        targets.forEach((f, i) => {
          f.film.add(tile, result, i, to - from);
          f.done[t] = to;
          f.busy[t] = 0;
        });
      },
      lost: () => {
        for (const f of targets) f.busy[t] = 0;
        if (guides && guides === this.guides) this.guided[t] = from;
      },
    };
  }

  /** The films to show for a light: its own, or the last good ones while there is nothing of its own to show. */
  shown(id: string): Shown | undefined {
    const f = this.films.get(id);
    if (!f) return undefined;
    if (f.before && isPresentable(f)) {
      release(f.before, f.film);
      f.before = undefined;
    }
    const { film, coarse } = f.before ?? f;
    return coarse ? { film, coarse } : { film };
  }

  /** Whether a light's films can be shown. */
  isPresentable(id: string): boolean {
    const f = this.films.get(id);
    return f !== undefined && isPresentable(f);
  }

  /** Whether every light has at least its coarse picture. */
  get presentable(): boolean {
    for (const f of this.films.values()) if (!isPresentable(f)) return false;
    return true;
  }

  /** Whether every tile rests or has so many samples. */
  finished(samples: number): boolean {
    for (const f of this.films.values()) for (let t = 0; t < f.done.length; t++) if (!this.resting[t] && f.done[t]! < samples) return false;
    return true;
  }

  /** Least samples of any tile of one light. */
  samplesOf(id: string): number {
    const f = this.films.get(id);
    return f && f.done.length ? f.done.reduce((a, b) => Math.min(a, b)) : 0;
  }

  /** Mean samples of all tiles of one light. */
  meanSamplesOf(id: string): number {
    const f = this.films.get(id);
    return f && f.done.length ? f.done.reduce((a, b) => a + b, 0) / f.done.length : 0;
  }

  /** Least and most samples that tiles have, and the share of `samples` everywhere that is done, 0…1. */
  progress(samples: number): { samples: number; most: number; done: number } {
    let least = Infinity,
      most = 0,
      sum = 0;
    for (const f of this.films.values())
      for (let t = 0; t < f.done.length; t++) {
        least = Math.min(least, f.done[t]!);
        most = Math.max(most, f.done[t]!);
        sum += this.resting[t] ? samples : Math.min(f.done[t]!, samples);
      }
    const all = this.films.size * this.tiles.length * samples;
    return { samples: Number.isFinite(least) ? least : 0, most, done: all ? sum / all : 1 };
  }

  /** Gives all memory back. */
  close(): void {
    for (const f of this.films.values()) release(f);
    this.films.clear();
  }
}

/** Nothing is missing: the coarse film is whole, or (without one) every tile has a sample. */
const isPresentable = (f: LightFilms): boolean => !(f.coarse ? f.coarseDone : f.done).includes(0);

/** A fine film that nothing fell on and nothing is on its way to: it serves again, since to clear a new one takes a hand's time. */
function unusedOf({ film, coarse, busy }: LightFilms, kind: FilmKind): Film | undefined {
  const now = layersIn(kind);
  const same = film.layers.length === now.length && film.layers.every(({ name }, l) => name === now[l]!.name);
  return same && coarse && film.missing === film.counts.length && !busy.includes(1) ? film : undefined;
}

/** Gives the films' memory back, but for those that are still in use. */
function release(f: LightFilms, ...inUse: (Film | undefined)[]): void {
  if (!inUse.includes(f.film)) f.film.release();
  f.coarse?.release();
  if (f.before) release(f.before, ...inUse);
}
