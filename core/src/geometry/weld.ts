/** For each vertex the first one that lies at the very same place: positions are compared bit by bit, −0 and 0 are one. */
export function weldedIds(positions: Float32Array): Uint32Array {
  const known = new Map<string, number>();
  const ids = new Uint32Array(positions.length / 3);
  for (let v = 0; v < ids.length; v++) {
    const key = `${positions[v * 3]! + 0} ${positions[v * 3 + 1]! + 0} ${positions[v * 3 + 2]! + 0}`;
    const at = known.get(key);
    if (at === undefined) known.set(key, v);
    ids[v] = at ?? v;
  }
  return ids;
}

/**
 * Joins vertices that lie at the very same place, and drops triangles that lose a corner by it. Positions are compared bit by
 * bit, so that nothing is joined that a file tells apart.
 */
export function weld(positions: Float32Array, indices: Uint32Array): { positions: Float32Array; indices: Uint32Array } {
  const ids = weldedIds(positions);
  const kept: number[] = [];
  const to = new Uint32Array(ids.length);
  // the first vertex of a place comes before all others there
  ids.forEach((first, v) => (to[v] = first === v ? kept.push(v) - 1 : to[first]!));
  const out: number[] = [];
  for (let i = 0; i + 2 < indices.length; i += 3) {
    const a = to[indices[i]!]!,
      b = to[indices[i + 1]!]!,
      c = to[indices[i + 2]!]!;
    if (a !== b && b !== c && a !== c) out.push(a, b, c);
  }
  const joined = new Float32Array(kept.length * 3);
  kept.forEach((v, i) => joined.set(positions.subarray(v * 3, v * 3 + 3), i * 3));
  return { positions: joined, indices: Uint32Array.from(out) };
}
