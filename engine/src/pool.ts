import type { SceneGeometry, TraceJob, TraceResult } from '@plinket/core';
import { buildAccel, rebuild, type WasmAccel } from '@plinket/kernel';
import type { FromWorker, WorkerPort } from './protocol.ts';

/** The compiled kernel, if SIMD is there; `shared` tells that the module wants memory that threads share. */
export interface KernelModule {
  module: WebAssembly.Module | undefined;
  shared: boolean;
}

/** Jobs that a worker is given at a time: one to do, and one so that it need not wait for the next. */
const DEEP = 2;
/** Jobs of a first, coarse picture: all of it, so that no worker waits for a host that is busy with something else. */
const DEEP_COARSE = 64;

interface Seat {
  port: WorkerPort;
  ready: boolean;
  /** Numbers of the jobs that it has. */
  jobs: Set<number>;
}

/**
 * Workers that trace one geometry. Jobs are handed out two at a time, those of a coarse picture all at once; what is not yet
 * handed out can be forgotten.
 */
export class Pool {
  readonly size: number;
  /** Rays traced since the pool began, as the kernels counted them. */
  readonly rays = { walk: 0, shadow: 0 };
  /** Parts of a mesh whose hierarchy was built, and how often a whole one was. */
  readonly built = { parts: 0, wholes: 0 };
  private readonly seats: Seat[];
  private readonly kernel: KernelModule;
  private readonly waiting = new Map<number, { resolve: (r: { result: TraceResult; ms: number }) => void; reject: (e: Error) => void }>();
  private nextId = 1;
  private accel: WasmAccel | undefined;
  /** A geometry that waits until nobody traces the one before. */
  private coming: SceneGeometry | undefined;
  /** Called when a worker can take another job. */
  onIdle: () => void = () => undefined;
  onError: (error: Error) => void = () => undefined;

  constructor(ports: WorkerPort[], kernel: KernelModule) {
    this.kernel = kernel;
    this.size = ports.length;
    this.seats = ports.map((port) => ({ port, ready: false, jobs: new Set() }));
    for (const seat of this.seats) seat.port.listen((message) => this.hear(seat, message));
  }

  /**
   * Gives every worker a geometry, once all of them have ended their job. Jobs of the one before are lost: their promises
   * are rejected. Of a hierarchy in shared memory only the parts that changed are built again.
   */
  setGeometry(geometry: SceneGeometry): void {
    for (const { reject } of this.waiting.values()) reject(new Cancelled());
    this.waiting.clear();
    this.coming = geometry;
    this.bringIn();
  }

  private bringIn(): void {
    const geometry = this.coming;
    if (!geometry || this.seats.some((s) => s.jobs.size > 0)) return;
    this.coming = undefined;
    const { module, shared } = this.kernel;
    try {
      if (module && shared) this.prepare(module, geometry);
    } catch (error) {
      this.onError(error instanceof Error ? error : new Error(String(error)));
      return;
    }
    this.seats.forEach((s, seat) => {
      s.ready = false;
      s.port.post({ type: 'geometry', geometry, module, accel: this.accel, seat });
    });
  }

  private prepare(module: WebAssembly.Module, geometry: SceneGeometry): void {
    const again = this.accel && rebuild(module, this.accel, geometry.mesh);
    if (again) this.built.parts += again.length;
    else {
      this.accel = buildAccel(module, geometry.mesh, { seats: this.size, shared: true });
      this.built.wholes++;
    }
  }

  /** Whether some worker takes another job. */
  hasRoom(coarse: boolean): boolean {
    return this.coming === undefined && this.seats.some((s) => s.ready && s.jobs.size < (coarse ? DEEP_COARSE : DEEP));
  }

  /** Traces a job on the worker that has least to do. Rejects when the geometry changes or the worker fails. */
  trace(job: TraceJob): Promise<{ result: TraceResult; ms: number }> {
    let seat: Seat | undefined;
    for (const s of this.seats) if (s.ready && (!seat || s.jobs.size < seat.jobs.size)) seat = s;
    if (!seat || this.coming) return Promise.reject(new Error('No worker is free.'));
    const id = this.nextId++;
    seat.jobs.add(id);
    return new Promise((resolve, reject) => {
      this.waiting.set(id, { resolve, reject });
      seat.port.post({ type: 'trace', id, job });
    });
  }

  close(): void {
    for (const { reject } of this.waiting.values()) reject(new Cancelled());
    this.waiting.clear();
    for (const seat of this.seats) seat.port.close();
  }

  private hear(seat: Seat, message: FromWorker): void {
    if (message.type === 'ready') {
      seat.ready = true;
      this.onIdle();
      return;
    }
    const entry = message.id === undefined ? undefined : this.waiting.get(message.id);
    if (message.id !== undefined) this.waiting.delete(message.id);
    if (message.id !== undefined) seat.jobs.delete(message.id);
    if (message.type === 'failed') {
      const error = new Error(message.message);
      if (entry) entry.reject(error);
      else this.onError(error);
    } else {
      this.rays.walk += message.result.rays.walk;
      this.rays.shadow += message.result.rays.shadow;
      entry?.resolve(message);
    }
    this.bringIn();
    if (entry) this.onIdle();
  }
}

/** The work was given up because something newer came. */
export class Cancelled extends Error {
  constructor() {
    super('Cancelled.');
    this.name = 'Cancelled';
  }
}
