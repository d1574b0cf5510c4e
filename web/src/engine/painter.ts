import { noiseOf, orderOf, PictureMaker, type PictureFiles, type PictureKind, type Scene } from '@plinket/core';
import { keepsFilms, Renderer, Smoothing, type FilmMath, type Pool, type Wish } from '@plinket/engine';
import type { FromEngine, PictureMode, ShowMessage, Thumb } from './messages.ts';

/** Time, as the worker has it. */
export interface Clock {
  now(): number;
  /** Calls back after so many milliseconds; what it answers forgets it. */
  after(ms: number, run: () => void): () => void;
}

export type Tell = (message: FromEngine, transfer?: Transferable[]) => void;

/** Samples a pixel at which the Stage's picture rests, at the latest. */
const TARGET = 256;
/** A tile rests when its noise is below so many steps of 8 bit: raw, and where noise is removed anyway. */
const ENOUGH = 1;
const ENOUGH_SMOOTHED = 2.5;
const LEAST = 16;
const BOUNCES = 3;
const FRAME_MS = 70;
/** Developing takes at most one part in so many of this worker's time: results must not wait for pictures; at rest the cores are the light's. */
const FRAME_SHARE = 3,
  REST_SHARE = 14;
/** A hand that has changed nothing for so long leaves the cores to the light. */
const QUIET_MS = 600;
/** Small pictures come so often, and the noise's number unless a hand is at work. */
const THUMB_MS = 450;
/** A hand that has changed nothing for so long rests. */
const HAND_MS = 300;
/** Under a hand tones are measured of every so many-th pixel. */
const SOME = 7;
/** A hand that has moved nothing for so long is no longer waited for: the finer picture is traced. */
const HOLD_MS = 130;
/** And so long while it is still on it: a slow hand's next move may come later than that. */
const DOWN_MS = 500;
/** How long the finished picture stands before it is traced once more at the screen's resolution, and from how many times the pixels on. */
const FULL_MS = 1000,
  FULL_FROM = 1.15;
/** The full picture is traced further than the other: it is only made when nobody waits. */
const FULL_TARGET = 128;

const kindOf = (mode: PictureMode): PictureKind => (mode.kind === 'light' || mode.kind === 'share' ? 'look' : mode.kind);

/**
 * Paints what is wished for while it is traced: the large picture as often as there is time, the small ones now and then, noise removal
 * when the hand rests.
 */
export class Painter {
  readonly renderer: Renderer;
  readonly maker: PictureMaker;
  private readonly pool: Pool;
  private readonly math: FilmMath;
  /** The same wish at the screen's own resolution, once all else rests; the picture stays what it was until this one is calmer. */
  private full: { renderer: Renderer; wish: Wish } | undefined;
  private scene: Scene | undefined;
  private readonly smoothing: Smoothing;
  private readonly clock: Clock;
  private readonly tell: Tell;
  /** What is wished for, and since when. */
  private show: { wish: ShowMessage; at: number } | undefined;
  /** Numbers of the wish that the last picture answered, and of that for which was asked which tiles may rest. */
  private painted = 0;
  private judged = 0;
  private noise = Infinity;
  private asked: Wish | undefined;
  /** Lights that were changed since their small pictures were made. */
  private readonly changed = new Set<string>();
  /** A hand is on something. */
  private down = false;
  /** Lets finer pictures be traced again, and forgets to. */
  private letGo: { release(): void; forget(): void } | undefined;
  /** Called with the number of the wish that a picture just told answers. */
  onPainted: (wish: number) => void = () => undefined;
  /** Called when a picture was told while no hand is at work; `finished`: it will not become better. */
  onRest: (finished: boolean) => void = () => undefined;
  /** Forgets the full picture that is to begin. */
  private beginning: (() => void) | undefined;
  /** Forgets what is left to do after the last picture; and what that took the last time, ms: it counts as the picture's cost. */
  private chores: (() => void) | undefined;
  private after = 0;
  private timer: { due: number; forget: () => void } | undefined;
  private smoothingSoon = false;
  private wasAtWork = false;
  /** When the last picture was told, what it took, and when the small ones were made. */
  private last = { frame: -Infinity, cost: 0, thumbs: -Infinity };

  constructor(pool: Pool, math: FilmMath, files: PictureFiles, clock: Clock, tell: Tell) {
    this.pool = pool;
    this.math = math;
    this.clock = clock;
    this.tell = tell;
    this.renderer = new Renderer(pool, math);
    this.maker = new PictureMaker(math, files);
    this.smoothing = new Smoothing(math);
    // the first picture that answers a wish does not wait its turn; until it can be shown there is nothing new to develop
    this.renderer.onProgress = () => {
      if (this.painted < this.renderer.shown) this.schedule(true);
      else if (this.renderer.set.presentable || this.painted === 0) this.schedule(false);
    };
    this.renderer.onError = (error) => tell({ type: 'failed', message: error.message });
  }

  /** Shows a compiled wish from now on. */
  take(wish: ShowMessage, scene: Scene): void {
    const { renderer, maker } = this;
    const { setup, width, height } = wish;
    const before = this.show?.wish.setup.lights.items ?? {};
    for (const [id, light] of Object.entries(setup.lights.items))
      if (JSON.stringify(before[id]) !== JSON.stringify(light)) this.changed.add(id);
    this.show = { wish, at: this.clock.now() };
    this.scene = scene;
    maker.shown(setup.look);
    const asked = this.wishFor(renderer, wish, scene, width, height, TARGET);
    if (this.painted > 0 && this.asked && !keepsFilms(this.asked, asked)) this.hold();
    this.asked = asked;
    renderer.update(asked);
    this.keepFull(wish, scene);
    // where only balance or look changed there is no ray to wait for
    if (renderer.shown === wish.number || this.painted === 0) this.schedule(true);
  }

  private wishFor(renderer: Renderer, { number, setup }: ShowMessage, scene: Scene, width: number, height: number, samples: number): Wish {
    const { maker } = this;
    return {
      number,
      scene,
      options: {
        width,
        height,
        samples,
        seed: 1,
        bounces: BOUNCES,
        coarse: renderer === this.renderer,
        adaptive: {
          enough: setup.look.smooth > 0 ? ENOUGH_SMOOTHED : ENOUGH,
          least: LEAST,
          noise: (tile) => {
            const { look } = this.show!.wish.setup;
            return noiseOf(maker.voices(renderer.set, this.show!.wish.setup), tile, maker.shown(look));
          },
        },
      },
    };
  }

  /** The full picture goes along with what only balances; what has to be traced again ends it. */
  private keepFull(wish: ShowMessage, scene: Scene): void {
    if (!this.full) return;
    const [width, height] = wish.full;
    const next = this.wishFor(this.full.renderer, wish, scene, width, height, FULL_TARGET);
    if (keepsFilms(this.full.wish, next)) {
      this.full.wish = next;
      this.full.renderer.update(next);
    } else {
      this.full.renderer.close();
      this.full = undefined;
    }
  }

  /** Whether there is more to see than the picture has pixels. */
  private get wantsFull(): boolean {
    const { width, height, full } = this.show!.wish;
    return full[0] * full[1] > FULL_FROM * width * height;
  }

  /** Begins the full picture once the other is finished and the hand rests. */
  private begin(): void {
    if (this.full || !this.show || !this.scene || !this.renderer.finished || !this.wantsFull) return;
    const { wish, at } = this.show;
    const rest = FULL_MS - (this.clock.now() - at);
    if (rest > 0) {
      this.beginning?.();
      this.beginning = this.clock.after(rest, () => this.trying(() => this.begin()));
      return;
    }
    const renderer = new Renderer(this.pool, this.math);
    const asked = this.wishFor(renderer, wish, this.scene, wish.full[0], wish.full[1], FULL_TARGET);
    this.full = { renderer, wish: asked };
    renderer.onError = (error) => this.tell({ type: 'failed', message: error.message });
    renderer.onProgress = () => this.schedule(false);
    renderer.update(asked);
  }

  /** Whose films are shown: the full picture's once they are as calm as those that they take the place of. */
  get shown(): Renderer {
    const { full, renderer } = this;
    if (!full) return renderer;
    const { set } = full.renderer;
    const smooth = this.show!.wish.setup.look.smooth > 0;
    const calm = [...set.films].every(([id, { film }]) => set.samplesOf(id) >= LEAST && (!smooth || film.smooth !== undefined));
    return calm ? full.renderer : renderer;
  }

  private get finished(): boolean {
    return this.renderer.finished && (this.full ? this.full.renderer.finished : !this.wantsFull);
  }

  /** A hand has just asked for something: what takes long waits. */
  touch(): void {
    if (this.show) this.show.at = this.clock.now();
  }

  /** A hand is put on something and will change it, so that its first picture finds the cores free; or it lets go. */
  hand(down: boolean): void {
    this.down = down;
    if (this.painted === 0) return;
    if (down) {
      this.touch();
      this.hold();
    } else this.letGo?.release();
  }

  /** A hand moves something: nothing is traced that its next move would throw away. */
  private hold(): void {
    this.letGo?.forget();
    this.renderer.hold(true);
    const release = () => {
      this.letGo?.forget();
      this.letGo = undefined;
      this.trying(() => this.renderer.hold(false));
    };
    this.letGo = { release, forget: this.clock.after(this.down ? DOWN_MS : HOLD_MS, release) };
  }

  /** Milliseconds since the hand last changed something. */
  private get quiet(): number {
    return this.show ? this.clock.now() - this.show.at : 0;
  }

  /** Develops a picture soon; never more often than the page can paint it, unless it is wanted now. */
  private schedule(now: boolean): void {
    const { clock, last } = this;
    const share = this.painted > 0 && this.quiet > QUIET_MS ? REST_SHARE : FRAME_SHARE;
    const pause = Math.max(FRAME_MS, last.cost * (share - 1));
    const wait = Math.max(now ? 0 : pause - (clock.now() - last.frame), 0),
      due = clock.now() + wait;
    // what is due sooner stays; asking again must not put it off
    if (this.timer && this.timer.due <= due + 1) return;
    this.timer?.forget();
    const forget = clock.after(wait, () => {
      this.timer = undefined;
      this.trying(() => this.paint());
    });
    this.timer = { due, forget };
  }

  private trying(run: () => void): void {
    try {
      run();
    } catch (error) {
      this.tell({ type: 'failed', message: error instanceof Error ? error.message : String(error) });
    }
  }

  private paint(): void {
    if (!this.show) return;
    const { renderer, maker, clock, last, tell } = this;
    const { wish, at } = this.show;
    const { setup, mode } = wish,
      { shown } = this;
    // whether all rests is known only once tiles have been judged by this balance, below
    const rests = this.finished,
      finished = rests && this.judged === wish.number;
    const start = clock.now();
    const solo = mode.kind === 'share' ? [mode.light] : wish.solo;
    // under a hand only what it changes is pictured anew: the large picture must not wait for the small ones
    const atWork = start - at < HAND_MS && !rests;
    const measure = atWork ? SOME : 1;
    const { width, height, tones, rgba, smoothed } = maker.make(shown.set, { setup, solo, kind: kindOf(mode), measure });
    const balanceMs = clock.now() - start;
    last.frame = clock.now();
    // a hand that begins waits for its first picture, not for small ones
    if (atWork && !this.wasAtWork) last.thumbs = last.frame;
    this.wasAtWork = atWork;
    const thumbsDue = last.frame - last.thumbs > THUMB_MS || rests;
    if (thumbsDue && !atWork) this.noise = noiseOf(maker.voices(shown.set, setup), { x: 0, y: 0, width, height }, maker.shown(setup.look));
    const pixels = new Uint8Array(rgba).buffer as ArrayBuffer;
    tell(
      {
        type: 'frame',
        width,
        height,
        rgba: pixels,
        ...tones!,
        ...shown.progress(),
        target: TARGET,
        finished,
        noise: this.noise,
        smoothed,
        rays: this.pool.rays.walk + this.pool.rays.shadow,
        balanceMs,
        wish: renderer.shown,
      },
      [pixels],
    );
    tell({ type: 'state', state: finished ? 'finished' : 'tracing' });
    this.afterwards(
      // of what is wished for by then, as the films are
      () => thumbsDue && this.paintThumbs(this.show!.wish, atWork),
      () => !atWork && maker.prepare(renderer.set, orderOf(setup.lights)[0] ?? ''),
    );
    this.painted = renderer.shown;
    last.cost = clock.now() - start + (thumbsDue ? this.after : 0);
    last.frame = clock.now();
    if (setup.look.smooth > 0) this.smoothSoon();
    if (renderer.finished) this.begin();
    this.onPainted(renderer.shown);
    if (thumbsDue && !atWork) this.onRest(finished);
    // what comes is painted when it comes; only that all rests is judged once more
    if (!finished && rests) this.schedule(false);
  }

  /** Does what comes after a picture piece by piece: a hand may ask for its own in between, and what is left then waits for the next one. */
  private afterwards(...chores: (() => void)[]): void {
    this.chores?.();
    let took = 0;
    const next = () => {
      const [chore] = chores.splice(0, 1);
      this.chores = chore
        ? this.clock.after(0, () => {
            const start = this.clock.now();
            this.trying(chore);
            took += this.clock.now() - start;
            if (chores.length === 0) this.after = took;
            next();
          })
        : undefined;
    };
    next();
  }

  /** Every light's own share, small, or those that were changed; and where balance or look changed, which tiles may rest now. */
  private paintThumbs({ setup, thumb, number }: ShowMessage, changedOnly: boolean): void {
    const { renderer, maker } = this;
    const [width, height] = thumb;
    const lights = orderOf(setup.lights).filter((id) => !changedOnly || this.changed.has(id));
    this.changed.clear();
    const thumbs = lights.flatMap((id): Thumb[] => {
      const rgba = maker.small(renderer.set, setup, id, thumb);
      return rgba ? [{ id, width, height, rgba: new Uint8Array(rgba).buffer as ArrayBuffer }] : [];
    });
    this.last.thumbs = this.clock.now();
    this.tell(
      { type: 'thumbs', thumbs },
      thumbs.map((t) => t.rgba),
    );
    if (changedOnly || this.judged === number) return;
    this.judged = number;
    renderer.rejudge();
    this.full?.renderer.rejudge();
  }

  /** Noise is removed part by part, and not while a hand is at work: between parts the worker answers. */
  private smoothSoon(wait = 0): void {
    if (this.smoothingSoon) return;
    this.smoothingSoon = true;
    this.clock.after(wait, () => {
      this.smoothingSoon = false;
      this.trying(() => this.smooth());
    });
  }

  private smooth(): void {
    if (!this.show || this.show.wish.setup.look.smooth === 0) return;
    const { renderer, smoothing, quiet } = this;
    if (quiet < HAND_MS) return this.smoothSoon(HAND_MS - quiet);
    // what is shown next first: the full picture's films once it is on its way
    const { full } = this;
    let step = smoothing.step(renderer.set, renderer.finished);
    if (step === 'none' && full) step = smoothing.step(full.renderer.set, full.renderer.finished);
    if (step === 'film') this.schedule(true);
    if (step !== 'none') this.smoothSoon();
    else if (this.finished) smoothing.release();
  }
}
