// The server under many: fifty pages on one setup, ten hostile files at once, ten thousand setups in the list.
import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { collected } from '@plinket/core';
import pg from 'pg';
import { ensureWeb } from '../../scripts/build.mjs';
import { root } from '../../scripts/lib/paths.mjs';
import { pause } from '../../scripts/lib/processes.mjs';
import { serveFresh } from '../../scripts/lib/serve.mjs';
import { api } from '../../web/src/api/client.ts';
import { median, report } from './report.ts';
import { pointClientAt, Writer } from './writers.ts';

const CLIENTS = 50;
const SECONDS = 20;
const SETUPS = 10_000;
const HOSTILE = [
  'exr-762-h-dwaa.exr',
  'exr-1241-h-dwab.exr',
  'exr-1511-h-dwaa.exr',
  'exr-piz-claims-16384x8192.exr',
  'hdr-claims-16384x8192.hdr',
  'png-claims-30000x30000.png',
  'glb-sparse-count-1e15.glb',
  'glb-zero-accessor-300M.glb',
];

await ensureWeb();
// fifty artists have fifty addresses; here all come from one
const server = await serveFresh('bench', { PLINKET_WRITES_PER_MINUTE: '1000000' });
const took = pointClientAt(() => server.url);
const rss = (): number => Number(/VmRSS:\s+(\d+)/.exec(readFileSync(`/proc/${server.pid}/status`, 'utf8'))![1]) / 1024;

/** Fifty pages change fifty things of one setup, each once a second or so. */
async function together() {
  const first = (await api.setups()).items[0]!;
  const { document } = await api.setup(first.id);
  const key = document.lights.items['key']!;
  const lights = Array.from({ length: CLIENTS }, (_, i) => `page-${i}`);
  const { id } = await api.createSetup({
    ...document,
    name: 'Fifty pages',
    lights: collected(Object.fromEntries(lights.map((l) => [l, { ...key, name: l }]))),
  });
  const pages: Writer[] = [];
  for (const light of lights) pages.push(new Writer(await api.setup(id), light));
  took.length = 0;
  for (const page of pages) page.begin(700);
  await pause(SECONDS * 1000);
  for (const page of pages) page.stop();
  let lost = 0;
  for (const page of pages) lost += await page.lost();
  const sorted = [...took].sort((a, b) => a - b);
  return {
    lost,
    made: pages.reduce((n, p) => n + p.made, 0),
    refused: pages.reduce((n, p) => n + p.refused, 0),
    requests: sorted.length,
    p50: median(sorted),
    p95: sorted[Math.floor(sorted.length * 0.95)]!,
  };
}

/** How long the question how it is takes, while hostile files are being read. */
async function hostile() {
  const file = (name: string) => readFileSync(join(root, 'core/src/testing/hostile', name));
  const send = (name: string) =>
    name.endsWith('.glb')
      ? fetch(`/api/assets?name=${name}`, { method: 'POST', headers: { 'Content-Type': 'model/gltf-binary' }, body: file(name) })
      : fetch(`/api/light-files?name=${name}`, {
          method: 'POST',
          headers: { 'Content-Type': 'application/octet-stream' },
          body: file(name),
        });
  // ten: the two that last longest once more
  const uploads = [...HOSTILE, ...HOSTILE.slice(0, 2)].map((name) => send(name).then((r) => r.status));
  const state = { done: false };
  const statuses = Promise.all(uploads).finally(() => (state.done = true));
  const health: number[] = [];
  while (!state.done) {
    const since = performance.now();
    await api.health();
    health.push(performance.now() - since);
    await pause(20);
  }
  const sorted = health.sort((a, b) => a - b);
  return { statuses: await statuses, p99: sorted[Math.floor(sorted.length * 0.99)]!, worst: sorted.at(-1)!, asked: sorted.length };
}

/** A page of the list, and a search, among ten thousand setups. */
async function lists() {
  const client = new pg.Client(server.database.url);
  await client.connect();
  await client.query(
    `INSERT INTO document (id, revision, document, updated_at)
     SELECT gen_random_uuid(), 1, jsonb_set(document, '{name}', to_jsonb('Setup number ' || n)), now() - n * interval '1 minute'
     FROM (SELECT document FROM document ORDER BY created_at LIMIT 1) d, generate_series(1, $1) n`,
    [SETUPS],
  );
  await client.query('ANALYZE document');
  await client.end();
  const asked = async (wish: Parameters<typeof api.setups>[0]) => {
    const times: number[] = [];
    for (let n = 0; n < 21; n++) {
      const since = performance.now();
      await api.setups(wish);
      times.push(performance.now() - since);
    }
    return median(times);
  };
  const { next } = await api.setups({ limit: 200 });
  return { first: await asked({}), later: await asked({ cursor: next }), search: await asked({ search: 'number 7777' }) };
}

try {
  const t = await together();
  const h = await hostile();
  const l = await lists();
  const memory = rss();
  report(
    'server',
    {
      lost: t.lost,
      refused: t.refused,
      p50_ms: t.p50,
      p95_ms: t.p95,
      health_ms: h.worst,
      health_p99_ms: h.p99,
      list_ms: Math.max(l.first, l.later, l.search),
      rss_mb: memory,
    },
    [
      `${CLIENTS} pages on one setup for ${SECONDS} s: ${t.made} changes in ${t.requests} requests, ${t.lost} lost, ${t.refused} refused; a request ${t.p50.toFixed(1)} ms in the median, ${t.p95.toFixed(1)} for 95 of 100`,
      `while ten hostile files were read (answers ${h.statuses.join(', ')}): health asked ${h.asked} times, ${h.p99.toFixed(1)} ms for 99 of 100, ${h.worst.toFixed(1)} at worst`,
      `list among ${SETUPS} setups: first page ${l.first.toFixed(1)} ms, a later one ${l.later.toFixed(1)}, a search ${l.search.toFixed(1)}`,
      `memory of the server at the end: ${Math.round(memory)} MB`,
    ],
  );
} finally {
  await server.stop();
}
process.exit(0);
