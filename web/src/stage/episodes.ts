/** Longest pause within one turn of a wheel, or between presses of one key that belong together, ms. */
const PAUSE = 900;

/**
 * Names gestures that have no end of their own, so that each is one step of undo: a wheel that is turned, a key that is pressed several
 * times. A drag names itself and lasts as long as the pointer is down, however slow; a key that is held is one, however long.
 */
export class Episodes {
  private kind = '';
  private at = -Infinity;
  private count = 0;

  /** @param held the key was never let go since it was last asked for */
  name(kind: string, now: number, held = false): string {
    if (kind !== this.kind || (!held && now - this.at > PAUSE)) this.count++;
    this.kind = kind;
    this.at = now;
    return `${kind}-${this.count}`;
  }
}
