import { addTrace, Tracer, type TraceJob, type TraceResult } from '@plinket/core';
import { attachKernel, buildAccel, plainKernel, rebuild, type RayKernel, type WasmAccel } from '@plinket/kernel';
import { isPatient, urgency, type FromWorker, type Job, type Kinds, type ToWorker } from './protocol.ts';

type Geometry = Extract<ToWorker, { type: 'geometry' }>;
type JobMessage = Extract<ToWorker, { type: 'job' }>;

/** A job, and how far it has come. */
interface Begun {
  message: JobMessage;
  ms: number;
  /** Of a tile: the sample that is next, and the sums of those before. */
  next?: number;
  sum?: TraceResult;
}

/** Samples of a tile that are traced before what has come meanwhile is heard. Always as many, so that sums do not depend on time. */
const SLICE = 2;

/** The worker's side: holds a geometry and does the jobs that come, the urgent ones first. */
class Served {
  private readonly post: (message: FromWorker, transfer: ArrayBuffer[]) => void;
  private readonly later: (run: () => void) => void;
  private tracer: Tracer | undefined;
  /** This worker's own hierarchy, where memory is not shared. */
  private own: WasmAccel | undefined;
  private readonly jobs: Begun[] = [];
  private awake = false;

  constructor(post: (message: FromWorker, transfer: ArrayBuffer[]) => void, later: (run: () => void) => void) {
    this.post = post;
    this.later = later;
  }

  hear(message: ToWorker): void {
    if (message.type === 'geometry') this.begin(message);
    else if (message.type === 'drop') this.drop();
    else {
      this.jobs.push({ message, ms: 0 });
      this.wake();
    }
  }

  /** Between two jobs, and between two slices of a tile, what has come meanwhile is heard: something urgent may be among it. */
  private wake(): void {
    if (this.awake) return;
    this.awake = true;
    this.later(() => {
      this.awake = false;
      if (!this.jobs.length) return;
      const next = this.jobs.reduce((best, job) => (urgency(job.message) < urgency(best.message) ? job : best), this.jobs[0]!);
      if (this.goOn(next)) this.jobs.splice(this.jobs.indexOf(next), 1);
      if (this.jobs.length) this.wake();
    });
  }

  private drop(): void {
    for (const begun of this.jobs.filter((job) => isPatient(job.message))) {
      this.jobs.splice(this.jobs.indexOf(begun), 1);
      this.post({ type: 'dropped', id: begun.message.id }, []);
    }
  }

  private begin(message: Geometry): void {
    this.tracer = undefined;
    try {
      this.tracer = new Tracer(this.kernelFor(message), message.geometry);
      this.post({ type: 'ready' }, []);
    } catch (error) {
      this.fail(undefined, error);
    }
  }

  private kernelFor({ geometry, module, accel, seat }: Geometry): RayKernel {
    if (!module) return plainKernel(geometry.mesh);
    if (accel) return attachKernel(module, accel, seat);
    if (!this.own || !rebuild(module, this.own, geometry.mesh)) this.own = buildAccel(module, geometry.mesh);
    return attachKernel(module, this.own);
  }

  /** Does a job, or the next slice of it; answers whether it is done. */
  private goOn(begun: Begun): boolean {
    const { message } = begun;
    try {
      if (!this.tracer) throw new Error('No geometry has been given.');
      const start = performance.now();
      const done = message.kind === 'trace' ? slice(this.tracer, message.job, begun) : answer(this.tracer, message);
      begun.ms += performance.now() - start;
      if (!done) return false;
      const [result, given] = done;
      this.post(
        { type: 'done', id: message.id, result, ms: begun.ms },
        given.map((a) => a.buffer as ArrayBuffer),
      );
    } catch (error) {
      this.fail(message.id, error);
    }
    return true;
  }

  private fail(id: number | undefined, error: unknown): void {
    this.post({ type: 'failed', id, message: error instanceof Error ? error.message : String(error) }, []);
  }
}

type Answer = [Kinds[Job['kind']]['result'], ArrayBufferView[]];

/** Traces a tile's next slice; what it came to once it is whole. */
function slice(tracer: Tracer, job: TraceJob, begun: Begun): Answer | undefined {
  const from = begun.next ?? job.from,
    to = Math.min(job.to, from + SLICE);
  const part = tracer.trace({ ...job, from, to });
  if (begun.sum) addTrace(begun.sum, part);
  const result = (begun.sum ??= part);
  begun.next = to;
  if (to < job.to) return undefined;
  const { films, squares, alpha, caught, guides } = result;
  return [
    result,
    [
      films,
      squares,
      alpha,
      ...(caught ? [caught] : []),
      ...(guides ? [guides.sums, guides.ids] : []),
      ...(guides?.mattes ? [guides.mattes.objects, guides.mattes.materials] : []),
    ],
  ];
}

/** Does a job that is not cut; with the arrays that are given away. */
function answer(tracer: Tracer, job: Exclude<Job, { kind: 'trace' }>): Answer {
  switch (job.kind) {
    case 'read': {
      const result = tracer.read(job.job);
      return [result, [result.open, result.lit, result.blockers]];
    }
    case 'cast': {
      const hits = tracer.cast(job.job.rays);
      return [{ hits, rays: hits.length / 4 }, [hits]];
    }
    case 'sight': {
      const result = tracer.sight(job.job);
      return [result, [result.seen]];
    }
  }
}

/**
 * The worker's side. `post` sends an answer and gives the listed buffers away; `later` runs something after the messages that have already
 * come. Answers what to do with a message.
 */
export function serveTracing(
  post: (message: FromWorker, transfer: ArrayBuffer[]) => void,
  later: (run: () => void) => void,
): (message: ToWorker) => void {
  const served = new Served(post, later);
  return (message) => served.hear(message);
}
