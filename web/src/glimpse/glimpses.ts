// Small pictures of setups that are not open: traced one after the other by an engine of their own, which goes when nobody asks any more.
import type { Setup } from '@plinket/core';
import type { CharacterReport, Frame, ShowWish } from '../engine/messages.ts';

/** What of the Stage's engine is needed. */
export interface GlimpseEngine {
  readonly wish: number;
  onFrame: (frame: Frame) => void;
  onFailure: (message: string) => void;
  show(setup: Setup, wish: ShowWish): void;
  character(asset: string): Promise<CharacterReport>;
  close(): void;
}

/** A small picture, RGBA. */
export interface Glimpse {
  width: number;
  height: number;
  rgba: Uint8ClampedArray<ArrayBuffer>;
}

/** Samples that are enough where noise is removed, and where it is not. */
const SMOOTH = 4,
  ENOUGH = 16;
/** Pictures that are kept. */
const MOST = 200;
/** So long the engine waits for another picture, ms. */
const IDLE = 15_000;

const isGood = (frame: Frame): boolean => frame.finished || frame.samples >= ENOUGH || (frame.smoothed && frame.samples >= SMOOTH);

interface Asked {
  key: string;
  setup: Setup;
  height: number;
  done: (glimpse: Glimpse) => void;
  failed: (error: Error) => void;
}

export class Glimpses {
  private readonly start: () => GlimpseEngine;
  private readonly after: (ms: number, run: () => void) => () => void;
  private engine: GlimpseEngine | undefined;
  private current: Asked | undefined;
  private readonly waiting: Asked[] = [];
  private readonly kept = new Map<string, Glimpse>();
  private stopIdling: () => void = () => undefined;

  /**
   * @param start begins an engine, when the first picture is asked for
   * @param after runs something later; answers how it is given up
   */
  constructor(start: () => GlimpseEngine, after: (ms: number, run: () => void) => () => void) {
    this.start = start;
    this.after = after;
  }

  /**
   * The picture of a setup, so many pixels high; one that was made before is there at once.
   * @throws Error that says why there is none, or the signal's reason
   */
  picture(setup: Setup, height: number, signal: AbortSignal): Promise<Glimpse> {
    // nothing of what it is called is seen
    const key = `${height} ${JSON.stringify({ ...setup, name: '', brief: '', follows: undefined, accepted: undefined })}`;
    const known = this.kept.get(key);
    if (known) {
      this.kept.delete(key);
      this.kept.set(key, known);
      return Promise.resolve(known);
    }
    return new Promise((done, failed) => {
      if (signal.aborted) return failed(signal.reason as Error);
      const asked: Asked = { key, setup, height, done, failed };
      signal.addEventListener('abort', () => this.forget(asked, signal.reason as Error), { once: true });
      this.waiting.push(asked);
      this.next();
    });
  }

  /** What is known of a character. @throws RefusedFile */
  character(asset: string): Promise<CharacterReport> {
    const report = this.running().character(asset);
    if (!this.current) this.idle();
    return report;
  }

  private running(): GlimpseEngine {
    this.stopIdling();
    if (!this.engine) {
      this.engine = this.start();
      this.engine.onFrame = (frame) => this.hear(frame);
      this.engine.onFailure = (message) => this.end((asked) => asked.failed(new Error(message)));
    }
    return this.engine;
  }

  private next(): void {
    if (this.current) return;
    this.current = this.waiting.shift();
    if (!this.current) return this.idle();
    const { setup, height } = this.current;
    const width = Math.max(8, Math.round(height * setup.camera.aspect));
    this.running().show(setup, { width, height, full: [width, height], solo: [], mode: { kind: 'light' }, clay: false, thumb: [8, 8] });
  }

  private hear(frame: Frame): void {
    const { current } = this;
    if (!current || frame.wish !== this.engine!.wish || !isGood(frame)) return;
    const glimpse = { width: frame.width, height: frame.height, rgba: new Uint8ClampedArray(frame.rgba) };
    this.kept.set(current.key, glimpse);
    for (const old of [...this.kept.keys()].slice(0, -MOST)) this.kept.delete(old);
    // others may have asked for the same meanwhile
    for (const same of this.waiting.filter((w) => w.key === current.key)) {
      this.waiting.splice(this.waiting.indexOf(same), 1);
      same.done(glimpse);
    }
    this.end((asked) => asked.done(glimpse));
  }

  private end(tell: (asked: Asked) => void): void {
    const { current } = this;
    this.current = undefined;
    if (current) tell(current);
    this.next();
  }

  private forget(asked: Asked, reason: Error): void {
    asked.failed(reason);
    const at = this.waiting.indexOf(asked);
    if (at >= 0) this.waiting.splice(at, 1);
    if (this.current === asked) this.end(() => undefined);
  }

  private idle(): void {
    this.stopIdling();
    if (!this.engine) return;
    this.stopIdling = this.after(IDLE, () => this.close());
  }

  /** Stops whatever goes on; a picture that is asked for later begins anew. */
  close(): void {
    this.stopIdling();
    this.engine?.close();
    this.engine = undefined;
    const left = [...(this.current ? [this.current] : []), ...this.waiting.splice(0)];
    this.current = undefined;
    for (const asked of left) asked.failed(new Error('closed'));
  }
}
