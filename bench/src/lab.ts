// The Lab: how much sooner two nodes are done than one, and what a frame costs beyond its own work (taking it, sending it back, the queue).
// Then three nodes for two minutes, of which two are killed at any instant: every frame is finished exactly once.
import { spawn, type ChildProcess } from 'node:child_process';
import { createRequire } from 'node:module';
import { setTimeout as rest } from 'node:timers/promises';
import { fileURLToPath, pathToFileURL } from 'node:url';
import type { FrameList, Job, MadeNode } from '@plinket/contract';
import { TURNTABLE_DEFAULTS, type Setup } from '@plinket/core';
import { ensureKernel, ensureWeb } from '../../scripts/build.mjs';
import { serveFresh } from '../../scripts/lib/serve.mjs';
import { report } from './report.ts';
import { asker } from './asking.ts';

/** Frames that are timed, and what each takes its node, ms. */
const FRAMES = 12,
  FRAME_MS = 10_000;
/** Frames of the killing, and for how long nodes are killed, ms. */
const MANY = 200,
  KILLING_MS = 120_000;
const script = fileURLToPath(new URL('../../lab/src/node/fake-node.fixture.ts', import.meta.url));
const tsx = pathToFileURL(createRequire(import.meta.url).resolve('tsx')).href;

await ensureKernel();
await ensureWeb();
const server = await serveFresh('bench', { PLINKET_LEASE_MS: '4000' });
const ask = asker(server.url);
const { items } = await ask<{ items: { id: string }[] }>('setups?limit=1');
const { document } = await ask<{ document: Setup }>(`setups/${items[0]!.id}`);

/** A job of so many frames. */
async function send(name: string, frames: number): Promise<string> {
  const turntable = { ...TURNTABLE_DEFAULTS, frames, before: 0, after: 0 };
  const { id } = await ask<{ id: string }>('setups', { document: { ...document, name, turntable } });
  const outputs = { png: 8, exr: false };
  return (await ask<Job>('lab/jobs', { name, source: { kind: 'turn', setup: id }, quality: { side: 16, samples: 1, bounces: 0 }, outputs }))
    .id;
}
const tokens: string[] = [];
for (const name of ['one', 'two', 'three']) tokens.push((await ask<MadeNode>('lab/nodes', { name })).token);
const start = (i: number, ms: number): ChildProcess =>
  spawn(process.execPath, ['--no-warnings', '--import', tsx, script, server.url, tokens[i]!, String(ms), 'exactly'], { stdio: 'ignore' });
const ended = async (id: string): Promise<Job> => {
  for (;;) {
    const job = await ask<Job>(`lab/jobs/${id}`);
    if (job.state === 'done' || job.state === 'unfinished') return job;
    await rest(100);
  }
};
/** Seconds from the first frame taken to the last one finished. */
async function took(nodes: number, name: string): Promise<number> {
  const running = Array.from({ length: nodes }, (_, i) => start(i, FRAME_MS));
  // all of them are there before anything is
  for (;;) {
    const { items } = await ask<{ items: { name: string; here: boolean }[] }>('lab/nodes');
    if (items.filter((n) => n.here).length >= nodes) break;
    await rest(200);
  }
  await rest(1500);
  const began = performance.now();
  await ended(await send(name, FRAMES));
  const seconds = (performance.now() - began) / 1000;
  for (const node of running) node.kill('SIGTERM');
  await Promise.all(running.map((node) => new Promise((resolve) => node.once('exit', resolve))));
  // whoever left is away for the next count
  await rest(4500);
  return seconds;
}
const one = await took(1, 'One node'),
  two = await took(2, 'Two nodes');
const overhead = one / ((FRAMES * FRAME_MS) / 1000) - 1;

const job = await send('Killed', MANY);
const nodes = [0, 1, 2].map((i) => start(i, 500));
let kills = 0;
const until = performance.now() + KILLING_MS;
while (performance.now() < until && (await ask<Job>(`lab/jobs/${job}`)).state !== 'done') {
  const victim = kills % 2;
  nodes[victim]!.kill('SIGKILL');
  kills++;
  nodes[victim] = start(victim, 500);
  await rest(1000 + 2500 * Math.random());
}
const last = await ended(job);
for (const node of nodes) node.kill('SIGKILL');
const { items: frames } = await ask<FrameList>(`lab/jobs/${job}/frames`);
const times = frames.map((f) => f.log.filter((l) => l.words === 'finished').length);
await server.stop();
report('lab', { speedup: one / two, overhead, kills, lost: MANY - last.frames.done, twice: times.filter((n) => n > 1).length }, [
  `${FRAMES} frames of ${FRAME_MS / 1000} s: ${one.toFixed(1)} s by one node, ${two.toFixed(1)} s by two`,
  `${MANY} frames by three nodes, of which two were killed ${kills} times: ${last.frames.done} done, ${last.frames.dead} dead`,
]);
