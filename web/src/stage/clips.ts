/** Frames a second that clips are counted in: those of film. */
export const FPS = 24;

/** A range with one end moved, seconds; all of the clip is no range. */
export function rangeWith(range: [number, number], end: number, to: number, duration: number): [number, number] | null {
  const next = range.map((v, k) => Number((k === end ? to : v).toFixed(5))) as [number, number];
  return next[0] <= 0 && next[1] >= duration - 0.5 / FPS ? null : next;
}
