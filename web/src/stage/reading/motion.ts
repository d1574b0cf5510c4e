// Where a pattern breaks over a motion.
import type { Pattern } from '@plinket/core';
import type { MomentReport } from '../../engine/messages.ts';

export interface Break {
  /** Seconds of the first moment that shows something else. */
  time: number;
  from: Pattern | undefined;
  to: Pattern | undefined;
}

/** Moments at which another pattern is shown than before. */
export const breaksOf = (moments: readonly MomentReport[]): Break[] =>
  moments.flatMap((m, i) => {
    const before = moments[i - 1];
    return before && before.pattern !== m.pattern ? [{ time: m.time, from: before.pattern, to: m.pattern }] : [];
  });
