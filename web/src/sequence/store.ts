// The sequence that is open: what is said of it, what is not sent yet, and the way back. What others do is put under what is not sent.
import type { AcceptedChange, SequenceRecord } from '@plinket/contract';
import { applyPatch, diff, invertPatch, isEmptyPatch, sequenceSchema, shotSchema, type Patch, type Sequence } from '@plinket/core';
import { createStore } from 'zustand/vanilla';
import { ApiProblem, Unreachable } from '../api/client.ts';

/** Most steps that can be taken back. */
const STEPS = 100;
/** So long until a server that does not answer is asked again, ms. */
const AGAIN_MS = 2000;

interface Step {
  words: string;
  patch: Patch;
}
export interface SequenceState {
  document: Sequence;
  undo: readonly Step[];
  redo: readonly Step[];
  /** Whether something is not kept yet; `offline`: the server did not answer, and is asked again. */
  save: 'idle' | 'sending' | 'offline';
}

/** What the store needs from outside; tests give their own. */
export interface SequencePorts {
  /** @throws ApiProblem of status 412 where the revision is stale */
  send(change: { id: string; revision: number; patch: Patch }): Promise<SequenceRecord>;
  newId(): string;
  fetch(): Promise<SequenceRecord>;
  /** A change that the server does not take; it is dropped. */
  onRefused(reason: string): void;
  after(ms: number, then: () => void): () => void;
}

/** What a change still means where others took shots out: a part of a shot is none. */
function fitting(patch: Patch, { shots }: Sequence): Patch {
  const items = (patch['shots'] as Patch | undefined)?.['items'] as Patch | undefined;
  if (!items) return patch;
  const kept = Object.entries(items).filter(([id, to]) => to === null || shots.items[id] || shotSchema.safeParse(to).success);
  return { ...patch, shots: { items: Object.fromEntries(kept) } };
}

export class SequenceStore {
  readonly state;
  private server: SequenceRecord;
  private readonly ports: SequencePorts;
  /** What is on its way, under its id: the document that it makes. */
  private going: { id: string; sent: Sequence } | undefined;
  private stopped = false;
  private cancel: () => void = () => undefined;

  constructor(record: SequenceRecord, ports: SequencePorts) {
    this.server = record;
    this.ports = ports;
    this.state = createStore<SequenceState>(() => ({ document: record.document, undo: [], redo: [], save: 'idle' }));
  }

  get revision(): number {
    return this.server.revision;
  }

  /** Changes the sequence: one step that can be taken back. */
  change(patch: Patch, words: string): void {
    const { document, undo } = this.state.getState();
    const next = applyPatch(document, patch);
    if (isEmptyPatch(diff(document, next))) return;
    const back: Step = { words, patch: invertPatch(document, patch) };
    this.state.setState({ document: next, undo: [...undo, back].slice(-STEPS), redo: [] });
    void this.send();
  }

  undo(): void {
    this.step('undo', 'redo');
  }
  redo(): void {
    this.step('redo', 'undo');
  }

  /** A change that was accepted, another's or one's own whose answer is on its way: what is not sent yet stands over it. Where some were missed all is asked for. */
  hear({ revision, request, patch }: AcceptedChange): void {
    if (this.stopped || revision <= this.server.revision) return;
    if (revision === this.server.revision + 1) {
      const record = { ...this.server, revision, document: applyPatch(this.server.document, patch) };
      // one's own may have been taken back since it was sent: what is not sent yet was made over it
      this.rebase(record, this.going && request === this.going.id ? this.going.sent : this.server.document);
    } else if (!this.going)
      // what is on its way brings all that was missed with its answer
      this.ports.fetch().then(
        (record) => this.know(record),
        // the next change that is heard, or sent, tries again
        () => undefined,
      );
  }

  /** The sequence as the server has it now. */
  know(record: SequenceRecord): void {
    if (!this.stopped && record.revision > this.server.revision) this.rebase(record, this.server.document);
  }

  /** Nothing is sent any more, and nobody is told. */
  stop(): void {
    this.stopped = true;
    this.cancel();
  }

  private step(from: 'undo' | 'redo', to: 'undo' | 'redo'): void {
    const now = this.state.getState(),
      last = now[from].at(-1);
    if (!last) return;
    const patch = fitting(last.patch, now.document);
    this.state.setState({
      document: applyPatch(now.document, patch),
      [from]: now[from].slice(0, -1),
      [to]: [...now[to], { words: last.words, patch: invertPatch(now.document, patch) }],
    });
    void this.send();
  }

  /** @param known the document that what is not sent was made over */
  private rebase(record: SequenceRecord, known: Sequence): void {
    const { document } = this.state.getState();
    const mine = fitting(diff(known, document), record.document);
    this.server = record;
    this.state.setState({ document: applyPatch(record.document, mine) });
  }

  /** What the server says of its own when it refuses a change that came too late. */
  private newer(error: unknown): SequenceRecord | undefined {
    const current = error instanceof ApiProblem ? error.problem.current : undefined,
      document = sequenceSchema.safeParse(current?.document);
    return current && document.success ? { ...this.server, revision: current.revision, document: document.data } : undefined;
  }

  private async send(): Promise<void> {
    if (this.going || this.stopped) return;
    const sent = this.state.getState().document,
      patch = diff(this.server.document, sent);
    if (isEmptyPatch(patch)) return this.state.setState({ save: 'idle' });
    const id = this.ports.newId();
    this.going = { id, sent };
    this.state.setState({ save: 'sending' });
    try {
      const record = await this.ports.send({ id, revision: this.server.revision, patch });
      // it may have been heard already, and others' after it
      if (record.revision > this.server.revision) this.rebase(record, sent);
    } catch (error) {
      if (this.stopped) return;
      if (error instanceof ApiProblem && error.problem.status !== 412) {
        this.state.setState({ document: this.server.document, undo: [], redo: [] });
        this.ports.onRefused(error.message);
      } else {
        const newer = error instanceof Unreachable ? undefined : (this.newer(error) ?? (await this.ports.fetch().catch(() => undefined)));
        if (newer) this.know(newer);
        else {
          this.going = undefined;
          this.state.setState({ save: 'offline' });
          this.cancel = this.ports.after(AGAIN_MS, () => void this.send());
          return;
        }
      }
    }
    this.going = undefined;
    return this.send();
  }
}
