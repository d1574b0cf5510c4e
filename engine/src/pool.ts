import type { Eyes, ReadJob, ReadResult, SceneGeometry } from '@plinket/core';
import { buildAccel, rebuild, type WasmAccel } from '@plinket/kernel';
import type { FromWorker, Job, Kind, Kinds, ToWorker, WorkerPort } from './protocol.ts';
import { joinReads, splitRead } from './reads.ts';

/** The compiled kernel, if SIMD is there; `shared` tells that the module wants memory that threads share. */
export interface KernelModule {
  module: WebAssembly.Module | undefined;
  shared: boolean;
}

/** Jobs that a worker is given at a time: one to do, and one so that it need not wait for the next. */
const DEEP = 2;
/** Jobs of a first, coarse picture: all of it, so that no worker waits for a host that is busy with something else. */
const DEEP_COARSE = 64;
/** Workers that may have died over one job before it is taken for the cause. */
const MOST_DEATHS = 3;
/** Deaths of one seat's workers, one after the other and with nothing done, before nobody sits there any more. */
const MOST_STARTS = 3;

/** A place for a worker; the worker in it may be another after one died. */
interface Seat {
  port: WorkerPort;
  ready: boolean;
  /** Numbers of the jobs that it has. */
  jobs: Set<number>;
  /** Workers that died here since one did something. */
  deaths: number;
}

/** Who gives work to the pool. */
export interface Watcher {
  /** A worker can take another job. */
  idle(): void;
  /** Something failed that is no job's own matter. */
  error(error: Error): void;
}

/** What a job came to, and how long it took. */
interface Outcome<K extends Kind> {
  result: Kinds[K]['result'];
  ms: number;
}

interface Task {
  job: Job;
  /** Workers that died while they had it. */
  deaths: number;
  resolve(outcome: Outcome<Kind>): void;
  reject(e: Error): void;
}

/**
 * Workers that do jobs of several kinds with one geometry. Tiles are handed out two at a time, those of a coarse picture all at once; what
 * is not yet handed out can be forgotten. Readings go to whoever has least to do, and are done before the tiles that wait there. A worker
 * that dies is started again with its geometry, and its jobs go to whoever is ready.
 */
export class Pool {
  readonly size: number;
  /** Rays traced since the pool began, as the kernels counted them. */
  readonly rays = { walk: 0, shadow: 0 };
  /** Parts of a mesh whose hierarchy was built, and how often a whole one was. */
  readonly built = { parts: 0, wholes: 0 };
  /** Workers that died and were started again. */
  deaths = 0;
  private readonly seats: Seat[];
  private readonly kernel: KernelModule;
  private readonly start: () => WorkerPort;
  private readonly tasks = new Map<number, Task>();
  /** Jobs that nobody can do just now: of workers that died, or that came before there was a geometry. */
  private orphans: number[] = [];
  private nextId = 1;
  private accel: WasmAccel | undefined;
  /** What is traced now. */
  private geometry: SceneGeometry | undefined;
  /** A geometry that waits until nobody traces the one before. */
  private coming: SceneGeometry | undefined;
  private closed = false;
  private readonly watchers = new Set<Watcher>();

  /** @param start starts a worker; called for each of `size`, and again for each that dies */
  constructor(start: () => WorkerPort, size: number, kernel: KernelModule) {
    this.kernel = kernel;
    this.start = start;
    this.size = size;
    this.seats = Array.from({ length: size }, () => this.occupied({ port: start(), ready: false, jobs: new Set(), deaths: 0 }));
  }

  /** Tells when there is room, and what fails; what it answers ends it. */
  watch(watcher: Watcher): () => void {
    this.watchers.add(watcher);
    return () => void this.watchers.delete(watcher);
  }
  private idle(): void {
    for (const watcher of [...this.watchers]) watcher.idle();
  }
  /** Says that nothing goes on until somebody tries again. */
  fail(error: Error): void {
    for (const watcher of [...this.watchers]) watcher.error(error);
  }

  private occupied(seat: Seat): Seat {
    const { port } = seat;
    // what a worker says after another took its place counts no more
    port.listen((message) => seat.port === port && this.hear(seat, message));
    return seat;
  }

  /**
   * Gives every worker a geometry, once all of them have ended their job. Jobs of the one before are lost: their promises
   * are rejected. Of a hierarchy in shared memory only the parts that changed are built again. One that the workers have already costs
   * nothing, unless they are to try `again`.
   */
  setGeometry(geometry: SceneGeometry, again = false): void {
    if (!again && this.holds(geometry)) return;
    for (const { reject } of this.tasks.values()) reject(new Cancelled());
    this.tasks.clear();
    this.orphans = [];
    this.coming = geometry;
    this.drop();
    this.bringIn();
  }

  /** Has workers give the tiles back that are not done: their promises are rejected with `Cancelled`. */
  drop(): void {
    for (const seat of this.seats) if (seat.jobs.size > 0) seat.port.post({ type: 'drop' });
  }

  /** Whether jobs that are given now are done with this geometry. */
  holds(geometry: SceneGeometry): boolean {
    return (this.coming ?? this.geometry) === geometry;
  }

  private bringIn(): void {
    const geometry = this.coming;
    if (!geometry || this.seats.some((s) => s.jobs.size > 0)) return;
    this.coming = undefined;
    const { module, shared } = this.kernel;
    try {
      if (module && shared) this.prepare(module, geometry);
    } catch (error) {
      this.fail(error instanceof Error ? error : new Error(String(error)));
      return;
    }
    this.geometry = geometry;
    for (const seat of this.seats) {
      // a new picture is a new try for whoever gave up
      if (seat.deaths >= MOST_STARTS) this.restart(seat);
      seat.deaths = 0;
      this.seatGeometry(seat);
    }
  }

  private seatGeometry(seat: Seat): void {
    seat.ready = false;
    const { geometry, accel } = this;
    if (geometry)
      seat.port.post({ type: 'geometry', geometry, module: this.kernel.module, accel, seat: this.seats.indexOf(seat) } satisfies ToWorker);
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
    return !this.closed && this.coming === undefined && this.seats.some((s) => s.ready && s.jobs.size < (coarse ? DEEP_COARSE : DEEP));
  }

  /** Traces a tile on the worker that has least to do. @throws Cancelled when the geometry changes or the tile is dropped, Error when the job fails */
  trace(job: Kinds['trace']['job']): Promise<Outcome<'trace'>> {
    if (!this.leastBusy() || this.coming) return Promise.reject(new Error('No worker is free.'));
    return this.put<'trace'>({ kind: 'trace', job });
  }

  /**
   * Reads what lights send to points, on all workers together and before any tile; waits for the geometry that is coming.
   * @throws Cancelled when the geometry changes, Error when a job fails
   */
  async read(job: ReadJob): Promise<ReadResult> {
    const parts = splitRead(job, this.size);
    const done = await Promise.all(parts.map((part) => this.put<'read'>({ kind: 'read', job: part })));
    return joinReads(
      job,
      done.map((d) => d.result),
    );
  }

  /** Follows rays for whoever looks at a face: a few at once, directions among the tiles. */
  readonly eyes: Eyes = {
    cast: async (rays) => (await this.put<'cast'>({ kind: 'cast', job: { rays } })).result.hits,
    sight: async (job) => (await this.put<'sight'>({ kind: 'sight', job })).result.seen,
  };

  private put<K extends Kind>(job: Job): Promise<Outcome<K>> {
    const id = this.nextId++;
    return new Promise((resolve, reject) => {
      this.tasks.set(id, { job, deaths: 0, resolve: resolve as Task['resolve'], reject });
      this.give(id);
    });
  }

  close(): void {
    this.closed = true;
    for (const { reject } of this.tasks.values()) reject(new Cancelled());
    this.tasks.clear();
    for (const seat of this.seats) seat.port.close();
  }

  private leastBusy(): Seat | undefined {
    let seat: Seat | undefined;
    for (const s of this.seats) if (s.ready && (!seat || s.jobs.size < seat.jobs.size)) seat = s;
    return seat;
  }

  /** Gives a job to who has least to do, or keeps it until somebody is ready. */
  private give(id: number): void {
    const seat = this.coming ? undefined : this.leastBusy(),
      task = this.tasks.get(id);
    if (!task) return;
    if (!seat) {
      this.orphans.push(id);
      return;
    }
    seat.jobs.add(id);
    seat.port.post({ type: 'job', id, ...task.job });
  }

  private hear(seat: Seat, message: FromWorker): void {
    if (this.closed) return;
    if (message.type === 'died') this.replace(seat, message.message);
    else if (message.type === 'ready') {
      seat.ready = true;
      for (const id of this.orphans.splice(0)) this.give(id);
      this.idle();
    } else if (message.id === undefined) {
      if (message.type === 'failed') this.fail(new Error(message.message));
    } else {
      const task = this.tasks.get(message.id);
      this.tasks.delete(message.id);
      seat.jobs.delete(message.id);
      seat.deaths = 0;
      if (message.type === 'failed') task?.reject(new Error(message.message));
      else if (message.type === 'dropped') task?.reject(new Cancelled());
      else {
        const { rays } = message.result;
        if (typeof rays === 'number') this.rays.shadow += rays;
        else {
          this.rays.walk += rays.walk;
          this.rays.shadow += rays.shadow;
        }
        task?.resolve(message);
      }
      this.bringIn();
      if (task) this.idle();
    }
  }

  /**
   * Starts another worker in a dead one's place, and gives its jobs on. A job over which several died is given up, and so is a seat whose
   * workers die without having done anything.
   */
  private replace(seat: Seat, message: string): void {
    this.deaths++;
    seat.deaths++;
    seat.ready = false;
    const jobs = [...seat.jobs];
    seat.jobs.clear();
    // the first was in hand, the others only waited
    const inHand = this.tasks.get(jobs[0] ?? -1);
    if (inHand && ++inHand.deaths >= MOST_DEATHS) {
      this.tasks.delete(jobs.shift()!);
      inHand.reject(new Error(`Tracing workers ended over the same work: ${message}`));
    }
    if (seat.deaths < MOST_STARTS) {
      this.restart(seat);
      this.seatGeometry(seat);
    } else {
      seat.port.close();
      if (this.seats.every((s) => s.deaths >= MOST_STARTS)) this.giveUp(`The tracing workers end again and again: ${message}`);
    }
    for (const id of jobs) this.give(id);
    this.bringIn();
  }

  private restart(seat: Seat): void {
    seat.port.close();
    seat.port = this.start();
    this.occupied(seat);
  }

  /** Nobody is left who could do anything. */
  private giveUp(message: string): void {
    for (const { reject } of this.tasks.values()) reject(new Error(message));
    this.tasks.clear();
    this.orphans = [];
    this.fail(new Error(message));
  }
}

/** The work was given up because something newer came. */
export class Cancelled extends Error {
  constructor() {
    super('Cancelled.');
    this.name = 'Cancelled';
  }
}
