// Fifty people on one sequence, by the pages' own savers and their own listening: twenty in the light that all shots follow, twenty in shots of their own
// that follow it, ten on the board. Each changes something of their own every few seconds. What is lost, and how long from sending a change until everybody
// who has it before their eyes sees it (in shots: until it is kept; nobody else has them open).
import { applyPatch, orderOf, rectangle, withRanks, type Patch, type Sequence, type Setup } from '@plinket/core';
import type { AcceptedChange, SetupRecord } from '@plinket/contract';
import { ensureWeb } from '../../scripts/build.mjs';
import { pause } from '../../scripts/lib/processes.mjs';
import { serveFresh } from '../../scripts/lib/serve.mjs';
import { api } from '../../web/src/api/client.ts';
import type { Sync } from '../../web/src/document/sync.ts';
import { SequenceStore } from '../../web/src/sequence/store.ts';
import { after, listen, savingTo } from './pages.ts';
import { median, report } from './report.ts';
import { pointClientAt } from './writers.ts';

const BASE = 20,
  SHOTS = 20,
  BOARD = 10;
const SECONDS = 60;
/** Least and most pause between two changes of one person, ms. */
const [LEAST, MOST] = [2000, 6000];
await ensureWeb();
const server = await serveFresh('bench', { PLINKET_WRITES_PER_MINUTE: '100000' });
pointClientAt(() => server.url);

/** A change that is on its way to those who should see it. */
interface Going {
  who: string;
  n: number;
  sent: number | undefined;
  unseen: Set<Person>;
}
const going = new Set<Going>(),
  took: number[] = [];

/** Somebody with a page, who numbers what they say. */
abstract class Person {
  readonly who: string;
  said = 0;
  refused = 0;
  constructor(who: string) {
    this.who = who;
  }
  /** What this page shows of what somebody has said last. */
  abstract shows(who: string): number;
  abstract say(text: string): void;
  abstract settled(): Promise<void>;
  /** Those who have it before their eyes. */
  audience: Person[] = [];

  act(): void {
    this.said++;
    going.add({ who: this.who, n: this.said, sent: undefined, unseen: new Set(this.audience) });
    this.say(String(this.said));
  }
  /** What was said so far is on its way. */
  protected sending(): void {
    const now = performance.now();
    for (const g of going) if (g.who === this.who) g.sent ??= now;
  }
  look(): void {
    const now = performance.now();
    for (const g of going) {
      if (g.sent === undefined || !g.unseen.has(this) || this.shows(g.who) < g.n) continue;
      g.unseen.delete(this);
      if (g.unseen.size > 0) continue;
      going.delete(g);
      took.push(now - g.sent);
    }
  }
}

class AtStage extends Person {
  readonly sync: Sync;
  readonly id: string;
  shown: Setup;
  constructor(who: string, record: SetupRecord) {
    super(who);
    this.id = record.id;
    this.shown = record.document;
    this.sync = savingTo(record, {
      send: (change) => {
        this.sending();
        return api.patchSetup(record.id, change);
      },
      onState: (state) => state === 'idle' && this.look(),
      onRebased: (setup) => (this.shown = setup),
      onRefused: () => this.refused++,
    });
  }
  shows = (who: string): number => Number(this.shown.lights.items[who]?.notes || 0);
  say(notes: string): void {
    const patch: Patch = { lights: { items: { [this.who]: { notes } } } };
    this.shown = applyPatch(this.shown, patch);
    this.sync.add(patch);
  }
  settled = () => this.sync.settled();
  hear = (change: AcceptedChange): void => {
    this.sync.hear(change);
    this.look();
  };
}

class AtBoard extends Person {
  readonly store: SequenceStore;
  private readonly id: string;
  constructor(who: string, record: Awaited<ReturnType<typeof api.sequence>>) {
    super(who);
    this.id = record.id;
    this.store = new SequenceStore(record, {
      send: (change) => {
        this.sending();
        return api.patchSequence(this.id, change);
      },
      newId: () => crypto.randomUUID(),
      fetch: () => api.sequence(this.id),
      onRefused: (message) => {
        this.refused++;
        console.error(message);
      },
      after,
    });
  }
  private get shown(): Sequence {
    return this.store.state.getState().document;
  }
  shows = (who: string): number => Number(this.shown.shots.items[who]?.brief || 0);
  say(brief: string): void {
    this.store.change({ shots: { items: { [this.who]: { brief } } } }, 'brief');
  }
  async settled(): Promise<void> {
    while (this.store.state.getState().save !== 'idle') await pause(50);
  }
  hear = (change: AcceptedChange): void => {
    this.store.hear(change);
    this.look();
  };
}

try {
  const { document } = await api.setup((await api.setups()).items[0]!.id);
  const names = (what: string, count: number) => Array.from({ length: count }, (_, i) => `${what}-${i}`);
  const everybodys = names('base', BASE);
  const added = withRanks(document.lights, Object.fromEntries(everybodys.map((name) => [name, rectangle({ name, on: false })])), 99);
  const light = await api.createSetup(applyPatch(document, { lights: { items: added as unknown as Patch } }));
  const demo = await api.sequence((await api.board()).sequences[0]!.id);
  const { id: sequence } = await api.createSequence({ ...demo.document, name: 'Fifty', setup: light.id, shots: { items: {} } });
  const wished = names('S', SHOTS).map((code) => ({ code, first: 1001, last: 1010, state: 'in work' as const, brief: '', notes: '' }));
  const made = await api.addShots(sequence, { shots: wished });
  const shots = orderOf(made.document.shots),
    own = orderOf(document.lights)[0]!;

  const base = everybodys.map((who) => new AtStage(who, light));
  const inShots: AtStage[] = [];
  for (const shot of shots) inShots.push(new AtStage(own, await api.setup(shot)));
  const board = shots.slice(0, BOARD).map((shot) => new AtBoard(shot, made));
  for (const p of base) p.audience = [...base.filter((o) => o !== p), ...inShots];
  for (const p of board) p.audience = board.filter((o) => o !== p);
  const end = new AbortController();
  const listening = [
    ...[...base, ...inShots].map((p) => listen(`setups/${p.id}`, p.sync.revision, end.signal, p.hear)),
    ...board.map((p) => listen(`sequences/${sequence}`, p.store.revision, end.signal, p.hear)),
  ].map((l) => l.catch(() => undefined));
  await pause(500);

  const people: Person[] = [...base, ...inShots, ...board];
  const until = performance.now() + SECONDS * 1000;
  const kept: number[] = [];
  await Promise.all(
    people.map(async (p) => {
      await pause(MOST * Math.random());
      while (performance.now() < until) {
        // nobody else has a shot open: it counts once it is kept
        if (inShots.includes(p as AtStage)) {
          p.say(String(++p.said));
          await pause(350);
          const sent = performance.now();
          await p.settled();
          kept.push(performance.now() - sent);
        } else p.act();
        await pause(LEAST + (MOST - LEAST) * Math.random());
      }
    }),
  );
  for (const p of people) await p.settled();
  await pause(3000);
  for (const p of people) p.look();
  end.abort();
  await Promise.all(listening);

  const setup = (await api.setup(light.id)).document,
    { document: said } = await api.sequence(sequence);
  let lost = going.size;
  for (const p of base) if (Number(setup.lights.items[p.who]?.notes) !== p.said) lost++;
  for (const p of board) if (Number(said.shots.items[p.who]?.brief) !== p.said) lost++;
  for (const p of inShots) {
    const shot = (await api.setup(p.id)).document;
    if (Number(shot.lights.items[own]?.notes) !== p.said) lost++;
    lost += base.filter((b) => Number(shot.lights.items[b.who]?.notes) !== b.said).length;
  }
  const all = [...took, ...kept].sort((a, b) => a - b),
    seen = [...took].sort((a, b) => a - b);
  const p95 = all[Math.floor(all.length * 0.95)]!;
  const refused = people.reduce((n, p) => n + p.refused, 0),
    changes = people.reduce((n, p) => n + p.said, 0);
  report('sequence', { lost, refused, p95_ms: p95, worst_ms: all.at(-1)!, median_ms: median(all), changes }, [
    `${people.length} people for ${SECONDS} s: ${changes} changes, ${lost} lost, ${refused} refused`,
    `seen by all after ${Math.round(median(seen))} ms in the median, ${Math.round(seen[Math.floor(seen.length * 0.95)]!)} for 95 of 100; kept after ${Math.round(median(kept))} ms in the median, ${Math.round([...kept].sort((a, b) => a - b)[Math.floor(kept.length * 0.95)]!)} for 95 of 100`,
  ]);
} finally {
  await server.stop();
}
process.exit(0);
