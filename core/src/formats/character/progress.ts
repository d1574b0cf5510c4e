/** Hears how far reading has come, 0 to 1. */
export type Progress = (share: number) => void;

/** How many times at most a part of the work is told of. */
const TIMES = 40;

/**
 * A counter for a part of the work, from one share to another, that tells only when it is worth telling.
 * @param total steps that there are in all
 */
export function counter(progress: Progress | undefined, from: number, to: number, total: number): (steps: number) => void {
  if (!progress) return () => undefined;
  let done = 0,
    told = 0;
  return (steps) => {
    done += steps;
    const now = Math.floor((done / total) * TIMES);
    if (now <= told) return;
    told = now;
    progress(from + (to - from) * Math.min(1, done / total));
  };
}
