import type { Part } from '../scene/index.ts';
import type { HeadFrame } from '../setup/index.ts';

/** Rows of the profile in one height of the rough head. */
const ROWS = 60;
/** Shares of the head's height; proportions of a face, common practice, no source: eyes half way down the head, 63 mm apart. */
const EYES_APART = 0.27,
  LEAST_NOSE = 0.025;

/** Foremost z by row within a strip that runs down the middle of the face; −∞ where nothing is. */
function profileOf(parts: Part[], middle: number, half: number, top: number, step: number, rows: number): Float64Array {
  const front = new Float64Array(rows).fill(-Infinity);
  for (const { positions, indices } of parts)
    for (let t = 0; t < indices.length; t += 3) {
      // of a large triangle its edges are followed too, so that coarse faces leave no gaps
      for (let k = 0; k < 3; k++) {
        const a = indices[t + k]! * 3,
          b = indices[t + ((k + 1) % 3)]! * 3;
        const x = positions[a]!,
          y = positions[a + 1]!,
          z = positions[a + 2]!,
          dx = positions[b]! - x,
          dy = positions[b + 1]! - y,
          dz = positions[b + 2]! - z;
        const steps = Math.min(24, 1 + Math.floor(Math.abs(dy) / step));
        for (let s = 0; s < steps; s++) {
          const f = s / steps;
          if (Math.abs(x + dx * f - middle) > half) continue;
          const row = Math.floor((top - y - dy * f) / step),
            out = z + dz * f;
          if (row >= 0 && row < rows && out > front[row]!) front[row] = out;
        }
      }
    }
  return front;
}

/**
 * A head from the shape of the face, facing +Z, of a mesh that names no landmarks: the nose is what reaches out most before what
 * lies above and below it; the eyes lie level with the dip over its bridge; the chin is where the profile falls back to the
 * throat. Nothing where there is no such nose. To be confirmed or corrected by hand.
 * @param rough where the head may be, as the bounding box tells
 */
export function proposeFace(parts: Part[], rough: HeadFrame, top: number): HeadFrame | undefined {
  const H = rough.height,
    step = H / ROWS,
    rows = Math.ceil(1.7 * ROWS);
  const middle = middleOf(parts, top - 0.7 * H, top);
  const front = profileOf(parts, middle, 0.05 * H, top, step, rows);
  const z = (row: number): number => front[Math.min(rows - 1, Math.max(0, Math.round(row)))]!;
  let nose = -1,
    most = LEAST_NOSE * H;
  const up = Math.round(0.17 * ROWS),
    down = Math.round(0.1 * ROWS);
  for (let row = Math.round(0.3 * ROWS); row < rows - Math.round(0.35 * ROWS); row++) {
    const out = z(row) - Math.max(z(row - up), z(row + down));
    // where the strip down the middle is empty nothing is known of a nose
    if (Number.isFinite(out) && out > most) {
      most = out;
      nose = row;
    }
  }
  if (nose < 0) return undefined;
  // the bridge's dip: from the tip upwards as long as the profile falls back, and not into the hair
  let bridge = nose;
  for (let row = nose - 1; row > nose - 0.34 * ROWS && row >= 0; row--) {
    if (!Number.isFinite(z(row))) break;
    if (z(row) < z(bridge)) bridge = row;
    else if (z(row) > z(bridge) + 0.012 * H) break;
  }
  // the chin: the steepest fall below the mouth
  let chin = -1,
    fall = 0;
  for (let row = nose + Math.round(0.16 * ROWS); row < Math.min(rows - 3, nose + 0.75 * ROWS); row++) {
    const drop = z(row) - z(row + 3);
    if (Number.isFinite(drop) && drop > fall) {
      fall = drop;
      chin = row + 1;
    }
  }
  if (chin < 0 || bridge === nose) return undefined;
  const yOf = (row: number): number => top - (row + 0.5) * step;
  const eyes = yOf(bridge) - 0.015 * H,
    height = 2 * (eyes - yOf(chin));
  if (!(height > 0.4 * H && height < 2.2 * H)) return undefined;
  const aside = (EYES_APART / 2) * height;
  const deep = Math.max(foremost(parts, middle + aside, eyes, 0.03 * height), foremost(parts, middle - aside, eyes, 0.03 * height));
  return {
    origin: [middle, eyes, Number.isFinite(deep) ? deep : z(bridge) - 0.04 * height],
    forward: [0, 0, 1],
    up: [0, 1, 0],
    height,
    source: 'proposed',
  };
}

/** Half way between the leftmost and the rightmost of what lies between two heights. */
function middleOf(parts: Part[], from: number, to: number): number {
  let low = Infinity,
    high = -Infinity;
  for (const { positions } of parts)
    for (let i = 0; i < positions.length; i += 3) {
      if (positions[i + 1]! < from || positions[i + 1]! > to) continue;
      low = Math.min(low, positions[i]!);
      high = Math.max(high, positions[i]!);
    }
  return low <= high ? (low + high) / 2 : 0;
}

function foremost(parts: Part[], x: number, y: number, r: number): number {
  let z = -Infinity;
  for (const { positions } of parts)
    for (let i = 0; i < positions.length; i += 3)
      if (Math.abs(positions[i]! - x) < r && Math.abs(positions[i + 1]! - y) < r) z = Math.max(z, positions[i + 2]!);
  return z;
}
