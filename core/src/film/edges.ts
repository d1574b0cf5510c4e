import type { Guides } from './film.ts';

/** Length of a mean normal below which a pixel holds more than one surface, and from which on it is one. */
const MIXED = 0.94,
  PURE = 0.975;
/** Pixels round an edge that are asked what lies on its two sides. */
export const EDGE_REACH = 2;
/** Difference in depth, as a share, from which on two surfaces are two. */
const APART = 0.03;

/**
 * Pixels in which two surfaces meet, one well behind the other. Few samples of such a pixel say nothing about its light, and no neighbour is
 * like it; but what lies on either side is known well, and how much of each the pixel holds follows from its mean depth.
 */
export interface Edges {
  /** Numbers of the pixels within the rows that were asked for. */
  pixels: number[];
  /** Share of the nearer surface, 0…1. */
  shares: number[];
  /** Pixels that lie on the nearer and the further surface; none further: nothing lies behind. */
  near: number[][];
  far: number[][];
}

/** Finds the edges in rows from … to − 1; numbers count from the first of them. */
export function findEdges(guides: Guides, rows: { from: number; to: number }): Edges {
  const { width } = guides,
    height = rows.to - rows.from,
    start = rows.from * width;
  const lengths = new Float32Array(width * height),
    depths = new Float32Array(width * height);
  for (let i = 0; i < lengths.length; i++) {
    const p = start + i;
    lengths[i] = Math.hypot(guides.mean(p, 1), guides.mean(p, 2), guides.mean(p, 3));
    depths[i] = guides.mean(p, 10);
  }
  const edges: Edges = { pixels: [], shares: [], near: [], far: [] };
  for (let y = 0, i = 0; y < height; y++)
    for (let x = 0; x < width; x++, i++) {
      const covered = guides.alphaAt(start + i);
      if (covered === 0 || (covered === 1 && lengths[i]! >= MIXED)) continue;
      const around: number[] = [];
      let nearest = Infinity,
        furthest = 0;
      for (let j = Math.max(0, y - EDGE_REACH); j <= Math.min(height - 1, y + EDGE_REACH); j++)
        for (let k = Math.max(0, x - EDGE_REACH); k <= Math.min(width - 1, x + EDGE_REACH); k++) {
          const q = j * width + k;
          if (q === i || guides.alphaAt(start + q) < 1 || lengths[q]! < PURE) continue;
          around.push(q);
          nearest = Math.min(nearest, depths[q]!);
          furthest = Math.max(furthest, depths[q]!);
        }
      if (covered < 1) {
        // against nothing: what is there is as much of it as is covered
        if (around.length) put(edges, i, covered, around, []);
        continue;
      }
      if (!(furthest - nearest > APART * nearest)) continue;
      const middle = (nearest + furthest) / 2;
      const near = around.filter((q) => depths[q]! < middle),
        far = around.filter((q) => depths[q]! >= middle);
      const mean = (set: number[]) => set.reduce((sum, q) => sum + depths[q]!, 0) / set.length;
      const share = (mean(far) - depths[i]!) / (mean(far) - mean(near));
      put(edges, i, Math.min(1, Math.max(0, share)), near, far);
    }
  return edges;
}

function put(edges: Edges, pixel: number, share: number, near: number[], far: number[]): void {
  edges.pixels.push(pixel);
  edges.shares.push(share);
  edges.near.push(near);
  edges.far.push(far);
}
