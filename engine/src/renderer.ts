import { filmKind, type SceneLight } from '@plinket/core';
import type { FilmMath } from '@plinket/kernel';
import { COARSE_SAMPLES, FilmSet } from './film-set.ts';
import { Cancelled, type Pool } from './pool.ts';
import { nextCoarse, nextFine, type Step } from './schedule.ts';
import { startsAgain, Wishes, type Wish } from './wishes.ts';

/**
 * Renders a scene progressively: one film for each light, coarse first, then all tiles in passes of 1, 1, 2, 4, 8, 8 …
 * samples (of 8 where nobody looks on). A new wish keeps every film whose key stayed. Passes of one tile are added in order, so the bytes
 * do not depend on the number of workers.
 */
export class Renderer {
  readonly set: FilmSet;
  /** Called after every tile that arrived. */
  onProgress: () => void = () => undefined;
  onError: (error: Error) => void = () => undefined;
  private readonly pool: Pool;
  private readonly unwatch: () => void;
  private readonly wishes = new Wishes();
  private msSpent = 0;
  private samplesTraced = 0;
  private failed = false;
  private held = false;
  private showing = 0;

  constructor(pool: Pool, math?: FilmMath) {
    this.pool = pool;
    this.set = new FilmSet(math, pool.size);
    this.unwatch = pool.watch({ idle: () => this.pump(), error: (e) => this.fail(e) });
  }

  /** Stops; whoever updates again tries again, from the geometry on. */
  private fail(error: Error): void {
    this.failed = true;
    this.onError(error);
  }

  /** What is to be seen from now on; it may have to wait, see `Wishes`. */
  update(wish: Wish): void {
    const next = this.failed ? this.wishes.force(wish) : this.wishes.offer(wish, this.set);
    if (next) this.take(next);
  }

  /** Number of the newest wish that the films that `set.shown` answers stand for. */
  get shown(): number {
    return this.showing;
  }

  private take(wish: Wish): void {
    const { scene, options } = wish,
      last = this.wishes.current;
    const newGeometry = this.failed || last?.scene.geometry !== scene.geometry;
    const all = startsAgain(last, wish);
    const { width, height, coarse, mattes = false } = options;
    const again = this.failed;
    this.failed = false;
    this.wishes.current = wish;
    const kind = filmKind(scene);
    // where only the balance changed the owner asks anew when there is time: a picture must not wait for it
    if (this.set.prepare(scene, { width, height, coarse, kind, mattes }, all)) this.rejudge();
    if (newGeometry) this.pool.setGeometry(scene.geometry, again);
    if (this.set.presentable) this.showing = wish.number;
    this.pump();
  }

  /** Asks anew which tiles may rest; those that may not go on. Call it when balance or look changed. */
  rejudge(): void {
    this.set.resting = new Uint8Array(this.set.tiles.length);
    if (this.wishes.current?.options.adaptive) this.set.tiles.forEach((_, t) => this.judge(t));
    this.pump();
  }

  /**
   * While held only coarse pictures are traced: a hand that moves something would throw the finer ones away, and must not wait for them.
   */
  hold(held: boolean): void {
    if (held && !this.held) this.pool.drop();
    this.held = held;
    if (!held) this.pump();
  }

  private judge(t: number): void {
    const adaptive = this.wishes.current?.options.adaptive,
      { set } = this;
    if (!adaptive || !set.films.size) return;
    for (const f of set.films.values()) if (f.done[t]! < adaptive.least) return;
    set.resting[t] = adaptive.noise(set.tiles[t]!) < adaptive.enough ? 1 : 0;
  }

  /** Samples that tiles have, the share of all work that is done, the time that is left, and pixels that get a sample in a second. */
  progress(): { samples: number; most: number; done: number; msLeft: number; speed: number } {
    const target = this.wishes.current?.options.samples ?? 0,
      { set } = this;
    const progress = set.progress(target);
    const samplesLeft = set.films.size ? (1 - progress.done) * target * set.films.size * set.width * set.height : 0;
    const perSample = this.samplesTraced ? this.msSpent / this.samplesTraced : 0;
    const speed = perSample > 0 ? (1000 * this.pool.size) / (perSample * Math.max(1, set.films.size)) : 0;
    return { ...progress, msLeft: (samplesLeft * perSample) / this.pool.size, speed };
  }

  get finished(): boolean {
    return this.set.finished(this.wishes.current?.options.samples ?? 0);
  }

  /** Gives all memory back, and the workers to others. */
  close(): void {
    this.unwatch();
    this.set.close();
    this.wishes.forget();
  }

  /** Hands work to every free worker. */
  private pump(): void {
    while (!this.failed && this.wishes.current) {
      const { samples, coarse, adaptive } = this.wishes.current.options;
      const small = this.pool.hasRoom(true) ? nextCoarse(this.set, COARSE_SAMPLES) : undefined;
      const step =
        small ?? (!this.held && this.pool.hasRoom(false) ? nextFine(this.set, samples, coarse || adaptive !== undefined) : undefined);
      if (!step) return;
      void this.send(this.wishes.current, step);
    }
  }

  private async send({ scene, options }: Wish, step: Step): Promise<void> {
    const { set } = this;
    const { width, height, seed, bounces, clamp } = options,
      coarse = step.kind === 'coarse';
    const tile = (coarse ? set.coarseTiles : set.tiles)[step.tile]!;
    const handed = set.hand(step);
    try {
      const { result, ms } = await this.pool.trace({
        camera: scene.camera,
        ...(scene.haze ? { haze: scene.haze } : {}),
        ...(scene.catchers ? { catchers: scene.catchers } : {}),
        ...(coarse ? set.coarseSize : { width, height }),
        tile,
        from: step.from,
        to: step.to,
        seed,
        bounces,
        lights: step.lights.map((id) => scene.lights.find((l) => l.id === id) as SceneLight),
        guides: step.guides,
        ...(options.mattes ? { mattes: true } : {}),
        ...(coarse || options.shallow ? { shallow: true } : {}),
        ...(clamp ? { clamp } : {}),
      });
      this.msSpent += ms;
      // in samples of one light's film, as `progress` counts what is left
      this.samplesTraced += tile.width * tile.height * (step.to - step.from) * step.lights.length;
      const current = handed.current();
      if (current) {
        set.clamped.offered += result.clamped.offered;
        set.clamped.removed += result.clamped.removed;
      }
      handed.arrived(result);
      if (current && !coarse) this.judge(step.tile);
      if (set.presentable && this.wishes.current) this.showing = this.wishes.current.number;
      if (current) this.onProgress();
      const next = this.wishes.due(set);
      if (next) this.take(next);
      // the tile is free again only now: its next pass may be all there is to do
      this.pump();
    } catch (error) {
      handed.lost();
      if (error instanceof Cancelled) this.pump();
      else this.fail(error instanceof Error ? error : new Error(String(error)));
    }
  }
}
