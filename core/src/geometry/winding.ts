import { piecesOf } from './pieces.ts';
import { weldedIds } from './weld.ts';

/** Six times the signed volume (divergence theorem) of a triangle's pyramid over a point. */
function pyramid(p: Float32Array, indices: Uint32Array, t: number, x: number, y: number, z: number): number {
  const a = indices[t]! * 3,
    b = indices[t + 1]! * 3,
    c = indices[t + 2]! * 3;
  const ax = p[a]! - x,
    ay = p[a + 1]! - y,
    az = p[a + 2]! - z,
    bx = p[b]! - x,
    by = p[b + 1]! - y,
    bz = p[b + 2]! - z,
    cx = p[c]! - x,
    cy = p[c + 1]! - y,
    cz = p[c + 2]! - z;
  return ax * (by * cz - bz * cy) + ay * (bz * cx - bx * cz) + az * (bx * cy - by * cx);
}

/** Most of its edges that may be open, and most that its openings may be of what there is. */
const OPEN = 0.05,
  MOUTH = 0.3;

/** How much would close a surface, of its own area: nothing of what is closed, all of a sheet. */
function mouthOf(p: Float32Array, indices: Uint32Array): number {
  const sum = [0, 0, 0];
  let area = 0;
  for (let t = 0; t < indices.length; t += 3) {
    const [a, b, c] = [indices[t]! * 3, indices[t + 1]! * 3, indices[t + 2]! * 3] as const;
    const ux = p[b]! - p[a]!,
      uy = p[b + 1]! - p[a + 1]!,
      uz = p[b + 2]! - p[a + 2]!,
      vx = p[c]! - p[a]!,
      vy = p[c + 1]! - p[a + 1]!,
      vz = p[c + 2]! - p[a + 2]!;
    const [x, y, z] = [uy * vz - uz * vy, uz * vx - ux * vz, ux * vy - uy * vx] as const;
    sum[0]! += x;
    sum[1]! += y;
    sum[2]! += z;
    area += Math.hypot(x, y, z);
  }
  return Math.hypot(...sum) / area;
}

/**
 * Whether a closed surface is inside out: its signed volume is negative. A piece with an opening, as a glove has, is measured from the middle of that:
 * what would close it adds nothing there. Of a surface of which more than a twentieth of the edges are open, or that is more of a dish, nothing is said.
 */
export function insideOut(positions: Float32Array, indices: Uint32Array): boolean {
  const count = positions.length / 3;
  const middle = [0, 0, 0];
  for (let i = 0; i < positions.length; i++) middle[i % 3]! += positions[i]! / count;
  let volume = 0;
  for (let t = 0; t < indices.length; t += 3) volume += pyramid(positions, indices, t, middle[0]!, middle[1]!, middle[2]!);
  // most are not, and need not be looked at any closer
  if (!(volume < 0) || mouthOf(positions, indices) > MOUTH) return false;
  const place = weldedIds(positions),
    edges = new Map<number, number>();
  const pieceOf = piecesOf(indices, place);
  for (let t = 0; t < indices.length; t += 3)
    for (let k = 0; k < 3; k++) {
      const p = place[indices[t + k]!]!,
        q = place[indices[t + ((k + 1) % 3)]!]!;
      const key = p < q ? p * count + q : q * count + p;
      edges.set(key, (edges.get(key) ?? 0) + 1);
    }
  let open = 0;
  /** Sum of x y z of the ends of a piece's open edges, and how many there are. */
  const openings = new Map<number, [number, number, number, number]>();
  for (const [key, n] of edges) {
    if (n !== 1) continue;
    open++;
    for (const v of [Math.floor(key / count), key % count]) {
      const sum = openings.get(pieceOf(v)) ?? [0, 0, 0, 0];
      for (let k = 0; k < 3; k++) sum[k]! += positions[v * 3 + k]!;
      sum[3]++;
      openings.set(pieceOf(v), sum);
    }
  }
  if (open / edges.size > OPEN) return false;
  let whole = 0;
  for (let t = 0; t < indices.length; t += 3) {
    const [x, y, z, n] = openings.get(pieceOf(place[indices[t]!]!)) ?? [0, 0, 0, 1];
    whole += pyramid(positions, indices, t, x / n, y / n, z / n);
  }
  return whole < 0;
}

/** Turns all triangles round, in place. */
export function flipWinding(indices: Uint32Array): void {
  for (let i = 0; i + 2 < indices.length; i += 3) [indices[i + 1], indices[i + 2]] = [indices[i + 2]!, indices[i + 1]!];
}
