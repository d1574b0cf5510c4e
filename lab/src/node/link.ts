import { createReadStream } from 'node:fs';
import { Readable } from 'node:stream';
import {
  LAB_VERSION,
  problemSchema,
  sha256Schema,
  taskSchema,
  welcomeSchema,
  type FrameDone,
  type FrameFailed,
  type Heartbeat,
  type Task,
  type Welcome,
} from '@plinket/contract';
import { z } from 'zod';

/** The server will not have this node: its token, its version, or another process with the same token. */
export class NodeRefused extends Error {}
/** The frame in hand is somebody else's, or nobody's, by now. */
export class FrameLost extends Error {}

const PAUSES = [250, 500, 1000, 2000, 5000];
/** Answers that say nothing against what was asked: it is asked again. */
const isPassing = (status: number): boolean => status === 408 || status === 429 || status >= 500;

const rest = (ms: number, signal?: AbortSignal): Promise<void> =>
  new Promise((resolve, reject) => {
    const timer = setTimeout(resolve, ms);
    signal?.addEventListener(
      'abort',
      () => {
        clearTimeout(timer);
        reject(signal.reason as Error);
      },
      { once: true },
    );
  });

export interface LinkOptions {
  server: string;
  token: string;
  /** Of this process. */
  process: string;
  say?: (line: string) => void;
}

/** What a node says to its server. A server that is away is asked again until it is back. */
export class ServerLink {
  private readonly options: LinkOptions;
  private away = false;
  constructor(options: LinkOptions) {
    this.options = options;
  }

  private async ask(path: string, init: RequestInit & { make?: () => object }, signal?: AbortSignal): Promise<Response> {
    const { server, token, process: own, say } = this.options;
    for (let times = 0; ; times++) {
      signal?.throwIfAborted();
      let why: string;
      try {
        const { make, headers, ...plain } = init;
        const response = await fetch(`${server}/api/node/${path}`, {
          ...plain,
          ...make?.(),
          headers: { Authorization: `Bearer ${token}`, 'X-Process': own, ...headers },
          signal: signal ?? null,
        });
        if (!isPassing(response.status)) {
          if (this.away) say?.('The server is there again.');
          this.away = false;
          return await this.checked(response);
        }
        why = `it answers ${response.status}`;
        await response.body?.cancel();
      } catch (error) {
        signal?.throwIfAborted();
        if (error instanceof NodeRefused || error instanceof FrameLost || error instanceof Refused) throw error;
        why = error instanceof Error ? error.message : String(error);
      }
      if (!this.away) say?.(`The server at ${server} does not take this now (${why}); trying again.`);
      this.away = true;
      await rest(PAUSES[Math.min(times, PAUSES.length - 1)]!, signal);
    }
  }

  private async checked(response: Response): Promise<Response> {
    if (response.ok) return response;
    const problem = problemSchema.safeParse(await response.json().catch(() => undefined));
    const said = problem.success
      ? [problem.data.title, problem.data.detail ?? problem.data.errors?.map((e) => `${e.field}: ${e.reason}`).join('; ')]
          .filter(Boolean)
          .join(' ')
      : `The server answers ${response.status}.`;
    if (response.status === 401 || response.status === 409) throw new NodeRefused(said);
    if (response.status === 410) throw new FrameLost(said);
    throw new Refused(said);
  }

  private post(path: string, body: object, signal?: AbortSignal): Promise<Response> {
    return this.ask(path, { method: 'POST', headers: { 'Content-Type': 'application/json' }, body: JSON.stringify(body) }, signal);
  }

  /** @throws NodeRefused */
  async hello(cores: number, name: string | undefined, signal: AbortSignal): Promise<Welcome> {
    const said = { version: LAB_VERSION, process: this.options.process, cores, ...(name ? { name } : {}) };
    return welcomeSchema.parse(await (await this.post('hello', said, signal)).json());
  }

  /** Said once: a server that is away finds out by itself. */
  async bye(): Promise<void> {
    const { server, token, process: own } = this.options;
    const headers = { Authorization: `Bearer ${token}`, 'X-Process': own, 'Content-Type': 'application/json' };
    await fetch(`${server}/api/node/bye`, { method: 'POST', headers, body: '{}', signal: AbortSignal.timeout(2000) }).catch(
      () => undefined,
    );
  }

  /** The next frame; nothing where none waits. */
  async lease(signal: AbortSignal): Promise<Task | undefined> {
    const response = await this.post('lease', {}, signal);
    return response.status === 204 ? undefined : taskSchema.parse(await response.json());
  }

  /** @throws FrameLost */
  async heartbeat(lease: string, said: Heartbeat, signal: AbortSignal): Promise<void> {
    await this.post(`leases/${lease}/heartbeat`, said, signal);
  }

  /** @throws FrameLost */
  async done(lease: string, result: FrameDone, signal: AbortSignal): Promise<void> {
    await this.post(`leases/${lease}/done`, result, signal);
  }

  async failed(lease: string, said: FrameFailed, signal: AbortSignal): Promise<void> {
    await this.post(`leases/${lease}/failed`, said, signal);
  }

  async file(sha256: string, signal?: AbortSignal): Promise<Uint8Array> {
    return new Uint8Array(await (await this.ask(`blobs/${sha256}`, {}, signal)).arrayBuffer());
  }

  /** Sends bytes, or a file as it lies on the disk; answers its SHA-256. */
  async send(what: Uint8Array | { path: string }, signal: AbortSignal): Promise<string> {
    const body = () =>
      what instanceof Uint8Array ? { body: what } : { body: Readable.toWeb(createReadStream(what.path)), duplex: 'half' };
    const headers = { 'Content-Type': 'application/octet-stream' };
    const response = await this.ask('blobs', { method: 'POST', headers, make: body }, signal);
    return z.object({ sha256: sha256Schema }).parse(await response.json()).sha256;
  }
}

/** The server understood, and does not take it. */
class Refused extends Error {}
