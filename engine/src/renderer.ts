import { Film, Guides, tilesOf, type Scene, type SceneLight, type Tile, type TraceResult } from '@plinket/core';
import { plainFilmMath, type FilmMath } from '@plinket/kernel';
import { Cancelled, type Pool } from './pool.ts';

/** How a picture is to be traced. */
export interface RenderOptions {
  width: number;
  height: number;
  /** Samples a pixel at which a film is finished. */
  samples: number;
  seed: number;
  bounces: number;
  /** Trace a small picture first, to have something at once. */
  coarse: boolean;
  /** Most luminance of one indirect contribution; default: no limit. */
  clamp?: number;
  /**
   * A tile may rest before it has all samples once `noise` of it is below `enough` (steps of 8 bit, see `noiseOf` in core).
   */
  adaptive?: { enough: number; least: number; noise: (tile: Tile) => number };
}

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

/** The coarse picture has one pixel for so many, in each direction. */
const COARSE = 4;
const COARSE_SAMPLES = 2;
/** Samples for which the first surfaces are written down. */
const GUIDE_SAMPLES = 16;

/**
 * Renders a scene progressively: one film for each light, coarse first, then all tiles in passes of 1, 1, 2, 4, 8, 8 …
 * samples (of 8 where nobody looks on). A new scene keeps every film whose key stayed. Passes of one tile are added in order, so the bytes do not
 * depend on the number of workers.
 */
export class Renderer {
  readonly films = new Map<string, LightFilms>();
  /** What the first surfaces are; from the first passes over each tile. */
  guides = new Guides(0, 0);
  /** Luminance of indirect contributions since the last new picture, and what the clamp took of it. */
  clamped = { offered: 0, removed: 0 };
  /** Called after every tile that arrived. */
  onProgress: () => void = () => undefined;
  onError: (error: Error) => void = () => undefined;
  private readonly pool: Pool;
  private readonly math: FilmMath;
  private scene: Scene | undefined;
  private options: RenderOptions = { width: 0, height: 0, samples: 0, seed: 1, bounces: 3, coarse: true };
  private tiles: Tile[] = [];
  private coarseTiles: Tile[] = [];
  private guideSamples = new Uint8Array(0);
  /** Tiles that may rest. */
  private resting = new Uint8Array(0);
  private msSpent = 0;
  private samplesTraced = 0;
  private held = false;
  private failed = false;
  /** Number of the wish that is traced, and of the last one that the films could show. */
  private mark = 0;
  private lastShown = 0;
  /** The newest wish, while the one before it has nothing to show yet. */
  private coming: { scene: Scene; options: RenderOptions; mark: number } | undefined;

  constructor(pool: Pool, math: FilmMath = plainFilmMath()) {
    this.pool = pool;
    this.math = math;
    pool.onIdle = () => this.pump();
    pool.onError = (e) => this.fail(e);
  }

  /** Stops; whoever updates again tries again, from the geometry on. */
  private fail(error: Error): void {
    this.failed = true;
    this.onError(error);
  }

  /**
   * What the scene is from now on. Films of other cameras, sizes, geometries and moved lights start again. While a coarse
   * picture is on its way it is finished first, and of all wishes that come meanwhile the newest is taken then: else a hand that
   * never rests would never see anything. `mark` numbers the wish, see `shownMark`.
   */
  update(scene: Scene, options: RenderOptions, mark = 0): void {
    const next = { scene, options, mark };
    if (this.wouldLose(next)) this.coming = next;
    else this.take(next);
  }

  /** Whether films would be thrown away that are on their way to their first picture. */
  private wouldLose({ scene, options }: { scene: Scene; options: RenderOptions }): boolean {
    if (!this.scene || this.failed || !options.coarse || !this.sameFrame(options)) return false;
    const all = this.startsAgain(scene, options);
    return scene.lights.some(({ id, key }) => {
      const f = this.films.get(id);
      return f !== undefined && (all || f.key !== key) && !isPresentable(f);
    });
  }

  private sameFrame({ width, height }: RenderOptions): boolean {
    return this.scene !== undefined && this.options.width === width && this.options.height === height;
  }

  /** Whether no film can stay. */
  private startsAgain(scene: Scene, options: RenderOptions): boolean {
    const last = this.scene,
      was = this.options;
    return (
      last?.geometry !== scene.geometry ||
      !this.sameFrame(options) ||
      last.camera.key !== scene.camera.key ||
      JSON.stringify(last.haze) !== JSON.stringify(scene.haze) ||
      was.seed !== options.seed ||
      was.bounces !== options.bounces ||
      was.clamp !== options.clamp
    );
  }

  /** Number of the newest wish that the films that `shown` answers stand for. */
  get shownMark(): number {
    return this.lastShown;
  }

  private take({ scene, options, mark }: { scene: Scene; options: RenderOptions; mark: number }): void {
    const newGeometry = this.failed || this.scene?.geometry !== scene.geometry,
      sameFrame = this.sameFrame(options),
      all = this.startsAgain(scene, options);
    this.coming = undefined;
    this.failed = false;
    this.mark = mark;
    this.scene = scene;
    this.options = options;
    if (!sameFrame) {
      this.tiles = tilesOf(options.width, options.height);
      this.coarseTiles = tilesOf(Math.ceil(options.width / COARSE), Math.ceil(options.height / COARSE));
    }
    if (all) {
      this.guides = new Guides(options.width, options.height);
      this.guideSamples = new Uint8Array(this.tiles.length);
      this.clamped = { offered: 0, removed: 0 };
    }
    const kept = new Map(this.films);
    let fresh = all;
    this.films.clear();
    for (const light of scene.lights) {
      const old = kept.get(light.id);
      kept.delete(light.id);
      const stays = old !== undefined && !all && old.key === light.key;
      if (!stays) fresh = true;
      this.films.set(light.id, stays ? old : this.freshFilms(light, old, sameFrame));
    }
    for (const gone of kept.values()) release(gone);
    // where only the balance changed the owner asks anew when there is time: a picture must not wait for it
    if (fresh || kept.size) this.rejudge();
    if (newGeometry) this.pool.setGeometry(scene.geometry);
    if (this.presentable) this.lastShown = mark;
    this.pump();
  }

  /** Asks anew which tiles may rest; `resume` goes on with those that may not. Call it when balance or look changed. */
  rejudge(): void {
    const { adaptive } = this.options;
    this.resting = new Uint8Array(this.tiles.length);
    if (!adaptive) return;
    this.tiles.forEach((_, t) => this.judge(t));
  }

  private judge(t: number): void {
    const { adaptive } = this.options;
    if (!adaptive || !this.films.size) return;
    for (const f of this.films.values()) if (f.done[t]! < adaptive.least) return;
    this.resting[t] = adaptive.noise(this.tiles[t]!) < adaptive.enough ? 1 : 0;
  }

  /** Stops handing out work (nothing is lost); `resume` goes on. */
  hold(): void {
    this.held = true;
  }
  resume(): void {
    this.held = false;
    this.pump();
  }

  private freshFilms(light: SceneLight, old: LightFilms | undefined, sameFrame: boolean): LightFilms {
    const { width, height, coarse } = this.options;
    const how = { math: this.math, haze: this.scene!.haze !== undefined };
    let before: LightFilms | undefined;
    if (old && sameFrame) {
      before = isPresentable(old) ? { ...old, before: undefined } : old.before;
      if (before?.film !== old.film) release({ ...old, before: undefined });
      else if (old.before) release(old.before);
    } else if (old) release(old);
    return {
      key: light.key,
      film: new Film(width, height, how),
      coarse: coarse ? new Film(Math.ceil(width / COARSE), Math.ceil(height / COARSE), { haze: how.haze }) : undefined,
      done: new Uint16Array(this.tiles.length),
      busy: new Uint8Array(this.tiles.length),
      coarseDone: new Uint8Array(this.coarseTiles.length),
      coarseBusy: new Uint8Array(this.coarseTiles.length),
      before,
    };
  }

  /** The films to show for a light: its own, or the last good ones while there is nothing of its own to show. */
  shown(id: string): { film: Film; coarse?: Film } | undefined {
    const f = this.films.get(id);
    if (!f) return undefined;
    if (f.before && isPresentable(f)) {
      release(f.before);
      f.before = undefined;
    }
    return f.before ?? f;
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

  /** Whether every light has at least its coarse picture. */
  get presentable(): boolean {
    for (const f of this.films.values()) if (!isPresentable(f)) return false;
    return true;
  }

  /** Least and most samples that tiles have, the share of all work that is done, and the time left. */
  progress(): { samples: number; most: number; done: number; msLeft: number; coarse: boolean } {
    const { samples } = this.options;
    let least = Infinity,
      most = 0,
      sum = 0,
      coarse = true;
    for (const f of this.films.values()) {
      for (let t = 0; t < f.done.length; t++) {
        least = Math.min(least, f.done[t]!);
        most = Math.max(most, f.done[t]!);
        sum += this.resting[t] ? samples : Math.min(f.done[t]!, samples);
      }
      if (f.coarse && f.coarseDone.includes(0)) coarse = false;
    }
    const all = this.films.size * this.tiles.length * samples;
    const pixels = this.options.width * this.options.height;
    const samplesLeft = this.films.size ? ((all - sum) / (this.tiles.length || 1) / this.films.size) * pixels : 0;
    const perSample = this.samplesTraced ? this.msSpent / this.samplesTraced : 0;
    return {
      samples: Number.isFinite(least) ? least : 0,
      most,
      done: all ? sum / all : 1,
      msLeft: (samplesLeft * perSample) / this.pool.size,
      coarse,
    };
  }

  get finished(): boolean {
    for (const f of this.films.values())
      for (let t = 0; t < f.done.length; t++) if (!this.resting[t] && f.done[t]! < this.options.samples) return false;
    return true;
  }

  /** Gives all memory back. */
  close(): void {
    for (const f of this.films.values()) release(f);
    this.films.clear();
    this.scene = this.coming = undefined;
  }

  /** Hands work to every free worker. */
  private pump(): void {
    while (!this.held && !this.failed && this.scene) {
      if (this.pool.hasRoom(true) && this.sendCoarse()) continue;
      if (!this.pool.hasRoom(false) || !this.sendFine()) return;
    }
  }

  private sendCoarse(): boolean {
    for (let t = 0; t < this.coarseTiles.length; t++) {
      const wanted = this.scene!.lights.filter((l) => {
        const f = this.films.get(l.id)!;
        return f.coarse && !f.coarseDone[t] && !f.coarseBusy[t];
      });
      if (!wanted.length) continue;
      const tile = this.coarseTiles[t]!;
      const targets = wanted.map((l) => this.films.get(l.id)!);
      for (const f of targets) f.coarseBusy[t] = 1;
      void this.send(
        wanted,
        tile,
        0,
        COARSE_SAMPLES,
        { coarse: true, guides: false },
        {
          arrived: (result) =>
            targets.forEach((f, i) => {
              f.coarse!.add(tile, result, i, COARSE_SAMPLES);
              f.coarseDone[t] = 1;
              f.coarseBusy[t] = 0;
            }),
          lost: () => targets.forEach((f) => (f.coarseBusy[t] = 0)),
        },
      );
      return true;
    }
    return false;
  }

  private sendFine(): boolean {
    // the tile that has fewest samples, the middle first among equals
    let t = -1,
      least = this.options.samples;
    for (let i = 0; i < this.tiles.length; i++) {
      if (this.resting[i]) continue;
      for (const f of this.films.values())
        if (!f.busy[i] && f.done[i]! < least) {
          least = f.done[i]!;
          t = i;
        }
    }
    if (t < 0) return false;
    const wanted = this.scene!.lights.filter((l) => {
      const f = this.films.get(l.id)!;
      return !f.busy[t] && f.done[t] === least;
    });
    const targets = wanted.map((l) => this.films.get(l.id)!);
    const tile = this.tiles[t]!;
    const { coarse, adaptive } = this.options;
    // who does not look on need not be served in small pieces
    const to = Math.min(this.options.samples, least + (coarse || adaptive ? passLength(least) : LONGEST));
    // the surfaces are written down with passes in their order, whoever's they are
    const guides = this.guideSamples[t] === least && least < GUIDE_SAMPLES ? this.guides : undefined;
    if (guides) this.guideSamples[t] = to;
    for (const f of targets) f.busy[t] = 1;
    void this.send(
      wanted,
      tile,
      least,
      to,
      { coarse: false, guides: guides !== undefined },
      {
        arrived: (result) => {
          if (guides && result.guides) guides.add(tile, result.guides, result.alpha, to - least);
          targets.forEach((f, i) => {
            f.film.add(tile, result, i, to - least);
            f.done[t] = to;
            f.busy[t] = 0;
          });
          this.judge(t);
        },
        lost: () => {
          for (const f of targets) f.busy[t] = 0;
          if (guides && guides === this.guides) this.guideSamples[t] = least;
        },
      },
    );
    return true;
  }

  /**
   * `arrived` adds to films that may have been replaced meanwhile: they are then nobody's, and ignore it. `lost` makes the work free again
   * that was not done.
   */
  private async send(
    lights: SceneLight[],
    tile: Tile,
    from: number,
    to: number,
    what: { coarse: boolean; guides: boolean },
    then: { arrived: (result: TraceResult) => void; lost: () => void },
  ): Promise<void> {
    const { width, height, seed, bounces, clamp } = this.options;
    const size = what.coarse ? { width: Math.ceil(width / COARSE), height: Math.ceil(height / COARSE) } : { width, height };
    const { camera, haze } = this.scene!;
    const targets = lights.map((l) => this.films.get(l.id)!);
    try {
      const { result, ms } = await this.pool.trace({
        camera,
        ...(haze ? { haze } : {}),
        ...size,
        tile,
        from,
        to,
        seed,
        bounces,
        lights,
        guides: what.guides,
        ...(what.coarse ? { shallow: true } : {}),
        ...(clamp ? { clamp } : {}),
      });
      this.msSpent += ms;
      this.samplesTraced += tile.width * tile.height * (to - from);
      const current = targets.some((f, i) => this.films.get(lights[i]!.id) === f);
      if (current) {
        this.clamped.offered += result.clamped.offered;
        this.clamped.removed += result.clamped.removed;
      }
      then.arrived(result);
      if (this.presentable) this.lastShown = this.mark;
      if (current) this.onProgress();
      if (this.coming && !this.wouldLose(this.coming)) this.take(this.coming);
      // the tile is free again only now: its next pass may be all there is to do
      this.pump();
    } catch (error) {
      then.lost();
      if (!(error instanceof Cancelled)) this.fail(error instanceof Error ? error : new Error(String(error)));
    }
  }
}

/** Nothing is missing: the coarse film is whole, or (without one) every tile has a sample. */
const isPresentable = (f: LightFilms): boolean => !(f.coarse ? f.coarseDone : f.done).includes(0);

function release(f: LightFilms): void {
  f.film.release();
  f.coarse?.release();
  if (f.before) release(f.before);
}

/** Samples of the longest pass: nobody should wait for one. */
const LONGEST = 8;
/** 1, 1, 2, 4, 8, 8 …: short at first, so that every light is heard soon. */
const passLength = (done: number): number => (done === 0 ? 1 : Math.min(LONGEST, done));
