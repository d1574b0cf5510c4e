import { weldedIds } from './weld.ts';

/**
 * Whether a closed surface is inside out: its signed volume (divergence theorem) is negative. Of a surface with open edges, of which
 * more than a twentieth are, nothing is said.
 */
export function insideOut(positions: Float32Array, indices: Uint32Array): boolean {
  let volume = 0;
  for (let i = 0; i < indices.length; i += 3) {
    const [a, b, c] = [indices[i]! * 3, indices[i + 1]! * 3, indices[i + 2]! * 3] as const;
    volume +=
      positions[a]! * (positions[b + 1]! * positions[c + 2]! - positions[b + 2]! * positions[c + 1]!) +
      positions[a + 1]! * (positions[b + 2]! * positions[c]! - positions[b]! * positions[c + 2]!) +
      positions[a + 2]! * (positions[b]! * positions[c + 1]! - positions[b + 1]! * positions[c]!);
  }
  // most are not, and need not be looked at any closer
  if (!(volume < 0)) return false;
  const place = weldedIds(positions),
    count = positions.length / 3;
  const edges = new Map<number, number>();
  for (let i = 0; i < indices.length; i += 3)
    for (let k = 0; k < 3; k++) {
      const p = place[indices[i + k]!]!,
        q = place[indices[i + ((k + 1) % 3)]!]!;
      const key = p < q ? p * count + q : q * count + p;
      edges.set(key, (edges.get(key) ?? 0) + 1);
    }
  let open = 0;
  for (const n of edges.values()) if (n === 1) open++;
  return edges.size > 0 && open / edges.size <= 0.05;
}

/** Turns all triangles round, in place. */
export function flipWinding(indices: Uint32Array): void {
  for (let i = 0; i + 2 < indices.length; i += 3) [indices[i + 1], indices[i + 2]] = [indices[i + 2]!, indices[i + 1]!];
}
