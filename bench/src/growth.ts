// How a studio's server grows: a thousand setups with a hundred changes each, fifty people at work on them; against the same server with one setup for each of them.
import { invertPatch, orderOf, type Patch } from '@plinket/core';
import type { SetupRecord } from '@plinket/contract';
import pg from 'pg';
import { ensureWeb } from '../../scripts/build.mjs';
import { pause } from '../../scripts/lib/processes.mjs';
import { serveFresh } from '../../scripts/lib/serve.mjs';
import { api } from '../../web/src/api/client.ts';
import { median, report } from './report.ts';
import { pointClientAt, Writer } from './writers.ts';

const SETUPS = 1000,
  CHANGES = 105,
  PEOPLE = 50,
  SECONDS = 30,
  TIMES = 20;

await ensureWeb();
const server = await serveFresh('bench', { PLINKET_WRITES_PER_MINUTE: '1000000' });
const saves = pointClientAt(() => server.url);
const database = new pg.Client({ connectionString: server.database.url });

const quantile = (values: readonly number[], q: number): number => [...values].sort((a, b) => a - b)[Math.floor(values.length * q)]!;

/** What a question costs, the median of some, ms. */
async function cost(ask: () => Promise<unknown>): Promise<number> {
  const took: number[] = [];
  for (let i = 0; i < TIMES; i++) {
    const since = performance.now();
    await ask();
    took.push(performance.now() - since);
  }
  return median(took);
}

const megabytes = async (): Promise<number> =>
  Number((await database.query<{ size: string }>('SELECT pg_database_size(current_database()) AS size')).rows[0]!.size) / 1e6;

/** People at work, each in a setup of their own, who change a light every second or two. */
async function atWork(setups: readonly string[]) {
  saves.length = 0;
  const writers: Writer[] = [];
  for (const id of setups) {
    const record = await api.setup(id);
    writers.push(new Writer(record, orderOf(record.document.lights)[0]!));
  }
  for (const writer of writers) writer.begin(1000);
  await pause(SECONDS * 1000);
  for (const writer of writers) writer.stop();
  await pause(1000);
  return { median: median(saves), p95: quantile(saves, 0.95), refused: writers.reduce((n, w) => n + w.refused, 0), saves: saves.length };
}

async function measure(of: SetupRecord, setups: readonly string[]) {
  return {
    list: await cost(() => api.setups()),
    search: await cost(() => api.setups({ search: 'keeper' })),
    open: await cost(() => api.setup(of.id)),
    history: await cost(() => api.history(of.id)),
    megabytes: await megabytes(),
    work: await atWork(setups),
  };
}

/** So many copies of the demo's setups, each with so many changes, written as the server writes them. */
async function grow(setups: number, changes: number): Promise<string[]> {
  const demo = await Promise.all((await api.setups({ search: 'first look' })).items.map((s) => api.setup(s.id)));
  const made: string[] = [];
  for (let i = 0; i < setups; i += 10) {
    const some = Array.from({ length: 10 }, (_, k) => {
      const { document } = demo[(i + k) % demo.length]!;
      return api.createSetup({ ...document, name: `${document.name} ${i + k}` });
    });
    for (const { id, document } of await Promise.all(some)) {
      made.push(id);
      const light = orderOf(document.lights)[0]!;
      const patch = (n: number): Patch => ({ lights: { items: { [light]: { stops: (n % 13) / 4 - 1, place: { azimuth: n % 90 } } } } });
      const patches = Array.from({ length: changes }, (_, n) => JSON.stringify(patch(n))),
        inverse = JSON.stringify(invertPatch(document, patch(0)));
      await database.query(
        `INSERT INTO document_patch (document_id, revision, request, patch, inverse, words)
         SELECT $1, n + 1, gen_random_uuid(), p::jsonb, $3::jsonb, 'Key: level and place' FROM unnest($2::text[]) WITH ORDINALITY AS t (p, n)`,
        [id, patches, inverse],
      );
      await database.query('UPDATE document SET revision = $2 WHERE id = $1', [id, changes + 1]);
    }
  }
  // what so much at once leaves to be written is no studio's
  await database.query('VACUUM ANALYZE');
  await database.query('CHECKPOINT');
  return made;
}

try {
  await database.connect();
  const few = await grow(PEOPLE, 1);
  const small = await measure(await api.setup(few[0]!), few);
  const grown = [...few, ...(await grow(SETUPS - PEOPLE, CHANGES))];
  const big = await measure(await api.setup(grown[500]!), grown.slice(-PEOPLE));
  const line = (name: string, m: typeof small) =>
    `${name}: a page of the list ${m.list.toFixed(1)} ms, a search ${m.search.toFixed(1)}, opening ${m.open.toFixed(1)}, its history ${m.history.toFixed(1)}; ` +
    `${PEOPLE} people: a change kept after ${m.work.median.toFixed(0)} ms, ${m.work.p95.toFixed(0)} for 95 of 100 (${m.work.saves} changes, ${m.work.refused} refused); database ${m.megabytes.toFixed(0)} MB`;
  report(
    'growth',
    {
      list_ms: big.list,
      open_ms: big.open,
      history_ms: big.history,
      save_p95_ms: big.work.p95,
      save_ratio: big.work.median / small.work.median,
      bytes_a_change: ((big.megabytes - small.megabytes) * 1e6) / ((SETUPS - PEOPLE) * CHANGES),
    },
    [line(`${PEOPLE} setups`, small), line(`${SETUPS} setups, ${(SETUPS - PEOPLE) * CHANGES} changes`, big)],
  );
} finally {
  await database.end();
  await server.stop();
}
