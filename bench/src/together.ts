// Two pages on one setup, adding, moving, changing and removing lights for a minute, by the page's own saver and its own listening: what
// is lost, and how long until the other sees a change.
import { applyPatch, orderOf, parseSetup, ranksAt, rectangle, withRanks, type Patch, type Setup } from '@plinket/core';
import type { SetupRecord } from '@plinket/contract';
import { ensureWeb } from '../../scripts/build.mjs';
import { pause } from '../../scripts/lib/processes.mjs';
import { serveFresh } from '../../scripts/lib/serve.mjs';
import { api } from '../../web/src/api/client.ts';
import type { Sync } from '../../web/src/document/sync.ts';
import { listen, savingTo } from './pages.ts';
import { median, report } from './report.ts';
import { pointClientAt } from './writers.ts';

const SECONDS = 60;

await ensureWeb();
const server = await serveFresh('bench', { PLINKET_WRITES_PER_MINUTE: '100000' });
pointClientAt(() => server.url);

class Page {
  readonly who: string;
  readonly sync: Sync;
  shown: Setup;
  refused = 0;
  changes = 0;
  /** What this page alone has to do with: its lights and their level, or that one is gone. */
  readonly own = new Map<string, number | undefined>();
  /** When a light of this page got its level, for the other to say when it saw it. */
  readonly made = new Map<string, number>();
  private n = 0;

  constructor(who: string, record: SetupRecord) {
    this.who = who;
    this.shown = record.document;
    this.sync = savingTo(record, { onRebased: (setup) => (this.shown = setup), onRefused: () => this.refused++ });
  }

  /** Adds a light somewhere, moves any, changes or removes one of its own. */
  act(): void {
    const { lights } = this.shown;
    const mine = [...this.own].filter(([, level]) => level !== undefined).map(([id]) => id);
    const one = mine[Math.floor(Math.random() * mine.length)];
    const what = Math.random();
    if (one === undefined || (what < 0.35 && mine.length < 20)) {
      const id = `${this.who}-${this.n++}`;
      const place = Math.floor(Math.random() * (orderOf(lights).length + 1));
      this.level(id, { lights: { items: withRanks(lights, { [id]: rectangle({ name: id, stops: 0 }) }, place) as unknown as Patch } }, 0);
    } else if (what < 0.55) {
      const all = orderOf(lights);
      const any = all[Math.floor(Math.random() * all.length)]!;
      const place = Math.floor(Math.random() * (all.length + 1));
      this.change({ lights: { items: { [any]: { rank: ranksAt(lights, 1, place)[0]! } } } });
    } else if (what < 0.85) {
      const stops = Number((Math.random() * 10 - 5).toFixed(3));
      this.level(one, { lights: { items: { [one]: { stops } } } }, stops);
    } else {
      this.own.set(one, undefined);
      this.made.delete(one);
      this.change({ lights: { items: { [one]: null } } });
    }
  }

  private level(id: string, patch: Patch, stops: number): void {
    this.own.set(id, stops);
    this.made.set(id, performance.now());
    this.change(patch);
  }

  private change(patch: Patch): void {
    this.changes++;
    this.shown = applyPatch(this.shown, patch);
    this.sync.add(patch);
  }

  /** How long ago each of the other's changes was made that are seen now for the first time. */
  sees(other: Page): number[] {
    const seen: number[] = [];
    for (const [id, at] of other.made) {
      if (this.shown.lights.items[id]?.stops !== other.own.get(id)) continue;
      other.made.delete(id);
      seen.push(performance.now() - at);
    }
    return seen;
  }

  missing(document: Setup): number {
    return [...this.own].filter(([id, level]) => document.lights.items[id]?.stops !== level).length;
  }
}

try {
  const first = (await api.setups()).items[0]!;
  const { document } = await api.setup(first.id);
  const record = await api.createSetup({ ...document, name: 'Together' });
  const pages = [new Page('hers', record), new Page('his', record)] as const;
  const [a, b] = pages;
  const seen: number[] = [];
  const look = (): void => void seen.push(...a.sees(b), ...b.sees(a));
  const end = new AbortController();
  const listening = pages.map((p) =>
    listen(`setups/${record.id}`, p.sync.revision, end.signal, (change) => {
      p.sync.hear(change);
      look();
    }).catch(() => undefined),
  );
  const until = performance.now() + SECONDS * 1000;
  while (performance.now() < until) {
    for (const p of pages) if (Math.random() < 0.5) p.act();
    await pause(60 + 120 * Math.random());
    look();
  }
  for (const p of pages) await p.sync.settled();
  await pause(500);
  end.abort();
  await Promise.all(listening);
  const { document: kept } = await api.setup(record.id);
  parseSetup(kept);
  const apart = pages.filter((p) => JSON.stringify(orderOf(p.shown.lights)) !== JSON.stringify(orderOf(kept.lights))).length;
  const lost = a.missing(kept) + b.missing(kept) + apart;
  const sorted = [...seen].sort((x, y) => x - y);
  const p95 = sorted[Math.floor(sorted.length * 0.95)]!;
  report(
    'together',
    {
      lost,
      refused: a.refused + b.refused,
      seen_ms: sorted.at(-1)!,
      seen_p95_ms: p95,
      seen_median_ms: median(sorted),
      changes: a.changes + b.changes,
    },
    [
      `two pages on one setup for ${SECONDS} s: ${a.changes + b.changes} changes, ${lost} lost, ${a.refused + b.refused} refused, ${orderOf(kept.lights).length} lights at the end, the same in both`,
      `the other saw a change after ${Math.round(median(sorted))} ms in the median, ${Math.round(p95)} for 95 of 100, ${Math.round(sorted.at(-1)!)} at worst (350 of it the quiet moment before it is sent)`,
    ],
  );
} finally {
  await server.stop();
}
process.exit(0);
