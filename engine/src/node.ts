import { readFileSync } from 'node:fs';
import { createRequire } from 'node:module';
import { availableParallelism } from 'node:os';
import { Worker } from 'node:worker_threads';
import { compileKernel, plainFilmMath, simdFilmMath, type FilmMath } from '@plinket/kernel';
import { Pool, type KernelModule } from './pool.ts';
import type { FromWorker, WorkerPort } from './protocol.ts';

/** The kernel for this process; without SIMD there is no module and the plain twin serves. */
export function loadKernel(shared: boolean): KernelModule {
  const file = new URL(`../../kernel/build/kernel${shared ? '-shared' : ''}.wasm`, import.meta.url);
  return { module: compileKernel(readFileSync(file)), shared };
}

/** Arithmetic over films for this process, in SIMD where that is there. */
export function loadFilmMath(): FilmMath {
  const module = compileKernel(readFileSync(new URL('../../kernel/build/film.wasm', import.meta.url)));
  return module ? simdFilmMath(module) : plainFilmMath();
}

function startWorker(): WorkerPort {
  const worker = new Worker(new URL('./node-worker.mjs', import.meta.url), { execArgv: ['--no-warnings'] });
  return {
    post: (message) => worker.postMessage(message),
    listen: (handler) => {
      worker.on('message', (m: FromWorker) => handler(m));
      worker.on('error', (e) => handler({ type: 'died', message: e instanceof Error ? e.message : String(e) }));
    },
    close: () => void worker.terminate(),
  };
}

/** A pool of worker threads; by default one fewer than there are cores, at least one. */
export function nodePool(options: { workers?: number; shared?: boolean } = {}): Pool {
  const { workers = Math.max(1, availableParallelism() - 1), shared = true } = options;
  return new Pool(startWorker, workers, loadKernel(shared));
}

const bytesOf = async (module: string): Promise<Uint8Array> => readFileSync(createRequire(import.meta.url).resolve(module));
/** Decoders of what characters' files hold: Draco's meshes and JPEGs. */
export const decoders = {
  draco: () => bytesOf('draco3dgltf/draco_decoder_gltf.wasm'),
  jpeg: () => bytesOf('@cornerstonejs/codec-libjpeg-turbo-8bit/decodewasm'),
};
