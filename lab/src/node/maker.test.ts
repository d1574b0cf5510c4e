// Frames as a node makes them: traced, balanced anew, given up; and that their memory is given back.
import { createHash, randomUUID } from 'node:crypto';
import { mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, expect, it } from '@jest/globals';
import { plainFilmMath } from '@plinket/kernel';
import { applyPatch, fillChannels, readExrHead, readFilms, readPngSetup, type Patch, type Setup } from '@plinket/core';
import type { Task } from '@plinket/contract';
import { nodePool } from '@plinket/engine/node';
import { PNG } from 'pngjs';
import { panelLight, setupWith } from '../../../core/src/testing/setups.ts';
import { FileCache } from './cache.ts';
import { dropAside, FrameMaker, type Made } from './maker.ts';

const folder = mkdtempSync(join(tmpdir(), 'plinket-maker-'));
const files = new Map<string, Uint8Array>();
const keep = (bytes: Uint8Array): string => {
  const sha256 = createHash('sha256').update(bytes).digest('hex');
  files.set(sha256, bytes);
  return sha256;
};
const kept = (setup: Setup): string => keep(Buffer.from(JSON.stringify(setup)));
const setup = applyPatch(setupWith({ key: panelLight(), rim: panelLight({ on: false }) }), {
  look: { smooth: 1 },
  camera: { aspect: 1.5 },
} as Patch);
const task = (more: Partial<Task> = {}): Task => ({
  lease: randomUUID(),
  job: 'Job',
  label: 'A',
  frame: 1,
  setup: kept(setup),
  quality: { side: 48, samples: 4, bounces: 1, seed: 1 },
  outputs: { png: 16, exr: true, passes: ['depth'] },
  ...more,
});
let maker: FrameMaker;
const make = (of: Task, signal = new AbortController().signal, progress: (done: number) => void = () => undefined) =>
  maker.make(of, { signal, progress });
const bytesOf = ({ files: all }: Made, ending: string): Uint8Array => {
  const { from } = all.find((f) => f.ending === ending)!;
  return from instanceof Uint8Array ? from : readFileSync(from.path);
};
/** A PNG as pngjs reads it (an independent reader), 8 bits a channel. */
const pixels = (png: Uint8Array): Uint8Array => PNG.sync.read(Buffer.from(png)).data;

beforeAll(() => {
  maker = new FrameMaker(new FileCache(folder, (sha256) => Promise.resolve(files.get(sha256)!)), () => nodePool({ workers: 1 }));
});
afterAll(() => {
  maker.close();
  rmSync(folder, { recursive: true, force: true });
});

it('a frame is traced to its files, which hold the setup; balanced anew from them it is the picture of the changed setup', async () => {
  const told: number[] = [];
  const made = await make(task(), undefined, (done) => told.push(done));
  expect(told.at(-1)).toBe(1);
  const png = bytesOf(made, 'png'),
    exr = bytesOf(made, 'exr');
  expect([PNG.sync.read(Buffer.from(png)).width, PNG.sync.read(Buffer.from(png)).height]).toEqual([48, 32]);
  expect(readPngSetup(png)?.name).toBe(setup.name);
  expect((await readFilms(exr, plainFilmMath())).names).toContain('depth.Z');
  dropAside(made);
  expect(() => bytesOf(made, 'exr')).toThrow(/ENOENT/);
  const brighter = applyPatch(setup, { lights: { items: { key: { stops: 1 }, rim: { on: true } } } } as unknown as Patch);
  const outputs = { png: 16, exr: false, passes: [] } as const satisfies Task['outputs'];
  const balanced = await make(task({ setup: kept(brighter), films: keep(exr), outputs: { ...outputs, passes: [] } }));
  const traced = await make(task({ setup: kept(brighter), outputs: { ...outputs, passes: [] } }));
  const [a, b, first] = [bytesOf(balanced, 'png'), bytesOf(traced, 'png'), png].map(pixels) as [Uint8Array, Uint8Array, Uint8Array];
  // the same rays: but for what halves round
  expect(Math.max(...a.map((v, i) => Math.abs(v - b[i]!)))).toBeLessThanOrEqual(2);
  expect(Math.max(...first.map((v, i) => Math.abs(v - b[i]!)))).toBeGreaterThan(20);
}, 60_000);

it('a frame tells its objects apart, by all of its samples', async () => {
  const made = await make(
    task({ quality: { side: 48, samples: 40, bounces: 1, seed: 1 }, outputs: { png: 8, exr: true, passes: ['cryptomatte'] } }),
  );
  const head = readExrHead(bytesOf(made, 'exr'));
  const text = Object.entries(head.text).find(([key]) => key.endsWith('/manifest') && key.startsWith('cryptomatte/'))![1];
  expect(Object.keys(JSON.parse(text) as object)).toContain('stage/backdrop');
  const share = new Float32Array(48 * 32);
  await fillChannels(bytesOf(made, 'exr'), head, [{ name: 'CryptoObject00.G', out: share, stride: 1, first: 0 }], plainFilmMath().stored);
  // the backdrop fills the frame: every one of forty samples met it
  expect(share.every((v) => v === 1)).toBe(true);
  dropAside(made);
}, 60_000);

it('a frame that is given up ends at once, and the next one is as it should be', async () => {
  const giving = new AbortController();
  const long = make(task({ quality: { side: 400, samples: 4000, bounces: 3, seed: 1 } }), giving.signal, () =>
    giving.abort(new Error('cancelled')),
  );
  await expect(long).rejects.toThrow('cancelled');
  const made = await make(task());
  dropAside(made);
  expect(made.words.join()).toContain('48 × 32, 4 samples');
}, 60_000);

it('frames leave no memory behind', async () => {
  const one = async () => dropAside(await make(task()));
  await one();
  const before = maker.bytesInUse;
  for (let i = 0; i < 3; i++) await one();
  expect(maker.bytesInUse).toBe(before);
}, 60_000);
