import { atMoment, OPENNESS, Smoother, type FilmSource, type Guides, type Scene, type SceneLight, type Shown } from '@plinket/core';
import type { FilmMath } from '@plinket/kernel';
import type { FilmSet, LightFilms } from './film-set.ts';
import type { Pool } from './pool.ts';
import { Renderer } from './renderer.ts';
import type { RenderOptions } from './wishes.ts';

/** Films of one frame; they are the renderer's, and hold until the next frame is asked for. */
export interface TurnFilms extends FilmSource {
  readonly films: ReadonlyMap<string, LightFilms>;
  readonly math: FilmMath;
}

export type TurnOptions = Omit<RenderOptions, 'coarse' | 'adaptive'>;

/** Pixels of all films that are traced at once where one walk serves several frames, and frames at most. */
const AT_ONCE = 4_000_000,
  MOST_AT_ONCE = 16;

/** Whether frames differ in lights only: then one walk serves them all. */
const sameWalk = (a: Scene, b: Scene): boolean =>
  a.geometry === b.geometry &&
  a.camera.key === b.camera.key &&
  JSON.stringify([a.haze, a.catchers]) === JSON.stringify([b.haze, b.catchers]) &&
  a.lights.length === b.lights.length &&
  a.lights.every(({ id }, i) => id === b.lights[i]!.id);

class FramesFilms implements TurnFilms {
  readonly films: ReadonlyMap<string, LightFilms>;
  private readonly set: FilmSet;
  private readonly names: ReadonlyMap<string, string>;

  /** @param names under which the set has the frame's lights */
  constructor(set: FilmSet, names: ReadonlyMap<string, string>) {
    this.set = set;
    this.names = names;
    this.films = new Map([...names].map(([id, name]) => [id, set.films.get(name)!]));
  }
  get math(): FilmMath {
    return this.set.math;
  }
  get width(): number {
    return this.set.width;
  }
  get height(): number {
    return this.set.height;
  }
  get guides(): Guides {
    return this.set.guides;
  }
  shown(id: string): Shown | undefined {
    return this.set.shown(this.names.get(id) ?? id);
  }
}

/**
 * Traces the frames of a turn, one after the other, in one set of films: what stays from frame to frame is not traced again, and frames that differ in
 * lights only (a dome that turns) are traced together, by one walk of the camera's rays.
 */
export class TurnRenderer {
  private readonly renderer: Renderer;
  private number = 0;
  /** Told how far what is traced has come, 0…1. */
  onProgress: ((done: number) => void) | undefined;

  constructor(pool: Pool, math?: FilmMath) {
    this.renderer = new Renderer(pool, math);
  }

  /**
   * @param sceneOf a frame's scene; it is asked once for each frame, in their order, with the scene before it
   * @throws what a worker failed with, or the signal's reason
   * @example for await (const { frame, films } of turn.frames([1, 2, 3], sceneOf, options)) write(frame, films);
   */
  async *frames(
    frames: readonly number[],
    sceneOf: (frame: number, last: Scene | undefined) => Scene,
    options: TurnOptions,
    signal?: AbortSignal,
  ): AsyncGenerator<{ frame: number; films: TurnFilms }> {
    const most = Math.max(1, Math.min(MOST_AT_ONCE, Math.floor(AT_ONCE / (options.width * options.height))));
    let next: Scene | undefined;
    for (let i = 0; i < frames.length;) {
      const batch: Scene[] = [next ?? sceneOf(frames[i]!, undefined)];
      next = undefined;
      while (i + batch.length < frames.length) {
        next = sceneOf(frames[i + batch.length]!, batch.at(-1));
        if (batch.length === most || !sameWalk(batch[0]!, next)) break;
        batch.push(next);
        next = undefined;
      }
      yield* this.together(frames.slice(i, i + batch.length), batch, options, signal);
      i += batch.length;
    }
  }

  private async *together(frames: readonly number[], scenes: readonly Scene[], options: TurnOptions, signal: AbortSignal | undefined) {
    const [first] = scenes as [Scene, ...Scene[]];
    const turning = new Set(first.lights.filter((l, k) => scenes.some((s) => s.lights[k]!.key !== l.key)).map((l) => l.id));
    const lights: SceneLight[] = first.lights.filter((l) => !turning.has(l.id));
    scenes.forEach((scene, at) => {
      for (const light of scene.lights) if (turning.has(light.id)) lights.push({ ...light, id: atMoment(light.id, at) });
    });
    await this.trace({ ...first, lights }, options, signal);
    for (const [at, frame] of frames.entries()) {
      const names = new Map(first.lights.map(({ id }) => [id, turning.has(id) ? atMoment(id, at) : id]));
      yield { frame, films: new FramesFilms(this.renderer.set, names) as TurnFilms };
    }
  }

  private trace(scene: Scene, options: TurnOptions, signal: AbortSignal | undefined): Promise<void> {
    const { renderer } = this;
    return new Promise<void>((resolve, reject) => {
      if (signal?.aborted) return reject(signal.reason as Error);
      const stop = () => reject(signal!.reason as Error);
      signal?.addEventListener('abort', stop, { once: true });
      const ended = () => {
        if (!renderer.finished) return;
        signal?.removeEventListener('abort', stop);
        resolve();
      };
      renderer.onError = reject;
      renderer.onProgress = () => {
        this.onProgress?.(renderer.progress().done);
        ended();
      };
      renderer.update({ number: ++this.number, scene, options: { ...options, coarse: false } });
      ended();
    });
  }

  /** Gives all memory back, and the workers to others. */
  close(): void {
    this.renderer.close();
  }
}

/** Removes the noise of a frame's films, beside what was traced; films that stayed from the frame before have been smoothed. */
export function smoothFrame({ math, guides, films }: TurnFilms, samples: number): void {
  const smoother = new Smoother(math, guides);
  for (const [id, { film }] of films) if (id !== OPENNESS.id && !film.smooth) smoother.smooth(film, samples);
  smoother.release();
}
