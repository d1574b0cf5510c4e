import { weldedIds } from './weld.ts';

/**
 * Pieces of a surface that hang together.
 * @param place of each vertex: vertices at one place hang together (`weldedIds`)
 * @returns for a place the one that stands for its piece
 */
export function piecesOf(indices: Uint32Array, place: ArrayLike<number>): (place: number) => number {
  const above = Int32Array.from({ length: place.length }, (_, v) => v);
  const pieceOf = (v: number): number => {
    while (above[v] !== v) v = above[v] = above[above[v]!]!;
    return v;
  };
  for (let t = 0; t < indices.length; t += 3) {
    const a = pieceOf(place[indices[t]!]!);
    above[pieceOf(place[indices[t + 1]!]!)] = a;
    above[pieceOf(place[indices[t + 2]!]!)] = a;
  }
  return pieceOf;
}

/** So many pieces, each with less than so much of all triangles, are strands, scales or dust: nothing that a shape is told by. */
const MANY = 100,
  SMALL = 1 / 500;

/**
 * Surfaces without what consists of very many small pieces, as hair made of ribbons and cards does: it hides chin, ears and crown. Where
 * hardly any piece is small, or nothing would be left, they are as they were.
 */
export function withoutStrands<T extends { positions: Float32Array; indices: Uint32Array }>(parts: readonly T[]): T[] {
  const most = SMALL * parts.reduce((n, p) => n + p.indices.length / 3, 0);
  const smallOf = (pieces: Pieces): number => pieces.sizes.filter((size) => size > 0 && size < most).length;
  const divided = parts.map((part) => {
    const rough = divide(part.indices, undefined, part.positions.length / 3);
    // corners that lie together may be written apart
    return smallOf(rough) < MANY ? rough : divide(part.indices, weldedIds(part.positions), part.positions.length / 3);
  });
  if (divided.reduce((n, d) => n + smallOf(d), 0) < MANY) return [...parts];
  const left = parts.flatMap((part, i) => {
    const { of, sizes } = divided[i]!;
    if (smallOf(divided[i]!) === 0) return [part];
    const indices = part.indices.filter((_, k) => sizes[of[(k / 3) | 0]!]! >= most);
    return indices.length ? [{ ...part, indices }] : [];
  });
  return left.length ? left : [...parts];
}

/** The piece of each triangle, and how many triangles a piece has. */
interface Pieces {
  of: Uint32Array;
  sizes: Uint32Array;
}
function divide(indices: Uint32Array, place: Uint32Array | undefined, vertices: number): Pieces {
  const places = place ?? Uint32Array.from({ length: vertices }, (_, v) => v),
    pieceOf = piecesOf(indices, places);
  const sizes = new Uint32Array(vertices),
    of = new Uint32Array(indices.length / 3);
  for (let t = 0; t < of.length; t++) {
    of[t] = pieceOf(places[indices[t * 3]!]!);
    sizes[of[t]!]!++;
  }
  return { of, sizes };
}
