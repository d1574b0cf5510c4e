import { randomLcg } from 'd3-random';
import type { Point } from '../form/field.ts';
import type { Surface } from '../form/nets.ts';
import { across, blend, dot, plus, unit, type Growth, type Strand } from './growth.ts';

/** How far a ribbon may lean out of the skin's plane, radians. */
const LEAN = 0.7;
/** How far the normals at a ribbon's edges turn outwards, so that it is lit as if it were round. */
const ROUND = 0.55;

/**
 * Strands as thin ribbons that lie over the skin: two vertices for each point, coloured from root to tip. U runs across, V from
 * 0 at the root to 1 at the tip, so that a renderer knows the strand's direction.
 */
export function ribbons(name: string, grown: { growth: Growth; strands: Strand[] }[], seed: number): Surface {
  const random = randomLcg(seed);
  const vertices = grown.reduce((n, { strands }) => n + strands.reduce((m, s) => m + 2 * s.points.length, 0), 0);
  const pieces = grown.reduce((n, { strands }) => n + strands.reduce((m, s) => m + s.points.length - 1, 0), 0);
  const positions = new Float32Array(vertices * 3),
    normals = new Float32Array(vertices * 3),
    colours = new Float32Array(vertices * 3),
    uvs = new Float32Array(vertices * 2),
    indices = new Uint32Array(pieces * 6);
  let v = 0,
    c = 0;
  for (const { growth, strands } of grown)
    for (const { points, outwards, tone } of strands) {
      const last = points.length - 1,
        lean = (random() * 2 - 1) * LEAN,
        [root, tip] = growth.colour;
      points.forEach((at, i) => {
        const t = i / last;
        const way = unit(plus(points[Math.min(last, i + 1)]!, points[Math.max(0, i - 1)]!, -1));
        const flat = unit(plus(outwards[i]!, way, -dot(outwards[i]!, way)));
        const side0 = across(way, flat);
        const side = unit(plus(scaled(side0, Math.cos(lean)), flat, Math.sin(lean))),
          out = unit(plus(scaled(flat, Math.cos(lean)), side0, -Math.sin(lean)));
        // thin where it leaves the skin, full for most of its length, drawn to a tip
        const half = (growth.width / 2) * Math.min(1, 0.55 + 3 * t) * (1 - (1 - growth.tip) * t ** 2.2);
        const colour = blend(root, tip, t ** 0.8);
        for (const edge of [-1, 1]) {
          positions.set(plus(at, side, edge * half), v * 3);
          normals.set(unit(plus(out, side, edge * ROUND)), v * 3);
          colours.set(
            colour.map((k) => Math.min(1, k * tone)),
            v * 3,
          );
          uvs.set([(edge + 1) / 2, t], v * 2);
          v++;
        }
        if (i === 0) return;
        const [a, b, p, q] = [v - 4, v - 3, v - 2, v - 1];
        indices.set([a, b, q, a, q, p], c);
        c += 6;
      });
    }
  return { name, positions, normals, colours, uvs, indices };
}

const scaled = (a: Point, k: number): Point => [a[0] * k, a[1] * k, a[2] * k];
