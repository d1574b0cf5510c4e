import { weldedIds } from './weld.ts';

/** A mesh after one step of subdivision; each vertex is the mean of two old ones (an old one is twice itself). */
export interface Subdivided {
  positions: Float32Array;
  indices: Uint32Array;
  /** Pairs of old vertices, for what else hangs at vertices. */
  parents: Uint32Array;
}

/** Weight of each neighbour of an inner vertex with n of them (J. Warren's choice for C. Loop's scheme; Zorin, Schröder 2000, p. 47). */
export const loopBeta = (n: number): number => (n === 3 ? 3 / 16 : 3 / (8 * n));

/**
 * One step of Loop subdivision (C. Loop 1987, "Smooth Subdivision Surfaces Based on Triangles"; borders after Hoppe et al. 1994):
 * every triangle becomes four. Topology goes by position, so that seams of textures stay closed.
 */
export function loopSubdivide(positions: Float32Array, indices: Uint32Array): Subdivided {
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

  const at = (v: number, k: number): number => positions[v * 3 + k]!;
  const moved = new Map<number, [number, number, number]>();
  const evenOf = (p: number): [number, number, number] => {
    const known = moved.get(p);
    if (known) return known;
    const border = borders.get(p);
    let out: [number, number, number];
    if (border) out = border.length === 2 ? mix(at, [p, 0.75], [border[0]!, 0.125], [border[1]!, 0.125]) : mix(at, [p, 1]);
    else {
      const around = [...(neighbours.get(p) ?? [])],
        beta = around.length ? loopBeta(around.length) : 0;
      out = mix(at, [p, 1 - around.length * beta], ...around.map((v): [number, number] => [v, beta]));
    }
    moved.set(p, out);
    return out;
  };
  const points: number[] = [],
    parents: number[] = [];
  for (let v = 0; v < count; v++) {
    points.push(...evenOf(place[v]!));
    parents.push(v, v);
  }
  const middles = new Map<string, number>();
  const middle = (a: number, b: number): number => {
    const key = keyOf(a, b);
    const known = middles.get(key);
    if (known !== undefined) return known;
    const p = place[a]!,
      q = place[b]!;
    const { opposite } = across.get(keyOf(p, q))!;
    points.push(
      ...(opposite.length === 2
        ? mix(at, [p, 0.375], [q, 0.375], [opposite[0]!, 0.125], [opposite[1]!, 0.125])
        : mix(at, [p, 0.5], [q, 0.5])),
    );
    parents.push(a, b);
    const made = points.length / 3 - 1;
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
  return { positions: Float32Array.from(points), indices: out, parents: Uint32Array.from(parents) };
}

const mix = (at: (v: number, k: number) => number, ...terms: [number, number][]): [number, number, number] =>
  [0, 1, 2].map((k) => terms.reduce((sum, [v, w]) => sum + w * at(v, k), 0)) as [number, number, number];
