import type { LabEvent } from '@plinket/contract';

/** At most so often those who look on are told of one job, ms. */
const REST_MS = 250;

type Listener = (event: LabEvent) => void;

/** Tells those who look at the Lab what has changed: not what it is now, for that they ask. */
export class LabTold {
  private readonly listeners = new Set<Listener>();
  private readonly waiting = new Map<string, NodeJS.Timeout>();

  listen(listener: Listener): () => void {
    this.listeners.add(listener);
    return () => void this.listeners.delete(listener);
  }

  job(id: string): void {
    this.soon(id, { job: id });
  }

  nodes(): void {
    this.soon('nodes', { nodes: true });
  }

  private soon(key: string, event: LabEvent): void {
    if (this.waiting.has(key) || this.listeners.size === 0) return;
    const timer = setTimeout(() => {
      this.waiting.delete(key);
      for (const listener of this.listeners) listener(event);
    }, REST_MS);
    timer.unref();
    this.waiting.set(key, timer);
  }
}
