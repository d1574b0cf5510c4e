import { withoutStrands } from '../geometry/index.ts';
import { add, dot, scale, sub, type Vec3 } from '../math/index.ts';
import type { Part } from '../scene/index.ts';
import { axesOf, type HeadFrame, type LandmarkName } from '../setup/index.ts';

/** Where points lie on a head, in its heights from between the pupils: to its left, up. Proportions of a face, common practice, no source. */
const ASIDE = { pupil: 0.135, mouth: 0.115, cheek: 0.26 },
  UP = { brow: 0.1, mouth: -0.31, cheek: -0.07 };

/** Triangles near a head in its own axes and heights: x to its left, y up, z out of its face. */
interface LocalHead {
  points: Float32Array;
  indices: Uint32Array;
}

/** How far round a head counts as its surface, in its heights. */
const REACH = 1.1;

function localHead(parts: readonly Part[], head: HeadFrame): LocalHead {
  const [x, y, z] = axesOf(head);
  const points: number[] = [],
    indices: number[] = [];
  for (const part of parts) {
    const to = new Int32Array(part.positions.length / 3).fill(-1);
    const place = (v: number): number => {
      if (to[v]! >= 0) return to[v]!;
      const d = sub([part.positions[v * 3]!, part.positions[v * 3 + 1]!, part.positions[v * 3 + 2]!], head.origin);
      points.push(dot(d, x) / head.height, dot(d, y) / head.height, dot(d, z) / head.height);
      return (to[v] = points.length / 3 - 1);
    };
    for (let t = 0; t < part.indices.length; t += 3) {
      const corners = [0, 1, 2].map((k) => place(part.indices[t + k]!));
      // a coarse triangle may reach across the head with its corners far away
      const within = [0, 1, 2].every((k) => {
        const at = corners.map((c) => points[c * 3 + k]!);
        return Math.min(...at) < REACH && Math.max(...at) > -REACH;
      });
      if (within) indices.push(...corners);
    }
  }
  return { points: Float32Array.from(points), indices: Uint32Array.from(indices) };
}

/** Where a line along `axis` through (a, b) in the other two axes meets the surface. */
function crossings({ points, indices }: LocalHead, axis: 0 | 1 | 2, a: number, b: number): number[] {
  const [i, j] = ([0, 1, 2] as const).filter((k) => k !== axis) as [number, number];
  const out: number[] = [];
  for (let t = 0; t < indices.length; t += 3) {
    const [p, q, r] = [indices[t]! * 3, indices[t + 1]! * 3, indices[t + 2]! * 3];
    const [px, py] = [points[p + i]! - a, points[p + j]! - b],
      [qx, qy] = [points[q + i]! - a, points[q + j]! - b],
      [rx, ry] = [points[r + i]! - a, points[r + j]! - b];
    const u = qx * ry - qy * rx,
      v = rx * py - ry * px,
      w = px * qy - py * qx;
    if ((u < 0 || v < 0 || w < 0) && (u > 0 || v > 0 || w > 0)) continue;
    const sum = u + v + w;
    if (sum !== 0) out.push((u * points[p + axis]! + v * points[q + axis]! + w * points[r + axis]!) / sum);
  }
  return out;
}

/** The vertex that lies furthest along an axis within a box; nothing where none is. */
function furthest({ points }: LocalHead, axis: 0 | 1 | 2, sign: 1 | -1, box: [Vec3, Vec3]): Vec3 | undefined {
  let best: Vec3 | undefined;
  for (let i = 0; i < points.length; i += 3) {
    const p: Vec3 = [points[i]!, points[i + 1]!, points[i + 2]!];
    if (p.some((c, k) => c < box[0][k]! || c > box[1][k]!)) continue;
    if (!best || sign * p[axis] > sign * best[axis]) best = p;
  }
  return best;
}

/** Rows of the profile between the tip of the nose and the lip, in heights of the head. */
const STEP = 0.006;

/** Where the nose meets the lip: below the tip, where the profile has fallen back most steeply. */
function baseOf(tip: Vec3, front: (x: number, y: number) => Vec3 | undefined): Vec3 | undefined {
  let steepest = 0,
    base: Vec3 | undefined;
  let above = front(tip[0], tip[1] - 0.02);
  for (let y = tip[1] - 0.02 - STEP; y > tip[1] - 0.13; y -= STEP) {
    const here = front(tip[0], y);
    if (above && here && above[2] - here[2] > steepest) {
      steepest = above[2] - here[2];
      base = here;
    }
    above = here;
  }
  return base;
}

/**
 * Landmarks of a head from the shape of its surface, in the character's own space, to be confirmed or corrected by hand. The nose's
 * tip is what reaches out most, its base where the profile falls back below; ears and crown reach out sideways and up; the others lie
 * where they lie on most faces. What the surface does not have is left out.
 */
export function proposeLandmarks(parts: readonly Part[], head: HeadFrame): Partial<Record<LandmarkName, Vec3>> {
  const local = localHead(withoutStrands(parts), head);
  const front = (x: number, y: number): Vec3 | undefined => {
    const z = Math.max(...crossings(local, 2, x, y).filter((v) => v > -0.7));
    return Number.isFinite(z) ? [x, y, z] : undefined;
  };
  const tip = furthest(local, 2, 1, [
    [-0.08, -0.34, -0.4],
    [0.08, -0.06, 1],
  ]);
  const chin = Math.min(...crossings(local, 1, 0, -0.02).filter((y) => y > -0.62 && y < -0.35));
  const found: Partial<Record<LandmarkName, Vec3 | undefined>> = {
    pupilL: front(ASIDE.pupil, 0),
    pupilR: front(-ASIDE.pupil, 0),
    crown: furthest(local, 1, 1, [
      [-0.12, 0.2, -0.75],
      [0.12, 1, 0.05],
    ]),
    chinBottom: Number.isFinite(chin) ? [0, chin, -0.02] : front(0, -0.49),
    browCentre: front(0, UP.brow),
    noseTip: tip,
    noseBase: tip && baseOf(tip, front),
    mouthCornerL: front(ASIDE.mouth, UP.mouth),
    mouthCornerR: front(-ASIDE.mouth, UP.mouth),
    cheekL: front(ASIDE.cheek, UP.cheek),
    cheekR: front(-ASIDE.cheek, UP.cheek),
    earL: furthest(local, 0, 1, [
      [0, -0.18, -0.6],
      [0.6, 0.08, -0.25],
    ]),
    earR: furthest(local, 0, -1, [
      [-0.6, -0.18, -0.6],
      [0, 0.08, -0.25],
    ]),
  };
  const axes = axesOf(head);
  const out: Partial<Record<LandmarkName, Vec3>> = {};
  for (const [name, p] of Object.entries(found) as [LandmarkName, Vec3 | undefined][])
    if (p) out[name] = axes.reduce((sum: Vec3, axis, k) => add(sum, scale(axis, p[k]! * head.height)), head.origin);
  return out;
}

/** A point on the other side of a head's middle. */
export function mirrored(head: HeadFrame, p: Vec3): Vec3 {
  const [x] = axesOf(head);
  return sub(p, scale(x, 2 * dot(sub(p, head.origin), x)));
}
