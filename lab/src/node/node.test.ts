// A render node against a server that is played here: what it says, what it does when the server is away, when its frame is gone, when it is told to end.
import { mkdtempSync, readdirSync, readFileSync, rmSync, statSync, writeFileSync } from 'node:fs';
import { createServer, type IncomingMessage, type Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { createHash, randomUUID } from 'node:crypto';
import { afterEach, beforeEach, describe, expect, it } from '@jest/globals';
import type { Task } from '@plinket/contract';
import { inflateSync } from 'node:zlib';
import { plainFilmMath } from '@plinket/kernel';
import { readFilms, type ExrChannel } from '@plinket/core';
import { FloatType } from 'three';
import { EXRLoader } from 'three/addons/loaders/EXRLoader.js';
import { FileCache } from './cache.ts';
import { writeExrFile } from './exr-file.ts';
import { NodeRefused, ServerLink } from './link.ts';
import type { Maker } from './maker.ts';
import { RenderNode } from './node.ts';

const LEASE = randomUUID();
const task: Task = {
  lease: LEASE,
  job: 'Job',
  label: 'A',
  frame: 7,
  setup: 'ab'.repeat(32),
  quality: { side: 16, samples: 1, bounces: 0, seed: 1 },
  outputs: { png: 8, exr: false, passes: [] },
};
type Answer = { status: number; body?: object };
let http: Server,
  url: string,
  said: { path: string; body: string; token: string | undefined }[],
  answer: (path: string, times: number) => Answer,
  ending: AbortController;

const bodyOf = async (req: IncomingMessage): Promise<string> => {
  const parts: Buffer[] = [];
  for await (const part of req) parts.push(part as Buffer);
  return Buffer.concat(parts).toString();
};
beforeEach(async () => {
  said = [];
  ending = new AbortController();
  http = createServer((req, res) => {
    void bodyOf(req).then((body) => {
      const path = req.url!.replace('/api/node/', '').replace(LEASE, 'LEASE');
      said.push({ path, body, token: req.headers.authorization });
      const { status, body: out } = answer(path, said.filter((s) => s.path === path).length);
      res.writeHead(status, { 'Content-Type': 'application/json' }).end(out && JSON.stringify(out));
    });
  });
  await new Promise<void>((resolve) => http.listen(0, '127.0.0.1', resolve));
  url = `http://127.0.0.1:${(http.address() as AddressInfo).port}`;
});
afterEach(async () => {
  http.closeAllConnections();
  await new Promise((resolve) => http.close(resolve));
});

/** A server that gives one frame, and then has the node end. */
const oneFrame =
  (more: Partial<Record<string, (times: number) => Answer>> = {}) =>
  (path: string, times: number): Answer => {
    const own = more[path]?.(times);
    if (own) return own;
    if (path === 'hello') return { status: 200, body: { id: randomUUID(), name: 'n', heartbeatMs: 20, leaseMs: 100 } };
    if (path === 'lease') {
      if (times === 1) return { status: 200, body: task };
      ending.abort(new Error('enough'));
      return { status: 204 };
    }
    if (path === 'blobs') return { status: 201, body: { sha256: createHash('sha256').update(said.at(-1)!.body).digest('hex') } };
    return { status: 204 };
  };
const made = (text = 'picture') => ({
  files: [{ ending: 'png' as const, from: Buffer.from(text) }],
  picture: Buffer.from('small'),
  words: ['done well'],
});
const run = (maker: Partial<Maker>, say: string[] = []) =>
  new RenderNode({
    link: new ServerLink({ server: url, token: 'secret', process: randomUUID(), say: (l) => say.push(l) }),
    maker: { make: () => Promise.resolve(made()), close: () => undefined, ...maker },
    cores: 2,
    idleMs: 5,
    say: (l) => say.push(l),
  }).run(ending.signal);
/** What was said, but for how far it is: that comes by the clock. */
const paths = () => said.map((s) => s.path).filter((path) => !path.endsWith('heartbeat'));

describe('a node', () => {
  it('says hello, takes a frame, sends its files and says that it is done, with its token', async () => {
    answer = oneFrame();
    await run({});
    expect(paths()).toEqual(['hello', 'lease', 'blobs', 'blobs', 'leases/LEASE/done', 'lease', 'bye']);
    expect(new Set(said.map((s) => s.token))).toEqual(new Set(['Bearer secret']));
    const done = JSON.parse(said.find((s) => s.path.endsWith('done'))!.body) as { files: object[]; words: string[] };
    expect(done.files).toEqual([{ ending: 'png', sha256: createHash('sha256').update('picture').digest('hex') }]);
    expect(done.words).toEqual(['done well']);
  });
  it('says while it works that it is still there, and how far', async () => {
    answer = oneFrame();
    let beat: () => void = () => undefined;
    const beaten = new Promise<void>((resolve) => (beat = resolve));
    answer = oneFrame({ 'leases/LEASE/heartbeat': () => (beat(), { status: 204 }) });
    await run({
      make: async (_, { progress }) => {
        progress(0.5);
        await beaten;
        return made();
      },
    });
    const heard = said.filter((s) => s.path.endsWith('heartbeat'));
    expect(heard.length).toBeGreaterThan(0);
    expect(JSON.parse(heard[0]!.body)).toEqual({ progress: 0.5, words: [] });
  });
  it('waits for a server that is away, and sends the same again', async () => {
    const say: string[] = [];
    answer = oneFrame({ 'leases/LEASE/done': (times) => ({ status: times === 1 ? 503 : 204 }) });
    await run({}, say);
    expect(paths().filter((p) => p.endsWith('done'))).toHaveLength(2);
    expect(say.join('\n')).toMatch(/does not take this now \(it answers 503\)[^]*is there again/);
  });
  it('gives up a frame that is not its own any more, and takes the next', async () => {
    const gone = { status: 410, body: { type: 'x', title: 'This frame is not yours any more.', status: 410 } };
    answer = oneFrame({ 'leases/LEASE/heartbeat': () => gone });
    await run({
      make: (_, { signal }) => new Promise((__, reject) => signal.addEventListener('abort', () => reject(new Error('stopped')))),
    });
    // nothing is said about a frame that is another's
    expect(paths()).toEqual(['hello', 'lease', 'lease', 'bye']);
  });
  it('says why a frame could not be rendered, and goes on', async () => {
    answer = oneFrame();
    await run({ make: () => Promise.reject(new Error('no such mesh')) });
    expect(JSON.parse(said.find((s) => s.path.endsWith('failed'))!.body)).toEqual({ reason: 'no such mesh', words: [] });
    expect(paths().at(-2)).toBe('lease');
  });
  it.each([
    [401, 'This node’s token is not known.'],
    [409, 'This node is of another version.'],
  ])('ends with the reason when the server will not have it (%i)', async (status, title) => {
    answer = oneFrame({ hello: () => ({ status, body: { type: 'x', title, status } }) });
    await expect(run({})).rejects.toThrow(NodeRefused);
    await expect(run({})).rejects.toThrow(title);
  });
  it('told to end in the middle of a frame gives it back', async () => {
    answer = oneFrame();
    await run({
      make: (_, { signal }) =>
        new Promise((__, reject) => {
          signal.addEventListener('abort', () => reject(new Error('stopped')));
          ending.abort(new Error('end'));
        }),
    });
    expect(paths()).toEqual(['hello', 'lease', 'bye']);
  });
});

describe('the cache of a node', () => {
  const folder = mkdtempSync(join(tmpdir(), 'plinket-cache-'));
  const of = (text: string) => createHash('sha256').update(text).digest('hex');
  it('fetches a file once, notices a damaged one on the disk and on the way, and stays within its room', async () => {
    let fetched = 0;
    const cache = new FileCache(
      folder,
      (sha256) => {
        fetched++;
        return Promise.resolve(Buffer.from(sha256 === of('one') ? 'one' : sha256 === of('two') ? 'two' : 'something else'));
      },
      5,
    );
    expect(Buffer.from(await cache.get(of('one'))).toString()).toBe('one');
    await cache.get(of('one'));
    expect(fetched).toBe(1);
    writeFileSync(join(folder, of('one')), 'oms');
    expect(Buffer.from(await cache.get(of('one'))).toString()).toBe('one');
    expect(fetched).toBe(2);
    await expect(cache.get(of('three'))).rejects.toThrow('came damaged');
    await cache.get(of('two'));
    expect(readdirSync(folder)).toEqual([of('two')]);
    rmSync(folder, { recursive: true, force: true });
  });
});

describe('an EXR on a disk', () => {
  const path = join(mkdtempSync(join(tmpdir(), 'plinket-exr-')), 'a.exr');
  // three blocks of lines, the last one short; one channel that does not pack
  const W = 7,
    H = 37,
    value = (i: number) => ((i * 2654435761) % 1000) / 1000;
  const channels: ExrChannel[] = ['R', 'G', 'B', 'A'].map((name, c) => ({
    name,
    data: Float32Array.from({ length: W * H }, (_, i) => value(i * 4 + c)),
  }));
  it('written block by block is what other readers read', async () => {
    const bytes = await writeExrFile(path, { width: W, height: H, channels, text: { note: 'x' } });
    expect(statSync(path).size).toBe(bytes);
    const file = Uint8Array.from(readFileSync(path));
    const { data } = new EXRLoader().setDataType(FloatType).parse(file.buffer) as unknown as { data: Float32Array };
    for (let p = 0; p < W * H; p++)
      for (let c = 0; c < 4; c++) {
        const at = ((H - 1 - Math.floor(p / W)) * W + (p % W)) * 4 + c;
        expect(data[at]).toBe(channels[c]!.data[p]);
      }
    await expect(readFilms(file, plainFilmMath(), (p) => inflateSync(p))).rejects.toThrow(/plinketSetup/);
  });
});
