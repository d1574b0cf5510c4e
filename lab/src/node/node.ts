import type { Task, Welcome } from '@plinket/contract';
import { FrameLost, NodeRefused, type ServerLink } from './link.ts';
import { dropAside, type Maker } from './maker.ts';

export interface NodeOptions {
  link: ServerLink;
  maker: Maker;
  cores: number;
  name?: string;
  say?: (line: string) => void;
  /** Pause before it is asked again where no frame waits, ms. */
  idleMs?: number;
}

const IDLE_MS = 1000,
  /** After so long without a frame the workers are sent home, ms. */
  REST_MS = 60_000;
/** Words of a frame's log that one message takes. */
const MOST_WORDS = 50;

const pause = (ms: number, signal: AbortSignal): Promise<void> =>
  new Promise((resolve) => {
    if (signal.aborted) return resolve();
    const end = (): void => {
      clearTimeout(timer);
      signal.removeEventListener('abort', end);
      resolve();
    };
    const timer = setTimeout(end, ms);
    signal.addEventListener('abort', end);
  });

/** A render node: takes one frame after the other, says that it is still there, and sends back what comes of it. */
export class RenderNode {
  private readonly options: NodeOptions;
  constructor(options: NodeOptions) {
    this.options = options;
  }

  /** Works until the signal says that it is enough. @throws NodeRefused when the server will not have it */
  async run(signal: AbortSignal): Promise<void> {
    const { link, maker, cores, name, say, idleMs = IDLE_MS } = this.options;
    try {
      const welcome = await link.hello(cores, name, signal);
      say?.(`${welcome.name} is ready: ${cores} core${cores === 1 ? '' : 's'}.`);
      let idle = 0;
      while (!signal.aborted) {
        const task = await link.lease(signal);
        if (task) {
          await this.work(task, welcome, signal);
          idle = 0;
        } else {
          await pause(idleMs, signal);
          if (++idle * idleMs === REST_MS) maker.rest?.();
        }
      }
    } catch (error) {
      if (!signal.aborted) throw error;
    } finally {
      if (signal.aborted) await link.bye();
      maker.close();
    }
  }

  private async work(task: Task, { heartbeatMs }: Welcome, signal: AbortSignal): Promise<void> {
    const { link, maker, say } = this.options;
    const frame = new AbortController(),
      ending = AbortSignal.any([signal, frame.signal]);
    const began = performance.now(),
      cpu = process.cpuUsage();
    let progress = 0;
    const beating = this.beat(
      task,
      heartbeatMs,
      ending,
      () => progress,
      (why) => frame.abort(why),
    );
    try {
      const made = await maker.make(task, { signal: ending, progress: (done) => (progress = done) });
      try {
        const files = [];
        for (const { ending: kind, from } of made.files) files.push({ ending: kind, sha256: await link.send(from, ending) });
        const picture = await link.send(made.picture, ending);
        const { user, system } = process.cpuUsage(cpu),
          seconds = (performance.now() - began) / 1000;
        await link.done(
          task.lease,
          { seconds, coreSeconds: (user + system) / 1e6, files, picture, words: made.words.slice(0, MOST_WORDS) },
          ending,
        );
        say?.(`${task.job} · ${task.label} · ${task.frame}: done in ${seconds.toFixed(1)} s`);
      } finally {
        dropAside(made);
      }
    } catch (error) {
      signal.throwIfAborted();
      const why = frame.signal.aborted ? (frame.signal.reason as unknown) : error;
      if (why instanceof NodeRefused) throw why;
      const reason = why instanceof Error ? why.message : String(why);
      say?.(`${task.job} · ${task.label} · ${task.frame}: ${reason}`);
      if (!(why instanceof FrameLost))
        await link.failed(task.lease, { reason: reason.slice(0, 2000), words: [] }, signal).catch((e: unknown) => {
          if (!(e instanceof FrameLost)) throw e;
        });
    } finally {
      frame.abort(new Error('The frame is done.'));
      await beating;
    }
  }

  /** Says from time to time that the frame is still in work; a frame that is lost meanwhile is given up. */
  private async beat(
    task: Task,
    everyMs: number,
    signal: AbortSignal,
    progress: () => number,
    lost: (why: unknown) => void,
  ): Promise<void> {
    for (;;) {
      await pause(everyMs, signal);
      if (signal.aborted) return;
      try {
        await this.options.link.heartbeat(task.lease, { progress: Math.min(1, Math.max(0, progress())), words: [] }, signal);
      } catch (error) {
        if (!signal.aborted) lost(error);
        return;
      }
    }
  }
}
