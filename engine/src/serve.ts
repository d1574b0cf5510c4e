import { Tracer } from '@plinket/core';
import { attachKernel, buildAccel, plainKernel, rebuild, type RayKernel, type WasmAccel } from '@plinket/kernel';
import { PRIORITY, type FromWorker, type Job, type Kinds, type ToWorker } from './protocol.ts';

type Geometry = Extract<ToWorker, { type: 'geometry' }>;
type JobMessage = Extract<ToWorker, { type: 'job' }>;

/** The worker's side: holds a geometry and does the jobs that come, the urgent ones first. */
class Served {
  private readonly post: (message: FromWorker, transfer: ArrayBuffer[]) => void;
  private readonly later: (run: () => void) => void;
  private tracer: Tracer | undefined;
  /** This worker's own hierarchy, where memory is not shared. */
  private own: WasmAccel | undefined;
  private readonly jobs: JobMessage[] = [];
  private awake = false;

  constructor(post: (message: FromWorker, transfer: ArrayBuffer[]) => void, later: (run: () => void) => void) {
    this.post = post;
    this.later = later;
  }

  hear(message: ToWorker): void {
    if (message.type === 'geometry') this.begin(message);
    else {
      this.jobs.push(message);
      this.wake();
    }
  }

  /** Between two jobs what has come meanwhile is heard: something urgent may be among it. */
  private wake(): void {
    if (this.awake) return;
    this.awake = true;
    this.later(() => {
      this.awake = false;
      const next = this.jobs.reduce((best, job) => (PRIORITY[job.kind] < PRIORITY[best.kind] ? job : best), this.jobs[0]!);
      this.jobs.splice(this.jobs.indexOf(next), 1);
      this.run(next);
      if (this.jobs.length) this.wake();
    });
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

  private run(message: JobMessage): void {
    try {
      if (!this.tracer) throw new Error('No geometry has been given.');
      const start = performance.now();
      const [result, given] = answer(this.tracer, message);
      this.post(
        { type: 'done', id: message.id, result, ms: performance.now() - start },
        given.map((a) => a.buffer as ArrayBuffer),
      );
    } catch (error) {
      this.fail(message.id, error);
    }
  }

  private fail(id: number | undefined, error: unknown): void {
    this.post({ type: 'failed', id, message: error instanceof Error ? error.message : String(error) }, []);
  }
}

/** Does a job; with the arrays that are given away. */
function answer(tracer: Tracer, job: Job): [Kinds[Job['kind']]['result'], ArrayBufferView[]] {
  switch (job.kind) {
    case 'trace': {
      const result = tracer.trace(job.job);
      const { films, squares, alpha, guides } = result;
      return [result, [films, squares, alpha, ...(guides ? [guides.sums, guides.ids] : [])]];
    }
    case 'read': {
      const result = tracer.read(job.job);
      return [result, [result.open, result.lit, result.blockers]];
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
