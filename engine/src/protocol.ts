import type { ReadJob, ReadResult, SceneGeometry, SightJob, TraceJob, TraceResult } from '@plinket/core';
import type { WasmAccel } from '@plinket/kernel';

/** Kinds of jobs, what they ask and what is answered. A further kind is a further row, and a case in `serveTracing`. */
export interface Kinds {
  /** A tile of a picture. */
  trace: { job: TraceJob; result: TraceResult };
  /** What lights send to points directly. */
  read: { job: ReadJob; result: ReadResult };
  /** What a few rays meet, as the kernel answers. */
  cast: { job: { rays: Float32Array }; result: { hits: Float32Array; rays: number } };
  /** What stands in many directions from points of a surface. */
  sight: { job: SightJob; result: { seen: Int32Array; rays: number } };
}
export type Kind = keyof Kinds;

export type Job = { [K in Kind]: { kind: K; job: Kinds[K]['job'] } }[Kind];

/** Who goes first, the lower the sooner: a reading is what a hand waits for, and short; then a picture that is to be there at once. */
export const urgency = (job: Job): number =>
  job.kind === 'read' || job.kind === 'cast' ? 0 : job.kind === 'trace' && job.job.shallow ? 1 : 2;

/** Tiles of a picture that nobody waits for: what is done of them can be done again. */
export const isPatient = (job: Job): boolean => job.kind === 'trace' && !job.job.shallow;

/** What the scheduler tells a worker. */
export type ToWorker =
  /** A geometry to trace from now on. With `accel` the hierarchy is built and shared; without, the worker builds its own. */
  | { type: 'geometry'; geometry: SceneGeometry; module?: WebAssembly.Module; accel?: WasmAccel; seat: number }
  | ({ type: 'job'; id: number } & Job)
  /** Gives back the tiles that are not done: something is to come that must not wait for them. */
  | { type: 'drop' };

/** What a worker answers. */
export type FromWorker =
  | { type: 'ready' }
  | { type: 'done'; id: number; result: Kinds[Kind]['result']; ms: number }
  /** A job, or the geometry, could not be done; the worker goes on. */
  | { type: 'failed'; id: number | undefined; message: string }
  /** A job was given back. */
  | { type: 'dropped'; id: number }
  /** The worker itself is no more. Its port says so. */
  | { type: 'died'; message: string };

/** A worker as the scheduler sees it, in the browser or in Node. */
export interface WorkerPort {
  post(message: ToWorker): void;
  listen(handler: (message: FromWorker) => void): void;
  close(): void;
}
