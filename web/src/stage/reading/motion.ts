// The moments of a motion that are read, and where a pattern breaks over them.
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

/** Moments that a motion is read at, at most: as many as a strip of the column shows. */
export const MOMENTS = 33;

/** Times at which a stretch of a clip is read: every frame, or as many as there is room for, both ends among them. */
export function timesOf(from: number, to: number, fps: number): number[] {
  const frames = Math.max(1, Math.round((to - from) * fps)),
    n = Math.min(MOMENTS, frames + 1);
  return Array.from({ length: n }, (_, i) => Number((from + Math.round((i * frames) / (n - 1 || 1)) / fps).toFixed(5)));
}
