import type { SceneGeometry, TraceJob, TraceResult } from '@plinket/core';
import type { WasmAccel } from '@plinket/kernel';

/** What the scheduler tells a worker. */
export type ToWorker =
  /** A geometry to trace from now on. With `accel` the hierarchy is built and shared; without, the worker builds its own. */
  | { type: 'geometry'; geometry: SceneGeometry; module?: WebAssembly.Module; accel?: WasmAccel; seat: number }
  | { type: 'trace'; id: number; job: TraceJob };

/** What a worker answers. */
export type FromWorker =
  | { type: 'ready' }
  | { type: 'traced'; id: number; result: TraceResult; ms: number }
  /** A job, or the geometry, could not be done; the worker goes on. */
  | { type: 'failed'; id: number | undefined; message: string }
  /** The worker itself is no more. Its port says so. */
  | { type: 'died'; message: string };

/** A worker as the scheduler sees it, in the browser or in Node. */
export interface WorkerPort {
  post(message: ToWorker): void;
  listen(handler: (message: FromWorker) => void): void;
  close(): void;
}
