import { plainFilmMath } from '@plinket/kernel';
import { describe, expect, it } from '@jest/globals';
import { findEdges } from './edges.ts';
import { Film, Guides, Smoother } from './index.ts';

const W = 12,
  H = 9,
  N = 4;
/** A near wall on the left half, a far one on the right; the column between them holds `share` of the near one. */
function twoWalls(share: number, covered = 1): Guides {
  const g = new Guides(W, H);
  for (let p = 0; p < W * H; p++) {
    const x = p % W;
    const near = x < 6 ? 1 : x > 6 ? 0 : share;
    const alpha = x > 6 ? covered : x === 6 ? near + (1 - near) * covered : 1;
    g.counts[p] = N;
    g.alpha[p] = N * alpha;
    const hits = N * alpha;
    g.sums[p * 11] = hits;
    if (hits === 0) continue;
    const k = near / alpha;
    // normals at right angles: their mean is short where both are
    g.sums[p * 11 + 1] = hits * k;
    g.sums[p * 11 + 3] = hits * (1 - k);
    for (let c = 7; c < 10; c++) g.sums[p * 11 + c] = hits * 0.5;
    g.sums[p * 11 + 10] = hits * (k * 2 + (1 - k) * 5);
  }
  return g;
}
/** A film whose near wall is 1 and far wall 0.2, and whose edge happens to be black. */
function film(): Film {
  const f = new Film(W, H);
  f.counts.fill(N);
  f.missing = 0;
  for (let p = 0; p < W * H; p++) {
    const v = p % W < 6 ? 1 : p % W > 6 ? 0.2 : 0;
    f.plane('diffuse')!.fill(v, p * 3, p * 3 + 3);
    f.squares[0]![p] = v * v * N;
  }
  return f;
}
const smoothed = (guides: Guides, f = film()) => {
  const smoother = new Smoother(plainFilmMath(), guides);
  smoother.smooth(f, N);
  return f.smooth!.planes[0]!;
};

describe('edges', () => {
  it('are found where two surfaces meet in a pixel, with how much of each it holds', () => {
    const edges = findEdges(twoWalls(0.25), { from: 0, to: H });
    expect(edges.pixels).toEqual(Array.from({ length: H }, (_, y) => y * W + 6));
    for (const share of edges.shares) expect(share).toBeCloseTo(0.25, 5);
    expect(edges.near[4]!.every((q) => q % W < 6)).toBe(true);
    expect(edges.far[4]!.every((q) => q % W > 6)).toBe(true);
  });
  it('are none on one surface, nor where it only bends', () => {
    expect(findEdges(twoWalls(1), { from: 0, to: H }).pixels).toEqual([]);
    const bent = twoWalls(0.5);
    // a corner: two normals in a pixel, one depth
    for (let p = 0; p < W * H; p++) bent.sums[p * 11 + 10] = N * 2;
    expect(findEdges(bent, { from: 0, to: H }).pixels).toEqual([]);
  });
  it('are made of their two sides by their shares, whatever the few samples say', () => {
    const plane = smoothed(twoWalls(0.25));
    for (let y = 0; y < H; y++) expect(plane[(y * W + 6) * 3]!).toBeCloseTo(0.25 * 1 + 0.75 * 0.2, 2);
  });
  it('against nothing hold as much light as is covered', () => {
    const plane = smoothed(twoWalls(0.5, 0));
    for (let y = 2; y < H - 2; y++) expect(plane[(y * W + 6) * 3]!).toBeCloseTo(0.5, 2);
  });
  it('say more and more themselves as samples come', () => {
    const f = film();
    f.counts.fill(160);
    for (let p = 0; p < W * H; p++) f.squares[0]![p] = f.squares[0]![p]! * 40;
    const plane = smoothed(twoWalls(0.25), f);
    // a tenth of what the sides say
    expect(plane[(4 * W + 6) * 3]!).toBeCloseTo(0.04, 2);
  });
});

describe('a dot of few samples that happen to agree', () => {
  it('is not taken for certain among others that do not', () => {
    const g = twoWalls(1);
    const dotted = (samples: number) => {
      const f = new Film(W, H);
      f.counts.fill(samples);
      f.missing = 0;
      for (let p = 0; p < W * H; p++) {
        const black = p === 4 * W + 3;
        // half of the samples are 2, half are 0; those of the dot all 0
        f.plane('diffuse')!.fill(black ? 0 : 1, p * 3, p * 3 + 3);
        f.squares[0]![p] = black ? 0 : 2 * samples;
      }
      return smoothed(g, f)[(4 * W + 3) * 3]!;
    };
    expect(dotted(4)).toBeGreaterThan(0.85);
  });
});
