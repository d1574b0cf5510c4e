import type { AcceptedChange } from '@plinket/contract';

type Listener = (change: AcceptedChange) => void;

/** Tells whoever has a document open of every change that was accepted, in this process. */
export class Live {
  private readonly listeners = new Map<string, Set<Listener>>();

  /** @returns what ends the listening */
  listen(id: string, listener: Listener): () => void {
    const all = this.listeners.get(id) ?? new Set();
    this.listeners.set(id, all.add(listener));
    return () => {
      all.delete(listener);
      if (all.size === 0) this.listeners.delete(id);
    };
  }

  /** Which documents somebody has open. */
  open(): string[] {
    return [...this.listeners.keys()];
  }

  tell(id: string, change: AcceptedChange): void {
    for (const listener of this.listeners.get(id) ?? []) listener(change);
  }
}
