// A server in memory and pages that save to it, for the tests of saving.
import type { SetupRecord } from '@plinket/contract';
import { applyPatch, type Patch, type Setup } from '@plinket/core';
import { panelLight, setupWith } from '../../../core/src/testing/setups.ts';
import { ApiProblem, Unreachable } from '../api/client.ts';
import { Sync, type Outgoing, type SyncPorts, type Unsent } from './sync.ts';

export const setup = setupWith({ key: panelLight(), rim: panelLight({ name: 'Rim' }) });
export const azimuth = (a: number): Patch => ({ lights: { items: { key: { place: { azimuth: a } } } } });

/** A server in memory that takes every id once, and can be told to fail before or after it took a change. */
export class Server {
  revision = 1;
  calls = 0;
  document: Setup = setup;
  /** What goes wrong next: before the change is taken, or its answer is lost. */
  trouble: ({ before: Error } | { lost: true })[] = [];
  private readonly taken = new Map<string, SetupRecord>();

  record(): SetupRecord {
    return { id: 'x', revision: this.revision, document: this.document, createdAt: '', updatedAt: '' };
  }
  change(patch: Patch): void {
    this.revision++;
    this.document = applyPatch(this.document, patch);
  }
  send = async ({ id, revision, patch }: Outgoing): Promise<SetupRecord> => {
    this.calls++;
    const trouble = this.trouble.shift();
    if (trouble && 'before' in trouble) throw trouble.before;
    const known = this.taken.get(id);
    if (!known && revision !== this.revision)
      throw new ApiProblem({ type: 't', title: 'stale', status: 412, current: { revision: this.revision, document: this.document } });
    if (!known) {
      this.change(patch);
      this.taken.set(id, this.record());
    }
    if (trouble) throw new Unreachable('The server does not answer.');
    return known ?? this.record();
  };
}

export const status = (code: number, more: object = {}): Error =>
  new ApiProblem({ type: 't', title: `Answer ${code}`, status: code, ...more });

/** Lets everything happen that waits for no clock. */
export async function settle(): Promise<void> {
  for (let i = 0; i < 10; i++) await Promise.resolve();
}

/** A page's saver whose clock stands until it is told to go on. */
export class Page {
  states: string[] = [];
  kept: Unsent | undefined;
  rebased: Setup | undefined;
  refused: string | undefined;
  conflicts: { path: string; mine: unknown; theirs: unknown; by: string | undefined }[] = [];
  waits: number[] = [];
  readonly sync: Sync;
  private timer: (() => void) | undefined;
  private static count = 0;

  constructor(server: Server, left: Unsent[] = [], record = server.record()) {
    const ports: SyncPorts = {
      send: server.send,
      fetch: async () => server.record(),
      // as a reload would find it
      keep: (unsent) => (this.kept = unsent && (JSON.parse(JSON.stringify(unsent)) as Unsent)),
      onState: (state, reason) => this.states.push(reason ? `${state}: ${reason}` : state),
      onRebased: (document) => (this.rebased = document),
      onConflict: (found, _base, by) => this.conflicts.push(...found.map((c) => ({ ...c, path: c.path.join('.'), by }))),
      onRefused: (message) => (this.refused = message),
      newId: () => `id-${Page.count++}`,
      after: (ms, then) => {
        this.waits.push(ms);
        this.timer = then;
        return () => (this.timer = undefined);
      },
    };
    this.sync = new Sync(record, ports, left);
    this.sync.resume();
  }
  /** Lets the clock run out once, and what follows from it happen. */
  async tick(): Promise<void> {
    const then = this.timer;
    this.timer = undefined;
    then?.();
    await settle();
  }
  /** Until nothing more is to be done. */
  async rest(): Promise<void> {
    for (let i = 0; i < 100 && this.timer; i++) await this.tick();
  }
  get state(): string {
    return this.states.at(-1)!;
  }
}

export const begun = () => {
  const server = new Server();
  return { server, page: new Page(server) };
};
