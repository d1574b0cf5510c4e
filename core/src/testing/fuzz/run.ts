// Feeds readers spoilt files in a thread that is watched: one that does not come back is ended, and the next file gets a new one.
import { Worker } from 'node:worker_threads';
import type { FuzzReader } from './readers.ts';
import { spoiled } from './spoil.ts';

/** What happened to one file that should not have. */
export interface Fault {
  /** From which the file can be made again. */
  number: number;
  kind: 'untyped' | 'hang' | 'not finite';
  message: string;
}
export interface FuzzReport {
  reader: string;
  files: number;
  accepted: number;
  refused: number;
  /** Longest time one took, ms. */
  slowest: number;
  slowestNumber: number;
  faults: Fault[];
}

/** What a thread is asked, and what it says of each file. */
export interface ToFuzz {
  reader: string;
  from: number;
  to: number;
}
export type FromFuzz =
  { type: 'begun'; number: number } | { type: 'read'; number: number; accepted: boolean; ms: number; fault?: Fault } | { type: 'done' };

/** The path to the first number that is not finite in what was read; nothing where all are. */
export function notFinite(value: unknown, path = '', seen = new Set<unknown>()): string | undefined {
  if (typeof value === 'number') return Number.isFinite(value) ? undefined : `${path} is ${value}`;
  if (typeof value !== 'object' || value === null || seen.has(value)) return undefined;
  seen.add(value);
  if (ArrayBuffer.isView(value) || value instanceof ArrayBuffer) {
    if (!(value instanceof Float32Array || value instanceof Float64Array)) return undefined;
    const at = value.findIndex((v) => !Number.isFinite(v));
    return at < 0 ? undefined : `${path}[${at}] is ${value[at]}`;
  }
  const entries: Iterable<[unknown, unknown]> = value instanceof Map ? value : Object.entries(value);
  for (const [key, of] of entries) {
    const found = notFinite(of, `${path}.${String(key)}`, seen);
    if (found) return found;
  }
  return undefined;
}

/** Reads one spoilt file, and says what was wrong with that. */
export async function fuzzOne(
  { samples, text, read, refusals }: FuzzReader,
  number: number,
): Promise<{ accepted: boolean; fault?: Fault }> {
  const bytes = spoiled(samples, text ?? false, number);
  try {
    const bad = notFinite(await read(bytes));
    return bad === undefined ? { accepted: true } : { accepted: true, fault: { number, kind: 'not finite', message: bad } };
  } catch (error) {
    if (refusals.some((of) => error instanceof of)) return { accepted: false };
    const message = error instanceof Error ? (error.stack ?? error.message) : String(error);
    return { accepted: false, fault: { number, kind: 'untyped', message } };
  }
}

/** How often a thread is looked after, ms. */
const LOOK = 50;

/** Feeds readers, one after the other, in one thread as long as that comes back from each file. */
export class Fuzz {
  private worker: Worker | undefined;
  private readonly thread: URL;

  /** @param thread what the thread runs: that which reads, where nothing else is said */
  constructor(thread = new URL('./worker.mjs', import.meta.url)) {
    this.thread = thread;
  }

  /**
   * Feeds a reader the files `from` … `to − 1`.
   * @param seconds after which a file counts as a hang
   */
  async run(reader: string, from: number, to: number, seconds: number): Promise<FuzzReport> {
    const report: FuzzReport = { reader, files: to - from, accepted: 0, refused: 0, slowest: 0, slowestNumber: from, faults: [] };
    for (let next = from; next < to;) next = await this.round(next, to, seconds, report);
    return report;
  }

  async close(): Promise<void> {
    const { worker } = this;
    this.worker = undefined;
    await worker?.terminate();
  }

  /** What one thread gets done; answers with which file to go on. */
  private round(from: number, to: number, seconds: number, report: FuzzReport): Promise<number> {
    this.worker ??= new Worker(this.thread, { execArgv: ['--no-warnings'], stdout: true, stderr: true });
    const { worker } = this;
    return new Promise((resolve, reject) => {
      // what a thread does before its first file is not the file's
      let hand: { number: number; since: number } | undefined;
      const over = (): void => {
        clearInterval(watch);
        worker.off('message', hear).off('error', broke);
      };
      const hung = (message: string): void => {
        const { number } = hand!;
        over();
        report.faults.push({ number, kind: 'hang', message });
        void this.close().then(() => resolve(number + 1));
      };
      const watch = setInterval(() => {
        if (hand && performance.now() - hand.since > seconds * 1000) hung(`longer than ${seconds} s`);
      }, LOOK);
      const hear = (message: FromFuzz): void => {
        if (message.type === 'begun') hand = { number: message.number, since: performance.now() };
        else if (message.type === 'done') {
          over();
          resolve(to);
        } else {
          hand = undefined;
          if (message.accepted) report.accepted++;
          else report.refused++;
          if (message.ms > report.slowest) [report.slowest, report.slowestNumber] = [message.ms, message.number];
          if (message.fault) report.faults.push(message.fault);
        }
      };
      const broke = (error: Error): void => {
        if (hand) return hung(error.message);
        over();
        reject(error);
      };
      worker.on('message', hear).on('error', broke);
      worker.postMessage({ reader: report.reader, from, to } satisfies ToFuzz);
    });
  }
}
