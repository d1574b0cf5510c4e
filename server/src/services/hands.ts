import type { Hand } from '@plinket/contract';

/** Hands that change at the same time are told together, ms. */
const TOGETHER = 40;

/** Who has which document open, and which lights each has in hand. Nothing of it is kept. */
export class Hands {
  /** By page. */
  private readonly hands = new Map<string, Hand>();
  /** By page: the stream that speaks for it. */
  private readonly streams = new Map<string, symbol>();
  private readonly listeners = new Set<() => void>();
  private waiting: NodeJS.Timeout | undefined;

  /** A page is there, as long as it listens. One that listens anew is there by its new stream only. @returns what says that it is gone */
  arrive(hand: Hand): () => void {
    const stream = Symbol(hand.client);
    this.streams.set(hand.client, stream);
    this.hands.set(hand.client, hand);
    this.tell();
    return () => {
      if (this.streams.get(hand.client) !== stream) return;
      this.streams.delete(hand.client);
      this.hands.delete(hand.client);
      this.tell();
    };
  }

  /** A page takes other lights in hand. One that does not listen is not there: nobody would notice when it leaves. */
  hold(hand: Hand): void {
    if (!this.hands.has(hand.client)) return;
    this.hands.set(hand.client, hand);
    this.tell();
  }

  /**
   * The others that a page, or a board, wants to see: those in the same document, and those in the same sequence.
   * @param document or the sequence itself, for its board
   */
  others(document: string, client?: string): Hand[] {
    const sequence = (client === undefined ? undefined : this.hands.get(client)?.sequence) ?? document;
    return [...this.hands.values()].filter((h) => h.client !== client && (h.document === document || h.sequence === sequence));
  }

  /** @returns what ends the listening */
  listen(listener: () => void): () => void {
    this.listeners.add(listener);
    return () => this.listeners.delete(listener);
  }

  private tell(): void {
    this.waiting ??= setTimeout(() => {
      this.waiting = undefined;
      for (const listener of this.listeners) listener();
    }, TOGETHER).unref();
  }
}
