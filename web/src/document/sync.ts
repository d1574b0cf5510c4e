import {
  applyPatch,
  conflictsOf,
  diff,
  isEmptyPatch,
  rebased,
  valueAt,
  type Conflict,
  SCHEMA_VERSION,
  setupSchema,
  type Patch,
  type Setup,
} from '@plinket/core';
import type { AcceptedChange, SetupRecord } from '@plinket/contract';
import { ApiProblem, Unreachable } from '../api/client.ts';

/**
 * How saving goes: nothing to save; a quiet moment before sending; on its way; not taken yet, and sent again until it is; refused for
 * good, said, and dropped.
 */
export type SyncState = 'idle' | 'waiting' | 'sending' | 'offline' | 'refused';

/** Which state may follow which. Anything else is a mistake of ours. */
export const TRANSITIONS: { readonly [from in SyncState]: readonly SyncState[] } = {
  idle: ['waiting'],
  waiting: ['sending'],
  sending: ['idle', 'waiting', 'offline', 'refused'],
  offline: ['sending'],
  refused: ['waiting'],
};

/** A change on its way: sent again under the same id, the server takes it once. */
export interface Outgoing {
  id: string;
  revision: number;
  patch: Patch;
}

/** What is not known to be saved: changes whose answer never came, and what was done since. */
export interface Unsent {
  /** Version of the documents that these changes were made for. */
  version: number;
  sending: Outgoing[];
  patch: Patch;
}

/** What the saver needs from outside; tests give their own. */
export interface SyncPorts {
  send(change: Outgoing): Promise<SetupRecord>;
  /** The document as the server has it, where changes were missed. */
  fetch(): Promise<SetupRecord>;
  /** What is not yet saved, kept where a reload finds it. */
  keep(unsent: Unsent | undefined): void;
  onState(state: SyncState, reason?: string): void;
  /** The document as it is once the server's newer one and what is not yet sent are put together. */
  onRebased(setup: Setup): void;
  /** What others changed at the same time as what is not saved yet, each to something else; this page's own is put over it. `base`: what both were made for. */
  onConflict(conflicts: Conflict[], base: Setup, by: string | undefined): void;
  /** A change that the server will never take; it is dropped and the server's document shown. */
  onRefused(message: string): void;
  newId(): string;
  /** Calls back after a while, unless what it answers is called before. */
  after(ms: number, then: () => void): () => void;
}

const QUIET_MS = 350;
const RETRY_MS = [1000, 2000, 3000, 5000];
/** Who was overtaken tries again at once, but not all at the same moment, ms. */
const STAGGER_MS = 60;
/** Only these say that the change itself is wrong, or not for one to make; whatever else goes wrong, it can be sent again. */
const REFUSALS = new Set([400, 403, 413, 422]);

const refusal = (error: unknown): boolean => error instanceof ApiProblem && REFUSALS.has(error.problem.status);
function newer(error: unknown): { revision: number; document: Setup } | undefined {
  const current = error instanceof ApiProblem && error.problem.status === 412 ? error.problem.current : undefined;
  const document = setupSchema.safeParse(current?.document);
  return current && document.success ? { revision: current.revision, document: document.data } : undefined;
}

/**
 * Saves changes in order, one request at a time. Changes made meanwhile are joined. A stale revision is rebased on the
 * newer document; what could not be taken is sent again, under the same id, until it is.
 */
export class Sync {
  revision: number;
  private base: Setup;
  private begun: Outgoing[];
  private unsent: Patch;
  private state: SyncState = 'idle';
  private failures = 0;
  private cancel: () => void = () => undefined;
  private stopped = false;
  private waiters: (() => void)[] = [];
  private readonly ports: SyncPorts;

  /** @param left what earlier visits did not get saved; `resume` sends it */
  constructor(record: SetupRecord, ports: SyncPorts, left: Unsent[] = []) {
    this.revision = record.revision;
    this.base = record.document;
    this.ports = ports;
    this.begun = left.flatMap((l) => l.sending);
    this.unsent = diff(
      this.given(),
      left.reduce((document, { patch }) => applyPatch(document, patch), this.given()),
    );
  }

  /** The document with everything that was done to it, saved or not. */
  document(): Setup {
    return applyPatch(this.given(), this.unsent);
  }

  /** Sends what an earlier visit left. */
  resume(): void {
    if (this.outstanding()) this.changed();
  }

  /** Notes a change to be saved. */
  add(patch: Patch): void {
    if (isEmptyPatch(patch)) return;
    // found by comparing documents: patches alone cannot say that a thing was taken away and another put in its place
    this.unsent = diff(this.given(), applyPatch(this.document(), patch));
    this.changed();
  }

  /** Tries at once what would be tried in a while: the network is back. */
  nudge(): void {
    if (this.state === 'offline') this.fire();
  }

  /** Resolves when everything is saved or refused, or the saver was stopped. */
  settled(): Promise<void> {
    return new Promise((resolve) => {
      this.waiters.push(resolve);
      this.tellWaiters();
    });
  }

  stop(): void {
    this.stopped = true;
    this.cancel();
    this.tellWaiters();
  }

  /** The document that the server has once what is on its way has come. */
  private given(): Setup {
    return this.begun.reduce((document, { patch }) => applyPatch(document, patch), this.base);
  }

  private outstanding(): Unsent | undefined {
    return this.begun.length || !isEmptyPatch(this.unsent)
      ? { version: SCHEMA_VERSION, sending: this.begun, patch: this.unsent }
      : undefined;
  }

  private changed(): void {
    this.ports.keep(this.outstanding());
    if (this.state === 'idle' || this.state === 'refused') this.wait(QUIET_MS);
  }

  private go(to: SyncState, reason?: string): void {
    if (!TRANSITIONS[this.state].includes(to)) throw new Error(`Saving cannot go from ${this.state} to ${to}.`);
    this.state = to;
    this.ports.onState(to, reason);
    this.tellWaiters();
  }

  private tellWaiters(): void {
    if (!this.stopped && this.state !== 'idle' && this.state !== 'refused') return;
    for (const tell of this.waiters.splice(0)) tell();
  }

  private wait(ms: number): void {
    this.go('waiting');
    this.later(ms);
  }

  private later(ms: number): void {
    this.cancel();
    if (!this.stopped) this.cancel = this.ports.after(ms, () => this.fire());
  }

  private fire(): void {
    this.cancel();
    if (this.stopped) return;
    if (!this.begun.length) {
      this.begun = [{ id: this.ports.newId(), revision: this.revision, patch: this.unsent }];
      this.unsent = {};
      // before it is sent: a reload must find it under its id
      this.ports.keep(this.outstanding());
    }
    this.go('sending');
    const change = this.begun[0]!;
    this.ports.send(change).then(
      (record) => this.accepted(change, record),
      (error: unknown) => this.failed(change, error),
    );
  }

  /**
   * Another's change was accepted, or the page's own whose answer is still on its way. Where some were missed the whole document is
   * asked for.
   */
  hear({ revision, request, by, patch }: AcceptedChange): void {
    if (this.stopped || revision <= this.revision) return;
    if (revision > this.revision + 1) {
      this.ports.fetch().then(
        (record) => this.hearWhole(record),
        // the next change that is heard, or sent, tries again
        () => undefined,
      );
      return;
    }
    this.moved(() => {
      const document = applyPatch(this.base, patch);
      if (request !== undefined && request === this.begun[0]?.id) this.begun.shift();
      else this.compare(document, by);
      this.settle(revision, document);
    });
  }

  private hearWhole(record: SetupRecord): void {
    if (this.stopped || record.revision <= this.revision) return;
    this.moved(() => {
      this.compare(record.document);
      this.settle(record.revision, record.document);
    });
  }

  private accepted(change: Outgoing, record: SetupRecord): void {
    this.failures = 0;
    this.moved(() => {
      // it may have been heard already
      if (this.begun[0]?.id === change.id) this.begun.shift();
      // the answer to a change that was taken long ago may be older than what is known
      if (record.revision >= this.revision) this.settle(record.revision, record.document);
    });
    this.next('idle');
  }

  private failed(change: Outgoing, error: unknown): void {
    // taken, whatever became of its answer: it was heard
    if (this.begun[0]?.id !== change.id) return this.next('idle');
    const current = newer(error);
    if (current) this.overtaken(current);
    else if (refusal(error)) this.refused(error as ApiProblem);
    else this.notTaken(error);
  }

  private overtaken(current: { revision: number; document: Setup }): void {
    this.failures = 0;
    this.moved(() => {
      this.compare(current.document);
      this.settle(current.revision, current.document);
      // it was not taken under its id, and what it means now is another change
      const { patch } = this.begun[0]!;
      this.begun[0] = { id: this.ports.newId(), revision: this.revision, patch };
      if (isEmptyPatch(patch)) this.begun.shift();
    });
    if (this.stopped) return;
    if (!this.outstanding()) return this.go('idle');
    this.go('waiting');
    this.later(Math.random() * STAGGER_MS);
  }

  private refused(problem: ApiProblem): void {
    this.failures = 0;
    this.moved(() => this.begun.shift());
    if (this.stopped) return;
    this.ports.onRefused(problem.message);
    this.next('refused', problem.message);
  }

  private notTaken(error: unknown): void {
    this.failures++;
    if (this.stopped) return;
    const wait = RETRY_MS[Math.min(this.failures, RETRY_MS.length) - 1]!;
    this.go('offline', error instanceof Error ? error.message : String(error));
    this.later(Math.max(wait, error instanceof Unreachable ? (error.retryAfter ?? 0) * 1000 : 0));
  }

  /** Finds what is at odds between what is not saved yet and what others have done. */
  private compare(document: Setup, by?: string): void {
    const given = this.given();
    const found = conflictsOf(this.base, diff(this.base, this.document()), diff(this.base, document))
      // what stands there may be this page's own, taken already though its answer is not there
      .filter((c) => JSON.stringify(valueAt(given, c.path)) !== JSON.stringify(c.theirs));
    if (found.length && !this.stopped) this.ports.onConflict(found, this.base, by);
  }

  /** What the server has is known anew; what is not saved yet means what it still can. */
  private settle(revision: number, document: Setup): void {
    if (revision < this.revision) return;
    this.revision = revision;
    this.base = document;
    let given = document;
    this.begun = this.begun.map((b) => {
      const patch = rebased(b.patch, given);
      given = applyPatch(given, patch);
      return { ...b, patch };
    });
    this.unsent = rebased(this.unsent, given);
  }

  /** Does what may change the document under the page's hands, and tells the page if it did. */
  private moved(change: () => void): void {
    const before = this.document();
    change();
    this.ports.keep(this.outstanding());
    const after = this.document();
    if (!this.stopped && !isEmptyPatch(diff(before, after))) this.ports.onRebased(after);
  }

  private next(done: 'idle' | 'refused', reason?: string): void {
    if (this.stopped) return;
    if (this.outstanding()) this.wait(this.begun.length ? 0 : QUIET_MS);
    else this.go(done, reason);
  }
}
