// Nodes that are killed at any instant: three real processes take two hundred frames, one of them dies again and again.
import { spawn, type ChildProcess } from 'node:child_process';
import { mkdtempSync, readdirSync, readFileSync, rmSync } from 'node:fs';
import { createRequire } from 'node:module';
import type { AddressInfo } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { setTimeout as rest } from 'node:timers/promises';
import { fileURLToPath, pathToFileURL } from 'node:url';
import { afterAll, beforeAll, expect, it } from '@jest/globals';
import { TURNTABLE_DEFAULTS } from '@plinket/core';
import type { Job, JobFrame, MadeNode } from '@plinket/contract';
import { FrameQueue, serverOf } from '../index.ts';
import { silent, TestServer } from '../testing/fixture.ts';

const FRAMES = 200,
  NODES = 3,
  /** What one picture takes, ms. */
  EACH = 30;
const folder = mkdtempSync(join(tmpdir(), 'plinket-kills-'));
const script = fileURLToPath(new URL('../../../lab/src/node/fake-node.fixture.ts', import.meta.url));
const tsx = pathToFileURL(createRequire(import.meta.url).resolve('tsx')).href;
const running: (ChildProcess | undefined)[] = [];
let server: TestServer, http: ReturnType<typeof serverOf>, url: string;

beforeAll(async () => {
  const lab = (db: TestServer['db']) => ({ queue: new FrameQueue(db, silent, { pauseSeconds: 1, retries: 100 }), folder, leaseMs: 3000 });
  server = await TestServer.start((db) => ({ lab: lab(db) }));
  http = serverOf(server.app);
  await new Promise<void>((resolve) => http.listen(0, '127.0.0.1', resolve));
  url = `http://127.0.0.1:${(http.address() as AddressInfo).port}`;
  server.lab!.mind(250);
  await server.bring().expect(201);
});
afterAll(async () => {
  for (const node of running) node?.kill('SIGKILL');
  http.closeAllConnections();
  await new Promise((resolve) => http.close(resolve));
  await server.stop();
  rmSync(folder, { recursive: true, force: true });
});

/** Makes a job of so many frames, and tokens for nodes. */
async function begin(name: string, frames: number, nodes: number): Promise<{ id: string; start(i: number): void }> {
  const setup = (await server.created({ name: 'Turn', turntable: { ...TURNTABLE_DEFAULTS, frames, before: 0, after: 0 } })).id;
  const tokens: string[] = [];
  for (let i = 0; i < nodes; i++) {
    const made = (
      await server
        .api()
        .post('/api/lab/nodes')
        .send({ name: `${name} ${i}` })
        .expect(201)
    ).body as MadeNode;
    tokens.push(made.token);
  }
  const wish = { name, source: { kind: 'turn', setup }, quality: { side: 16, samples: 1, bounces: 0 }, outputs: { png: 8, exr: false } };
  const { id } = (await server.api().post('/api/lab/jobs').send(wish).expect(201)).body as Job;
  const start = (i: number): void => {
    running[i] = spawn(process.execPath, ['--no-warnings', '--import', tsx, script, url, tokens[i]!, String(EACH)], { stdio: 'ignore' });
  };
  return { id, start };
}
const jobOf = async (id: string) => (await server.api().get(`/api/lab/jobs/${id}`).expect(200)).body as Job;
const framesOf = async (id: string) => (await server.api().get(`/api/lab/jobs/${id}/frames`).expect(200)).body.items as JobFrame[];
const notOnce = (frames: JobFrame[]) => frames.filter((f) => f.log.filter((l) => l.words === 'finished').length !== 1);

it('each frame is finished exactly once, whichever node is killed when', async () => {
  const { id, start } = await begin('Kills', FRAMES, NODES);
  for (let i = 0; i < NODES; i++) start(i);
  let kills = 0,
    now = await jobOf(id);
  for (let round = 0; now.state !== 'done'; round++) {
    expect(['waiting', 'running']).toContain(now.state);
    // two in turn, the third is left alone: it would be done also if the others never finished anything
    const victim = round % 2;
    if (now.frames.running > 0) {
      running[victim]!.kill('SIGKILL');
      kills++;
      start(victim);
    }
    await rest(400 + 500 * Math.random());
    now = await jobOf(id);
  }
  const all = await framesOf(id);
  expect(kills).toBeGreaterThan(0);
  expect(all.map((f) => f.frame)).toEqual(Array.from({ length: FRAMES }, (_, i) => i + 1));
  expect(notOnce(all)).toEqual([]);
  const names = readdirSync(join(folder, 'kills/v001')).sort();
  expect(names).toEqual(all.map((f) => `turn.${String(f.frame).padStart(4, '0')}.png`));
  expect(names.filter((n, i) => readFileSync(join(folder, 'kills/v001', n), 'utf8') !== `Turn ${i + 1}`)).toEqual([]);
  const queue = await server.db.query<{ state: string; count: number }[]>('SELECT state, count(*)::int FROM pgboss.job GROUP BY state');
  expect(queue).toEqual([{ state: 'completed', count: FRAMES }]);
}, 240_000);

it('a database that goes away in the middle loses no frame and repeats none', async () => {
  for (const node of running.splice(0)) node?.kill('SIGKILL');
  const { id, start } = await begin('Away', 40, 2);
  for (let i = 0; i < 2; i++) start(i);
  while ((await jobOf(id)).frames.done < 5) await rest(50);
  await server.cluster.stop();
  await rest(1000);
  await server.cluster.start();
  const state = () => jobOf(id).catch(() => undefined);
  for (let now = await state(); now?.state !== 'done'; now = await state()) await rest(200);
  const frames = await framesOf(id);
  expect([frames.length, notOnce(frames)]).toEqual([40, []]);
}, 240_000);
