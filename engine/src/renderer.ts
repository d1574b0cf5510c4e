import { Film, resultFilm, tilesOf, type Scene, type SceneLight, type Tile } from '@plinket/core';
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

/**
 * Renders a scene progressively: one film for each light, coarse first, then all tiles in passes of 1, 1, 2, 4, 8 … 16
 * samples. A new scene keeps every film whose key stayed. Passes of one tile are added in order, so the bytes do not
 * depend on the number of workers.
 */
export class Renderer {
  readonly films = new Map<string, LightFilms>();
  /** Called after every tile that arrived. */
  onProgress: () => void = () => undefined;
  onError: (error: Error) => void = () => undefined;
  private readonly pool: Pool;
  private scene: Scene | undefined;
  private options: RenderOptions = { width: 0, height: 0, samples: 0, seed: 1, bounces: 3, coarse: true };
  private tiles: Tile[] = [];
  private coarseTiles: Tile[] = [];
  private msSpent = 0;
  private pixelsTraced = 0;
  private held = false;

  constructor(pool: Pool) {
    this.pool = pool;
    pool.onIdle = () => this.pump();
    pool.onError = (e) => this.onError(e);
  }

  /** What the scene is from now on. Films of other cameras, sizes, geometries and moved lights start again. */
  update(scene: Scene, options: RenderOptions): void {
    const last = this.scene,
      was = this.options;
    const newGeometry = last?.geometry !== scene.geometry;
    const all =
      newGeometry ||
      last?.camera.key !== scene.camera.key ||
      was.width !== options.width ||
      was.height !== options.height ||
      was.seed !== options.seed ||
      was.bounces !== options.bounces;
    const sameFrame = last !== undefined && was.width === options.width && was.height === options.height;
    this.scene = scene;
    this.options = options;
    if (was.width !== options.width || was.height !== options.height) {
      this.tiles = tilesOf(options.width, options.height);
      this.coarseTiles = tilesOf(Math.ceil(options.width / COARSE), Math.ceil(options.height / COARSE));
    }
    const kept = new Map(this.films);
    this.films.clear();
    for (const light of scene.lights) {
      const old = kept.get(light.id);
      this.films.set(light.id, old && !all && old.key === light.key ? old : this.freshFilms(light, sameFrame ? old : undefined));
    }
    if (newGeometry) this.pool.setGeometry(scene.geometry);
    this.pump();
  }

  /** Stops handing out work (nothing is lost); `resume` goes on. */
  hold(): void {
    this.held = true;
  }
  resume(): void {
    this.held = false;
    this.pump();
  }

  private freshFilms(light: SceneLight, old?: LightFilms): LightFilms {
    const { width, height, coarse } = this.options;
    return {
      key: light.key,
      film: new Film(width, height),
      coarse: coarse ? new Film(Math.ceil(width / COARSE), Math.ceil(height / COARSE)) : undefined,
      done: new Uint16Array(this.tiles.length),
      busy: new Uint8Array(this.tiles.length),
      coarseDone: new Uint8Array(this.coarseTiles.length),
      coarseBusy: new Uint8Array(this.coarseTiles.length),
      before: old && (isPresentable(old) ? { ...old, before: undefined } : old.before),
    };
  }

  /** The films to show for a light: its own, or the last good ones while there is nothing of its own to show. */
  shown(id: string): { film: Film; coarse?: Film } | undefined {
    const f = this.films.get(id);
    if (!f) return undefined;
    if (isPresentable(f)) f.before = undefined;
    return f.before ?? f;
  }

  /** Whether every light has at least its coarse picture. */
  get presentable(): boolean {
    for (const f of this.films.values()) if (!isPresentable(f)) return false;
    return true;
  }

  /** Least samples that any tile of any film has, the share of all work that is done, and the time left. */
  progress(): { samples: number; done: number; msLeft: number; coarse: boolean } {
    let least = Infinity,
      sum = 0,
      coarse = true;
    for (const f of this.films.values()) {
      for (let t = 0; t < f.done.length; t++) {
        least = Math.min(least, f.done[t]!);
        sum += Math.min(f.done[t]!, this.options.samples);
      }
      if (f.coarse && f.coarseDone.includes(0)) coarse = false;
    }
    const all = this.films.size * this.tiles.length * this.options.samples;
    const pixelsLeft = this.films.size
      ? ((all - sum) / (this.tiles.length || 1) / this.films.size) * this.options.width * this.options.height
      : 0;
    const perPixel = this.pixelsTraced ? this.msSpent / this.pixelsTraced : 0;
    return {
      samples: Number.isFinite(least) ? least : 0,
      done: all ? sum / all : 1,
      msLeft: (pixelsLeft * perPixel) / this.pool.size,
      coarse,
    };
  }

  get finished(): boolean {
    for (const f of this.films.values()) for (let t = 0; t < f.done.length; t++) if (f.done[t]! < this.options.samples) return false;
    return true;
  }

  /** Hands work to every free worker. */
  private pump(): void {
    while (!this.held && this.scene && this.pool.hasFreeWorker) {
      if (!this.sendCoarse() && !this.sendFine()) return;
    }
  }

  private sendCoarse(): boolean {
    for (let t = 0; t < this.coarseTiles.length; t++) {
      const wanted = this.scene!.lights.filter((l) => {
        const f = this.films.get(l.id)!;
        return f.coarse && !f.coarseDone[t] && !f.coarseBusy[t];
      });
      if (!wanted.length) continue;
      const targets = wanted.map((l) => this.films.get(l.id)!);
      for (const f of targets) f.coarseBusy[t] = 1;
      void this.send(wanted, this.coarseTiles[t]!, 0, COARSE_SAMPLES, true, (sums, i) => {
        const f = targets[i]!;
        f.coarse!.add(this.coarseTiles[t]!, sums, COARSE_SAMPLES);
        f.coarseDone[t] = 1;
        f.coarseBusy[t] = 0;
      });
      return true;
    }
    return false;
  }

  private sendFine(): boolean {
    // the tile that has fewest samples, the middle first among equals
    let tile = -1,
      least = this.options.samples;
    for (let t = 0; t < this.tiles.length; t++)
      for (const f of this.films.values())
        if (!f.busy[t] && f.done[t]! < least) {
          least = f.done[t]!;
          tile = t;
        }
    if (tile < 0) return false;
    const wanted = this.scene!.lights.filter((l) => {
      const f = this.films.get(l.id)!;
      return !f.busy[tile] && f.done[tile] === least;
    });
    const targets = wanted.map((l) => this.films.get(l.id)!);
    const to = Math.min(this.options.samples, least + passLength(least));
    for (const f of targets) f.busy[tile] = 1;
    void this.send(wanted, this.tiles[tile]!, least, to, false, (sums, i) => {
      const f = targets[i]!;
      f.film.add(this.tiles[tile]!, sums, to - least);
      f.done[tile] = to;
      f.busy[tile] = 0;
    });
    return true;
  }

  /** `arrived` adds to films that may have been replaced meanwhile: they are then nobody's, and nothing is shown. */
  private async send(
    lights: SceneLight[],
    tile: Tile,
    from: number,
    to: number,
    coarse: boolean,
    arrived: (sums: Float32Array, index: number) => void,
  ): Promise<void> {
    const { width, height, seed, bounces } = this.options;
    const size = coarse ? { width: Math.ceil(width / COARSE), height: Math.ceil(height / COARSE) } : { width, height };
    const scene = this.scene!;
    const targets = lights.map((l) => this.films.get(l.id)!);
    try {
      const { result, ms } = await this.pool.trace({ camera: scene.camera, ...size, tile, from, to, seed, bounces, lights });
      this.msSpent += ms;
      this.pixelsTraced += tile.width * tile.height * (to - from);
      const current = targets.some((f, i) => this.films.get(lights[i]!.id) === f);
      lights.forEach((_, i) => arrived(resultFilm(result, i, tile.width * tile.height), i));
      if (current) this.onProgress();
      // the tile is free again only now: its next pass may be all there is to do
      this.pump();
    } catch (error) {
      if (!(error instanceof Cancelled)) this.onError(error instanceof Error ? error : new Error(String(error)));
    }
  }
}

/** Nothing is missing: the coarse film is whole, or (without one) every tile has a sample. */
const isPresentable = (f: LightFilms): boolean => !(f.coarse ? f.coarseDone : f.done).includes(0);

/** 1, 1, 2, 4, 8, 16, 16 …: short at first, so that every light is heard soon. */
const passLength = (done: number): number => (done === 0 ? 1 : Math.min(16, done));
