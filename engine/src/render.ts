import type { Scene } from '@plinket/core';
import type { FilmMath } from '@plinket/kernel';
import type { FilmSet } from './film-set.ts';
import type { Pool } from './pool.ts';
import { Renderer } from './renderer.ts';
import type { RenderOptions } from './wishes.ts';

/** Who renders, and who is told how far it has come. */
export interface RenderHow {
  pool: Pool;
  math?: FilmMath;
  progress?: (done: number, msLeft: number) => void;
  /** Ends it before its time. */
  signal?: AbortSignal;
}

/**
 * Traces a scene to its end, for who does not look on: the command line, render nodes.
 * @returns one finished film for each light; give them back with `close`
 * @throws what a worker failed with, or the signal's reason
 * @example
 * const films = await render(scene, { width: 640, height: 360, samples: 64, seed: 1, bounces: 3 }, { pool: nodePool() });
 */
export async function render(scene: Scene, wish: Omit<RenderOptions, 'coarse'>, how: RenderHow): Promise<FilmSet> {
  const { pool, math, progress, signal } = how;
  signal?.throwIfAborted();
  const renderer = new Renderer(pool, math);
  try {
    await new Promise<void>((resolve, reject) => {
      signal?.addEventListener('abort', () => reject(signal.reason as Error), { once: true });
      renderer.onError = reject;
      renderer.onProgress = () => {
        const { done, msLeft } = renderer.progress();
        progress?.(done, msLeft);
        if (renderer.finished) resolve();
      };
      renderer.update({ number: 1, scene, options: { ...wish, coarse: false } });
      if (renderer.finished) resolve();
    });
  } catch (error) {
    renderer.close();
    throw error;
  }
  return renderer.set;
}
