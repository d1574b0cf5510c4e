import type { SceneGeometry, TraceJob, TraceResult } from '@plinket/core';
import { buildAccel } from '@plinket/kernel';
import type { FromWorker, WorkerPort } from './protocol.ts';

/** The compiled kernel, if SIMD is there; `shared` tells that the module wants memory that threads share. */
export interface KernelModule {
  module: WebAssembly.Module | undefined;
  shared: boolean;
}

interface Seat {
  port: WorkerPort;
  ready: boolean;
  busy: boolean;
}

/** Workers that trace one geometry. Jobs are handed out one at a time; what is not yet handed out can be forgotten. */
export class Pool {
  readonly size: number;
  /** Rays traced since the pool began, as the kernels counted them. */
  readonly rays = { walk: 0, shadow: 0 };
  private readonly seats: Seat[];
  private readonly kernel: KernelModule;
  private readonly waiting = new Map<
    number,
    { resolve: (r: { result: TraceResult; ms: number }) => void; reject: (e: Error) => void; seat: Seat }
  >();
  private nextId = 1;
  /** Called when a worker has nothing to do. */
  onIdle: () => void = () => undefined;
  onError: (error: Error) => void = () => undefined;

  constructor(ports: WorkerPort[], kernel: KernelModule) {
    this.kernel = kernel;
    this.size = ports.length;
    this.seats = ports.map((port) => ({ port, ready: false, busy: false }));
    for (const seat of this.seats) seat.port.listen((message) => this.hear(seat, message));
  }

  /** Gives every worker a geometry. Jobs of the one before are lost: their promises are rejected. */
  setGeometry(geometry: SceneGeometry): void {
    for (const { reject } of this.waiting.values()) reject(new Cancelled());
    this.waiting.clear();
    const { module, shared } = this.kernel;
    const accel = module && shared ? buildAccel(module, geometry.mesh, { seats: this.size, shared: true }) : undefined;
    this.seats.forEach((s, seat) => {
      s.ready = false;
      s.busy = false;
      s.port.post({ type: 'geometry', geometry, module, accel, seat });
    });
  }

  get hasFreeWorker(): boolean {
    return this.seats.some((s) => s.ready && !s.busy);
  }

  /** Traces a job on a free worker. Rejects when the geometry changes or the worker fails. */
  trace(job: TraceJob): Promise<{ result: TraceResult; ms: number }> {
    const seat = this.seats.find((s) => s.ready && !s.busy);
    if (!seat) return Promise.reject(new Error('No worker is free.'));
    const id = this.nextId++;
    seat.busy = true;
    return new Promise((resolve, reject) => {
      this.waiting.set(id, { resolve, reject, seat });
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
    if (message.type === 'failed') {
      const error = new Error(message.message);
      if (entry) entry.reject(error);
      else this.onError(error);
    } else {
      this.rays.walk += message.result.rays.walk;
      this.rays.shadow += message.result.rays.shadow;
      entry?.resolve(message);
    }
    if (entry) {
      seat.busy = false;
      this.onIdle();
    }
  }
}

/** The work was given up because something newer came. */
export class Cancelled extends Error {
  constructor() {
    super('Cancelled.');
    this.name = 'Cancelled';
  }
}
