import { DEGREE, turnY, type Vec3 } from '../math/index.ts';
import type { MeshData } from './sweep.ts';

/** A flight of steps; see the setup's schema for what each measure is. */
export interface StepsShape {
  position: Vec3;
  turn: number;
  width: number;
  tread: number;
  rise: number;
  count: number;
}

/** Radius of an edge that was walked on, metres, where the step has room for it. */
const EDGE = 0.008;
const EDGE_STEPS = 4;

/** From the foot of the first riser to the foot of the back: distance, height and normal of both ends of each strip. */
function strips({ tread, rise, count }: StepsShape): [d: number, y: number, nd: number, ny: number][][] {
  const r = Math.min(EDGE, tread / 4, rise / 4),
    out: [number, number, number, number][][] = [];
  for (let k = 0; k < count; k++) {
    const d = k * tread,
      y = (k + 1) * rise;
    out.push([
      [d, y - rise, -1, 0],
      [d, y - r, -1, 0],
    ]);
    out.push(
      Array.from({ length: EDGE_STEPS + 1 }, (_, i) => {
        const a = (i / EDGE_STEPS) * (Math.PI / 2);
        return [d + r - r * Math.cos(a), y - r + r * Math.sin(a), -Math.cos(a), Math.sin(a)] as [number, number, number, number];
      }),
    );
    out.push([
      [d + r, y, 0, 1],
      [d + tread, y, 0, 1],
    ]);
  }
  out.push([
    [count * tread, count * rise, 1, 0],
    [count * tread, 0, 1, 0],
  ]);
  return out;
}

/** Builds a flight of steps as a closed body without its underside. */
export function buildSteps(shape: StepsShape): MeshData {
  const { position, turn, width } = shape;
  const positions: number[] = [],
    normals: number[] = [],
    indices: number[] = [];
  const angle = turn * DEGREE;
  const vertex = (x: number, y: number, d: number, normal: Vec3): number => {
    const [tx, ty, tz] = turnY([x, y, -d], angle);
    positions.push(position[0] + tx, position[1] + ty, position[2] + tz);
    normals.push(...turnY(normal, angle));
    return positions.length / 3 - 1;
  };
  const quad = (a: number, b: number, c: number, d: number) => indices.push(a, b, c, a, c, d);
  for (const line of strips(shape)) {
    const ends = line.map(([d, y, nd, ny]) => {
      const normal: Vec3 = [0, ny, -nd];
      return [vertex(-width / 2, y, d, normal), vertex(width / 2, y, d, normal)] as const;
    });
    for (let i = 0; i + 1 < ends.length; i++) quad(ends[i]![0], ends[i]![1], ends[i + 1]![1], ends[i + 1]![0]);
    // the sides, below what runs away from the front
    for (let i = 0; i + 1 < line.length; i++) {
      const [d0, y0] = line[i]!,
        [d1, y1] = line[i + 1]!;
      if (d1 - d0 < 1e-9) continue;
      for (const side of [-1, 1]) {
        const at = (d: number, y: number) => vertex((side * width) / 2, y, d, [side, 0, 0]);
        const [a, b, c, e] = [at(d0, 0), at(d1, 0), at(d1, y1), at(d0, y0)];
        if (side > 0) quad(a, b, c, e);
        else quad(a, e, c, b);
      }
    }
  }
  return { positions: Float32Array.from(positions), normals: Float32Array.from(normals), indices: Uint32Array.from(indices) };
}
