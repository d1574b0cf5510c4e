import { compileKernel, plainFilmMath, simdFilmMath, type FilmMath } from '@plinket/kernel';
import { Pool } from './pool.ts';
import type { FromWorker, WorkerPort } from './protocol.ts';

function startWorker(): WorkerPort {
  const worker = new Worker(new URL('./browser-worker.ts', import.meta.url), { type: 'module' });
  return {
    post: (message) => worker.postMessage(message),
    listen: (handler) => {
      worker.onmessage = (event: MessageEvent<FromWorker>) => handler(event.data);
      worker.onerror = (event) => handler({ type: 'died', message: event.message || 'no reason was given' });
    },
    close: () => worker.terminate(),
  };
}

/**
 * A pool of web workers: one fewer than there are cores, at least one. Memory is shared where the page is isolated
 * (COOP and COEP), else every worker builds its own.
 * @param urls where the two builds of the kernel are served
 */
export async function browserPool(
  urls: { shared: string; own: string },
  workers = Math.max(1, (navigator.hardwareConcurrency || 2) - 1),
): Promise<Pool> {
  const shared = globalThis.crossOriginIsolated === true && typeof SharedArrayBuffer !== 'undefined';
  const response = await fetch(shared ? urls.shared : urls.own);
  if (!response.ok) throw new Error(`The ray kernel could not be loaded (${response.status}).`);
  const module = compileKernel(new Uint8Array(await response.arrayBuffer()));
  return new Pool(startWorker, workers, { module, shared });
}

/** Arithmetic over films: in SIMD where the page is isolated (its memory is of the kind that threads share), else plain. */
export async function browserFilmMath(url: string): Promise<FilmMath> {
  if (globalThis.crossOriginIsolated !== true) return plainFilmMath();
  const response = await fetch(url);
  const module = response.ok ? compileKernel(new Uint8Array(await response.arrayBuffer())) : undefined;
  return module ? simdFilmMath(module) : plainFilmMath();
}
