// Writers for the benches of the server: the page's own saver and client, without the page.
import type { SetupRecord } from '@plinket/contract';
import { api } from '../../web/src/api/client.ts';
import type { Sync } from '../../web/src/document/sync.ts';
import { savingTo } from './pages.ts';

/** Points the page's client, which asks its own origin, at a server. Answers how long each change took, ms. */
export function pointClientAt(url: () => string): number[] {
  const real = globalThis.fetch;
  const took: number[] = [];
  globalThis.fetch = async (path, init) => {
    const since = performance.now();
    try {
      return await real(`${url()}${String(path)}`, init);
    } finally {
      if (init?.method === 'PATCH') took.push(performance.now() - since);
    }
  };
  return took;
}

/** One page on a setup, changing the notes of one light that nobody else touches, again and again. */
export class Writer {
  /** Changes made, refused, and the ids under which they were sent. */
  made = 0;
  refused = 0;
  readonly sent = new Set<string>();
  private readonly light: string;
  private readonly setup: string;
  private readonly sync: Sync;
  private timer: NodeJS.Timeout | undefined;

  constructor(record: SetupRecord, light: string) {
    this.light = light;
    this.setup = record.id;
    this.sync = savingTo(record, {
      send: (change) => {
        this.sent.add(change.id);
        return api.patchSetup(record.id, change);
      },
      onRefused: () => this.refused++,
    });
  }

  /** Goes on changing, with pauses between `least` and twice that, ms, until `stop`. */
  begin(least: number): void {
    const next = (): void => {
      this.change();
      this.timer = setTimeout(next, least * (1 + Math.random()));
    };
    this.timer = setTimeout(next, least * Math.random());
  }

  change(): void {
    this.sync.add({ lights: { items: { [this.light]: { notes: `${++this.made}` } } } });
  }

  stop(): void {
    clearTimeout(this.timer);
  }

  /** Waits until all is saved, then counts the changes that the server does not have. */
  async lost(): Promise<number> {
    await this.sync.settled();
    const { document } = await api.setup(this.setup);
    const notes = document.lights.items[this.light]?.notes;
    return this.made - Number(notes ?? 0);
  }
}
