// How sure a proposed head is: what of a face its mesh shows.
import type { Part } from '../scene/index.ts';
import type { HeadFrame } from '../setup/index.ts';

/** Cells of the front of a head, each way. */
const CELLS = 24;
/** Half the width that is looked at, in heights of the head. */
const HALF = 0.36;
/** Sizes of a face in heights of the head; common practice, no source: how far its halves may differ, how far the nose reaches out, how deep eyes lie. */
const APART = 0.06,
  NOSE = [0.01, 0.05] as const,
  SOCKET = [-0.01, 0.02] as const;

/** Where between two sizes one lies, 0 … 1; 0 of what is not known. */
const between = (v: number, [low, high]: readonly [number, number]): number =>
  v > low && Number.isFinite(v) ? Math.min(1, (v - low) / (high - low)) : 0;

/** Foremost along the head's forward direction by row (from the crown) and column; −∞ where nothing is. */
function frontOf(parts: Part[], { origin, forward, up, height }: HeadFrame): Float64Array {
  const front = new Float64Array(CELLS * CELLS).fill(-Infinity);
  const side = [up[1] * forward[2] - up[2] * forward[1], up[2] * forward[0] - up[0] * forward[2], up[0] * forward[1] - up[1] * forward[0]];
  for (const { positions } of parts)
    for (let i = 0; i < positions.length; i += 3) {
      const x = positions[i]! - origin[0],
        y = positions[i + 1]! - origin[1],
        z = positions[i + 2]! - origin[2];
      const a = (x * side[0]! + y * side[1]! + z * side[2]!) / height,
        b = (x * up[0] + y * up[1] + z * up[2]) / height;
      const column = Math.floor(((a + HALF) / (2 * HALF)) * CELLS),
        row = Math.floor((0.5 - b) * CELLS);
      if (column < 0 || column >= CELLS || row < 0 || row >= CELLS) continue;
      const out = (x * forward[0] + y * forward[1] + z * forward[2]) / height,
        at = row * CELLS + column;
      if (out > front[at]!) front[at] = out;
    }
  return front;
}

/** Foremost of some cells. */
function foremostOf(front: Float64Array, rows: [number, number], columns: [number, number]): number {
  let most = -Infinity;
  for (let r = Math.floor(rows[0] * CELLS); r < rows[1] * CELLS; r++)
    for (let c = Math.floor(columns[0] * CELLS); c < columns[1] * CELLS; c++) most = Math.max(most, front[r * CELLS + c]!);
  return most;
}

/**
 * How sure a head is that was proposed from a mesh, 0 … 1: whether its two halves are alike, a nose reaches out between them, eyes lie deeper than the
 * bridge, and there is a face at all where one should be. A measure of ours, tried on the demo's heads and on what has none.
 */
export function sureOfHead(parts: Part[], head: HeadFrame): number {
  const front = frontOf(parts, head);
  let known = 0,
    apart = 0,
    asked = 0;
  for (let r = 4; r < CELLS - 3; r++)
    for (let c = 4; c < CELLS / 2; c++) {
      asked++;
      const left = front[r * CELLS + c]!,
        right = front[r * CELLS + CELLS - 1 - c]!;
      if (!Number.isFinite(left) || !Number.isFinite(right)) continue;
      known++;
      apart += Math.min(APART, Math.abs(left - right));
    }
  if (known === 0) return 0;
  const middle: [number, number] = [0.45, 0.55];
  // eyes lie half way down
  const nose = foremostOf(front, [0.58, 0.78], middle),
    cheeks = (foremostOf(front, [0.58, 0.78], [0.2, 0.32]) + foremostOf(front, [0.58, 0.78], [0.68, 0.8])) / 2,
    bridge = foremostOf(front, [0.4, 0.52], middle),
    eyes = Math.max(foremostOf(front, [0.46, 0.54], [0.27, 0.38]), foremostOf(front, [0.46, 0.54], [0.62, 0.73]));
  const alike = 1 - apart / known / APART,
    there = Math.min(1, known / asked / 0.6),
    reaches = between(nose - Math.max(cheeks, bridge), NOSE),
    deep = between(bridge - eyes, SOCKET);
  return alike * there * Math.sqrt(reaches * deep);
}
