import { Worker } from 'node:worker_threads';
import type { Logger } from 'pino';
import { Unreadable, type ReaderKind, type Reports } from './kinds.ts';

export interface ToReader {
  kind: ReaderKind;
  path: string;
  fileName: string;
}
export type FromReader =
  | { type: 'ready' }
  | { type: 'read'; report: unknown }
  | { type: 'refused'; code: string; message: string }
  | { type: 'broken'; message: string };

export interface ReaderLimits {
  /** Longest reading of each kind, seconds. */
  seconds: { [K in ReaderKind]: number };
  /** Most memory that a reading may take, MB. */
  megabytes: number;
}

interface Job extends ToReader {
  signal: AbortSignal | undefined;
  resolve(report: unknown): void;
  reject(error: Error): void;
}

/** Longest readings: a picture of 67 million pixels takes some 5 s here, a character of 250 MB some 15. */
const SECONDS = { character: 60, light: 15, picture: 20, cube: 15, proof: 5 };
/** Longest start of a thread: one that does not come up is replaced. */
const START_SECONDS = 60;
/** How often the memory of a reading is looked at, ms. */
const LOOK = 25;
const MB = 1024 * 1024;

/**
 * Reads files in a thread of its own, one after the other. A file that takes too long or too much memory is refused, and its thread
 * is ended and replaced: no file stops the server.
 */
export class Readers {
  private readonly limits: ReaderLimits;
  private readonly log: Logger;
  private worker: Worker | undefined;
  /** The thread has started and takes files. */
  private ready = false;
  private busy: Job | undefined;
  private readonly waiting: Job[] = [];
  private watch: { timer: NodeJS.Timeout; since: number; rss: number } | undefined;

  constructor(log: Logger, limits: { megabytes?: number; seconds?: Partial<ReaderLimits['seconds']> } = {}) {
    this.log = log;
    this.limits = { megabytes: 1536, ...limits, seconds: { ...SECONDS, ...limits.seconds } };
  }

  /** Reads a file, unless whoever wanted it is gone (`signal`). @throws Unreadable with the reason */
  read<K extends ReaderKind>(kind: K, path: string, fileName: string, signal?: AbortSignal): Promise<Reports[K]> {
    return new Promise((resolve, reject) => {
      const job: Job = { kind, path, fileName, signal, resolve: resolve as (report: unknown) => void, reject };
      signal?.addEventListener('abort', () => this.drop(job), { once: true });
      this.waiting.push(job);
      this.next();
    });
  }

  /** Starts the thread before the first file comes. */
  warm(): void {
    this.worker ??= this.start();
  }

  async close(): Promise<void> {
    this.finish((job) => job.reject(new Error('The server is ending.')));
    await this.worker?.terminate();
    this.worker = undefined;
  }

  private start(): Worker {
    this.ready = false;
    const worker = new Worker(new URL('./worker.mjs', import.meta.url), {
      execArgv: ['--no-warnings'],
      resourceLimits: { maxOldGenerationSizeMb: this.limits.megabytes },
    });
    worker.on('message', (message: FromReader) => worker === this.worker && this.hear(message));
    worker.on('error', (error: Error & { code?: string }) => {
      if (worker !== this.worker) return;
      if (error.code === 'ERR_WORKER_OUT_OF_MEMORY') this.refuse('memory');
      else this.replace((job) => job.reject(error));
    });
    // a thread that waits for files keeps nobody from ending
    worker.unref();
    return worker;
  }

  /** Nobody waits for a file any more: its thread is free for the next. */
  private drop(job: Job): void {
    const gone = new Error('Whoever brought the file is gone.');
    if (job === this.busy) this.replace(() => job.reject(gone));
    const at = this.waiting.indexOf(job);
    if (at >= 0) {
      this.waiting.splice(at, 1);
      job.reject(gone);
    }
  }

  private next(): void {
    if (this.busy) return;
    const job = this.waiting.shift();
    if (!job) return;
    if (job.signal?.aborted) {
      job.reject(new Error('Whoever brought the file is gone.'));
      return this.next();
    }
    this.busy = job;
    this.worker ??= this.start();
    const { kind, path, fileName } = job;
    this.worker.postMessage({ kind, path, fileName } satisfies ToReader);
    this.watch = { timer: setInterval(() => this.look(), LOOK), since: performance.now(), rss: process.memoryUsage.rss() };
  }

  private look(): void {
    const { since, rss } = this.watch!;
    const seconds = this.ready ? this.limits.seconds[this.busy!.kind] : START_SECONDS;
    if (performance.now() - since > seconds * 1000) this.refuse('time');
    else if (process.memoryUsage.rss() - rss > this.limits.megabytes * MB) this.refuse('memory');
  }

  private hear(message: FromReader): void {
    switch (message.type) {
      case 'ready':
        // the thread's own start is not the file's time, however long a busy machine takes for it
        this.ready = true;
        if (this.watch) Object.assign(this.watch, { since: performance.now(), rss: process.memoryUsage.rss() });
        return;
      case 'read':
        return this.finish((job) => job.resolve(message.report));
      case 'refused':
        return this.finish((job) => job.reject(new Unreadable(message.code, message.message)));
      case 'broken':
        // a reader that fails in an unforeseen way refuses its file; why is for the log
        this.log.error({ reader: message.message }, 'A reader failed');
        return this.finish((job) =>
          job.reject(new Unreadable('unreadable', 'it cannot be read: it is damaged, or of a kind that is not known here')),
        );
    }
  }

  private refuse(limit: 'time' | 'memory'): void {
    const { seconds, megabytes } = this.limits;
    const reason =
      limit === 'time'
        ? `reading it takes longer than ${seconds[this.busy!.kind]} s`
        : `reading it takes more than ${megabytes} MB of memory`;
    this.replace((job) => job.reject(new Unreadable(`too-much-${limit}`, reason)));
  }

  private replace(tell: (job: Job) => void): void {
    void this.worker?.terminate();
    this.worker = undefined;
    this.finish(tell);
  }

  private finish(tell: (job: Job) => void): void {
    clearInterval(this.watch?.timer);
    this.watch = undefined;
    const job = this.busy;
    this.busy = undefined;
    if (job) tell(job);
    this.next();
  }
}
