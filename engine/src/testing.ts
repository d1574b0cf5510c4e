import { createHash } from 'node:crypto';
import { compile, dome, type Scene, type Setup } from '@plinket/core';
import { setupWith, panelLight } from '../../core/src/testing/setups.ts';
import { Pool, Renderer, serveTracing, type FromWorker, type RenderOptions, type ToWorker, type WorkerPort } from './index.ts';
import type { loadKernel } from './node.ts';

// What the engine's tests share: a small picture, and workers in this thread.

export const setup: Setup = setupWith({
  key: panelLight(),
  fill: panelLight({ name: 'Fill', place: { azimuth: -60, elevation: 10, distance: 2, aim: [0, 0, 0] } }),
  dome: dome({ name: 'Dome' }),
});
export const scene = compile(setup, () => undefined);
export const options: RenderOptions = { width: 96, height: 80, samples: 6, seed: 1, bounces: 2, coarse: false };

/** Workers that are to be stopped when their test is over. */
export class Ports {
  private readonly open: WorkerPort[] = [];

  /**
   * A worker in this thread, which answers a turn later, or so many milliseconds after its last answer. `later`: when it does the next
   * piece of work; at once.
   */
  local(slow = 0, later = (run: () => void): void => run()): WorkerPort & { jobs: number } {
    let hear: (m: FromWorker) => void = () => undefined;
    const handle = serveTracing((m) => hear(m), later);
    let closed = false,
      free = 0;
    const port = {
      jobs: 0,
      post: (m: ToWorker) => {
        if (m.type === 'job') port.jobs++;
        free = Math.max(free, performance.now()) + slow;
        setTimeout(() => closed || handle(m), free - performance.now());
      },
      listen: (h: (m: FromWorker) => void) => void (hear = h),
      close: () => void (closed = true),
    };
    this.open.push(port);
    return port;
  }

  close(): void {
    for (const port of this.open.splice(0)) port.close();
  }
}

/** A pool of workers that are there already. */
export const poolOf = (workers: WorkerPort[], kernel: ReturnType<typeof loadKernel>): Pool =>
  new Pool(() => workers.shift()!, workers.length, kernel);

export const update = (renderer: Renderer, what: Scene, how: RenderOptions, number = 1): void =>
  renderer.update({ number, scene: what, options: how });

export function rendered(pool: Pool, what: Scene, how = options): Promise<Renderer> {
  const renderer = new Renderer(pool);
  return new Promise((resolve, reject) => {
    renderer.onError = reject;
    renderer.onProgress = () => renderer.finished && resolve(renderer);
    update(renderer, what, how);
  });
}

/** What the diffuse layer of each film holds, as a number. */
export const bytes = (r: Renderer): string[] =>
  [...r.set.films.values()].map(({ film }) => {
    const plane = film.plane('diffuse')!;
    return createHash('sha256')
      .update(Buffer.from(plane.buffer, plane.byteOffset, plane.byteLength))
      .digest('hex');
  });
