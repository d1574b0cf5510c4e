/**
 * Joins vertices that lie at the very same place, and drops triangles that lose a corner by it. Positions are compared bit by
 * bit, so that nothing is joined that a file tells apart.
 */
export function weld(positions: Float32Array, indices: Uint32Array): { positions: Float32Array; indices: Uint32Array } {
  const known = new Map<string, number>();
  const kept: number[] = [];
  const to = new Uint32Array(positions.length / 3);
  for (let v = 0; v < to.length; v++) {
    // −0 and 0 are one place
    const key = `${positions[v * 3]! + 0} ${positions[v * 3 + 1]! + 0} ${positions[v * 3 + 2]! + 0}`;
    let at = known.get(key);
    if (at === undefined) {
      at = kept.push(v) - 1;
      known.set(key, at);
    }
    to[v] = at;
  }
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
