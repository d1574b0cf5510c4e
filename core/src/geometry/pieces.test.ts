import { describe, expect, it } from '@jest/globals';
import { SphereGeometry } from 'three';
import { withoutStrands } from './index.ts';

/** A ball by three.js, whose seam is written twice. */
const ball = (() => {
  const g = new SphereGeometry(1, 48, 32);
  return { positions: Float32Array.from(g.getAttribute('position').array), indices: Uint32Array.from(g.getIndex()!.array) };
})();
/** Ribbons of eight triangles that stand on the ball, each with corners of its own. */
function ribbons(count: number, soup = false) {
  const positions: number[] = [],
    indices: number[] = [];
  for (let s = 0; s < count; s++) {
    const a = s * 2.4,
      x = Math.cos(a) * 0.5,
      z = Math.sin(a) * 0.5;
    const at = (i: number, side: number) => [x + side * 0.01, 1 + i * 0.05, z + s * 1e-3];
    for (let i = 0; i < 4; i++) {
      const quad = [at(i, 0), at(i, 1), at(i + 1, 1), at(i, 0), at(i + 1, 1), at(i + 1, 0)];
      for (const p of quad) {
        const known = soup
          ? -1
          : positions.findIndex((v, k) => k % 3 === 0 && v === p[0] && positions[k + 1] === p[1] && positions[k + 2] === p[2]);
        indices.push(known >= 0 ? known / 3 : positions.push(...p) / 3 - 1);
      }
    }
  }
  return { positions: Float32Array.from(positions), indices: Uint32Array.from(indices) };
}
const joined = (a: typeof ball, b: typeof ball) => ({
  positions: Float32Array.of(...a.positions, ...b.positions),
  indices: Uint32Array.of(...a.indices, ...b.indices.map((i) => i + a.positions.length / 3)),
});

describe('surfaces without strands', () => {
  it('lose hair that is a part of its own', () => {
    expect(withoutStrands([ball, ribbons(150)])).toEqual([ball]);
  });
  it('lose it where one part holds all, and where every triangle has corners of its own', () => {
    for (const soup of [false, true]) {
      const [left] = withoutStrands([joined(ball, ribbons(150, soup))]);
      expect(left!.indices).toEqual(ball.indices);
    }
  });
  it('stay as they are where few pieces are small, or nothing would be left', () => {
    const few = [ball, ribbons(60)];
    expect(withoutStrands(few)).toEqual(few);
    const hair = [ribbons(800)];
    expect(withoutStrands(hair)).toEqual(hair);
  });
  it('are one piece where only the corners were written apart', () => {
    const soup = {
      positions: Float32Array.from([...ball.indices].flatMap((i) => [...ball.positions.slice(i * 3, i * 3 + 3)])),
      indices: ball.indices.map((_, i) => i),
    };
    expect(withoutStrands([soup])).toEqual([soup]);
  });
});
