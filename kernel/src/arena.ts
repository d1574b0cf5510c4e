/** A piece of an arena, in bytes. */
export interface Block {
  at: number;
  size: number;
}

/**
 * Hands out pieces of one growing memory and takes them back. Pieces that were given back and lie side by side become one, so that
 * sizes that never come again (a window that is being drawn larger) leave no memory behind that nobody can use.
 */
export class Arena {
  /** End of all that was ever handed out and not given back, bytes. */
  top: number;
  private readonly align: number;
  /** What lies free below `top`, by address, never side by side. */
  private readonly holes: Block[] = [];

  constructor(start: number, align: number) {
    this.align = align;
    this.top = Math.ceil(start / align) * align;
  }

  /** A piece of at least so many bytes: the smallest hole that holds it, else new room at the end. */
  take(bytes: number): Block {
    const size = Math.max(1, Math.ceil(bytes / this.align)) * this.align;
    let best = -1;
    this.holes.forEach((hole, i) => {
      if (hole.size >= size && (best < 0 || hole.size < this.holes[best]!.size)) best = i;
    });
    if (best < 0) {
      this.top += size;
      return { at: this.top - size, size };
    }
    const hole = this.holes[best]!;
    const at = hole.at;
    hole.at += size;
    hole.size -= size;
    if (hole.size === 0) this.holes.splice(best, 1);
    return { at, size };
  }

  /** Takes a piece back. */
  give({ at, size }: Block): void {
    const after = this.holes.findIndex((hole) => hole.at > at);
    const i = after < 0 ? this.holes.length : after;
    this.holes.splice(i, 0, { at, size });
    this.join(i);
    this.join(i - 1);
    const last = this.holes.at(-1);
    if (last && last.at + last.size === this.top) {
      this.top = last.at;
      this.holes.pop();
    }
  }

  /** Makes one of hole `i` and the next where they touch. */
  private join(i: number): void {
    const a = this.holes[i],
      b = this.holes[i + 1];
    if (!a || !b || a.at + a.size !== b.at) return;
    a.size += b.size;
    this.holes.splice(i + 1, 1);
  }
}
