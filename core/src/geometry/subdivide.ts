import { weldedIds } from './weld.ts';

/** A mesh after one step of subdivision; each vertex is the mean of two old ones (an old one is twice itself). */
export interface Subdivided {
  positions: Float32Array;
  indices: Uint32Array;
  /** Pairs of old vertices, for what else hangs at vertices. */
  parents: Uint32Array;
  /** What else was to be smoothed as positions are. */
  others: Float32Array[];
}

/** Weight of each neighbour of an inner vertex with n of them (J. Warren's choice for C. Loop's scheme; Zorin, Schröder 2000, p. 47). */
export const loopBeta = (n: number): number => (n === 3 ? 3 / 16 : 3 / (8 * n));

/** An old vertex and how much it counts. */
type Term = [vertex: number, weight: number];

/**
 * One step of Loop subdivision (C. Loop 1987, "Smooth Subdivision Surfaces Based on Triangles"; borders after Hoppe et al. 1994):
 * every triangle becomes four. Topology goes by position, so that seams of textures stay closed. The scheme is linear, so that
 * displacements (x y z of each vertex) in `others` are smoothed by the same weights.
 */
export function loopSubdivide(positions: Float32Array, indices: Uint32Array, others: readonly Float32Array[] = []): Subdivided {
  const place = weldedIds(positions),
    count = positions.length / 3;
  const neighbours = new Map<number, Set<number>>();
  const near = (p: number): Set<number> => {
    let set = neighbours.get(p);
    if (!set) neighbours.set(p, (set = new Set()));
    return set;
  };
  /** Places across from each edge. */
  const across = new Map<string, { p: number; q: number; opposite: number[] }>();
  const keyOf = (p: number, q: number): string => (p < q ? `${p} ${q}` : `${q} ${p}`);
  for (let i = 0; i < indices.length; i += 3)
    for (let k = 0; k < 3; k++) {
      const [p, q, r] = [k, (k + 1) % 3, (k + 2) % 3].map((e) => place[indices[i + e]!]!) as [number, number, number];
      near(p).add(q);
      near(q).add(p);
      const key = keyOf(p, q);
      const edge = across.get(key);
      if (edge) edge.opposite.push(r);
      else across.set(key, { p, q, opposite: [r] });
    }
  const borders = new Map<number, number[]>();
  for (const { p, q, opposite } of across.values())
    if (opposite.length !== 2)
      for (const [a, b] of [
        [p, q],
        [q, p],
      ] as const)
        borders.set(a, [...(borders.get(a) ?? []), b]);

  const evenOf = (p: number): Term[] => {
    const border = borders.get(p);
    if (border)
      return border.length === 2
        ? [
            [p, 0.75],
            [border[0]!, 0.125],
            [border[1]!, 0.125],
          ]
        : [[p, 1]];
    const around = [...(neighbours.get(p) ?? [])],
      beta = around.length ? loopBeta(around.length) : 0;
    return [[p, 1 - around.length * beta], ...around.map((v): Term => [v, beta])];
  };
  const sources = [positions, ...others],
    points: number[][] = sources.map(() => []),
    parents: number[] = [];
  const emit = (a: number, b: number, terms: Term[]): void => {
    sources.forEach((source, i) => {
      for (let k = 0; k < 3; k++) points[i]!.push(terms.reduce((sum, [v, w]) => sum + w * source[v * 3 + k]!, 0));
    });
    parents.push(a, b);
  };
  for (let v = 0; v < count; v++) emit(v, v, evenOf(place[v]!));
  const middles = new Map<string, number>();
  const middle = (a: number, b: number): number => {
    const key = keyOf(a, b);
    const known = middles.get(key);
    if (known !== undefined) return known;
    const p = place[a]!,
      q = place[b]!;
    const { opposite } = across.get(keyOf(p, q))!;
    emit(
      a,
      b,
      opposite.length === 2
        ? [
            [p, 0.375],
            [q, 0.375],
            [opposite[0]!, 0.125],
            [opposite[1]!, 0.125],
          ]
        : [
            [p, 0.5],
            [q, 0.5],
          ],
    );
    const made = parents.length / 2 - 1;
    middles.set(key, made);
    return made;
  };
  const out = new Uint32Array(indices.length * 4);
  for (let i = 0; i < indices.length; i += 3) {
    const [a, b, c] = [indices[i]!, indices[i + 1]!, indices[i + 2]!];
    const ab = middle(a, b),
      bc = middle(b, c),
      ca = middle(c, a);
    out.set([a, ab, ca, ab, b, bc, ca, bc, c, ab, bc, ca], i * 4);
  }
  const [smooth, ...rest] = points.map((p) => Float32Array.from(p));
  return { positions: smooth!, indices: out, parents: Uint32Array.from(parents), others: rest };
}
