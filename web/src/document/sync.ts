import { applyPatch, diff, isEmptyPatch, type Patch, type Setup } from '@plinket/core';
import type { SetupRecord } from '@plinket/contract';
import { ApiProblem, Unreachable } from '../api/client.ts';

export type SaveState = 'saved' | 'saving' | 'offline';

/** What the saver needs from outside; tests give their own. */
export interface SyncPorts {
  send(revision: number, patch: Patch): Promise<SetupRecord>;
  /** Unsent changes, kept where a reload finds them. */
  keep(patch: Patch | undefined): void;
  onState(state: SaveState, reason?: string): void;
  /** The document as it is once the server's newer one and what is not yet sent are put together. */
  onRebased(setup: Setup): void;
  /** A change that the server will never take; it is dropped and the server's document shown. */
  onRefused(message: string): void;
  wait(ms: number): Promise<void>;
}

const QUIET_MS = 350;
const RETRY_MS = [1000, 2000, 3000, 5000];

/**
 * Saves changes in order, one request at a time. Changes made meanwhile are joined. A stale revision is rebased on the
 * newer document; a server or database that does not answer is asked again until it does, and nothing is lost.
 */
export class Sync {
  revision: number;
  private base: Setup;
  private unsent: Patch = {};
  private sending: Patch | undefined;
  private running: Promise<void> | undefined;
  private stopped = false;
  private readonly ports: SyncPorts;

  constructor(record: SetupRecord, ports: SyncPorts) {
    this.revision = record.revision;
    this.base = record.document;
    this.ports = ports;
  }

  /** Notes a change to be saved. */
  add(patch: Patch): void {
    if (isEmptyPatch(patch)) return;
    this.unsent = this.joined(patch, this.sending);
    this.ports.keep(this.outstanding());
    this.ports.onState('saving');
    this.running ??= this.run().finally(() => (this.running = undefined));
  }

  /** Resolves when everything is saved, or the saver was stopped. */
  async settled(): Promise<void> {
    await this.running;
  }

  stop(): void {
    this.stopped = true;
  }

  /**
   * What is not yet sent and one more patch as one, for a server that has or will have `given`. Found by comparing documents:
   * patches alone cannot say that something was taken away and another thing put in its place.
   */
  private joined(patch: Patch, given: Patch | undefined): Patch {
    const there = given ? applyPatch(this.base, given) : this.base;
    return diff(there, applyPatch(applyPatch(there, this.unsent), patch));
  }

  private outstanding(): Patch | undefined {
    const all = this.sending ? diff(this.base, applyPatch(applyPatch(this.base, this.sending), this.unsent)) : this.unsent;
    return isEmptyPatch(all) ? undefined : all;
  }

  private async run(): Promise<void> {
    let failures = 0;
    while (!this.stopped && !isEmptyPatch(this.unsent)) {
      await this.ports.wait(failures ? RETRY_MS[Math.min(failures, RETRY_MS.length) - 1]! : QUIET_MS);
      if (this.stopped) return;
      this.sending = this.unsent;
      this.unsent = {};
      try {
        const record = await this.ports.send(this.revision, this.sending);
        failures = 0;
        this.accept(record.revision, record.document);
      } catch (error) {
        if (error instanceof Unreachable) {
          failures++;
          this.giveBack();
          this.ports.onState('offline', error.message);
        } else if (error instanceof ApiProblem && error.problem.current) this.rebase(error.problem.current);
        else this.refuse(error instanceof Error ? error.message : String(error));
      }
      this.ports.keep(this.outstanding());
    }
    if (!this.stopped) this.ports.onState('saved');
  }

  private accept(revision: number, document: Setup): void {
    this.revision = revision;
    this.base = document;
    this.sending = undefined;
  }

  private giveBack(): void {
    this.unsent = this.outstanding() ?? {};
    this.sending = undefined;
  }

  private rebase(current: { revision: number; document: Setup }): void {
    this.giveBack();
    this.revision = current.revision;
    this.base = current.document;
    this.ports.onRebased(applyPatch(this.base, this.unsent));
  }

  private refuse(message: string): void {
    this.sending = undefined;
    this.ports.onRebased(applyPatch(this.base, this.unsent));
    this.ports.onRefused(message);
  }
}
