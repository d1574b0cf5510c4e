import { add, length, normalize, sub, type Vec3 } from '../math/index.ts';
import type { HeadFrame } from '../setup/index.ts';
import type { CharacterAsset } from './asset.ts';
import { partsAt, type Pose } from './pose.ts';

/** A turn and a shift: p → turn · (p − from) + to. */
interface Motion {
  /** Rows. */
  turn: [Vec3, Vec3, Vec3];
  from: Vec3;
  to: Vec3;
}

/** Places of one head that are looked at, at most: enough to even out what a face itself does. */
const MOST = 3000;

/**
 * The turn and shift that carries one set of points to another with the least squared error: the largest eigenvector of the
 * four by four matrix of B. K. P. Horn, "Closed-form solution of absolute orientation using unit quaternions" (1987).
 * @param a,b x y z of the same points before and after
 */
export function rigidMotion(a: readonly number[], b: readonly number[]): Motion {
  const n = a.length / 3;
  const mean = (v: readonly number[]): Vec3 => {
    const m: Vec3 = [0, 0, 0];
    for (let i = 0; i < v.length; i++) m[i % 3]! += v[i]! / n;
    return m;
  };
  const from = mean(a),
    to = mean(b);
  const s = new Float64Array(9);
  for (let i = 0; i < n; i++)
    for (let r = 0; r < 3; r++) for (let c = 0; c < 3; c++) s[r * 3 + c]! += (a[i * 3 + r]! - from[r]!) * (b[i * 3 + c]! - to[c]!);
  const [xx, xy, xz, yx, yy, yz, zx, zy, zz] = s as unknown as [number, number, number, number, number, number, number, number, number];
  const N = [
    [xx + yy + zz, yz - zy, zx - xz, xy - yx],
    [yz - zy, xx - yy - zz, xy + yx, zx + xz],
    [zx - xz, xy + yx, yy - xx - zz, yz + zy],
    [xy - yx, zx + xz, yz + zy, zz - xx - yy],
  ];
  // all eigenvalues lifted above zero, so that repeated multiplication finds the largest
  const lift = Math.max(...N.map((row) => row.reduce((sum, v) => sum + Math.abs(v), 0)));
  let q = [1, 1e-3, 1e-3, 1e-3];
  for (let i = 0; i < 400; i++) {
    const next = N.map((row, r) => row.reduce((sum, v, c) => sum + v * q[c]!, lift * q[r]!));
    const l = Math.hypot(...next) || 1;
    q = next.map((v) => v / l);
  }
  const [w, x, y, z] = q as [number, number, number, number];
  return {
    from,
    to,
    turn: [
      [1 - 2 * (y * y + z * z), 2 * (x * y - w * z), 2 * (x * z + w * y)],
      [2 * (x * y + w * z), 1 - 2 * (x * x + z * z), 2 * (y * z - w * x)],
      [2 * (x * z - w * y), 2 * (y * z + w * x), 1 - 2 * (x * x + y * y)],
    ],
  };
}

/**
 * Where a head is at a moment of a clip: what of the mesh lies around it at rest is followed to the pose. Without a pose, or
 * where nothing is near the head, it stays.
 */
export function headAt(asset: CharacterAsset, head: HeadFrame, pose: Pose | undefined): HeadFrame {
  const posed = partsAt(asset, pose);
  if (posed === asset.parts) return head;
  const reach = 0.75 * head.height,
    // the middle of the head lies behind the pupils
    centre: Vec3 = [0, 1, 2].map((k) => head.origin[k]! - 0.35 * head.height * normalize(head.forward)[k]!) as Vec3;
  const near: [part: number, at: number][] = [];
  asset.parts.forEach(({ positions }, part) => {
    for (let at = 0; at < positions.length; at += 3)
      if (length(sub([positions[at]!, positions[at + 1]!, positions[at + 2]!], centre)) < reach) near.push([part, at]);
  });
  if (near.length < 4) return head;
  const step = Math.max(1, Math.floor(near.length / MOST)),
    a: number[] = [],
    b: number[] = [];
  for (let i = 0; i < near.length; i += step) {
    const [part, at] = near[i]!;
    for (let k = 0; k < 3; k++) {
      a.push(asset.parts[part]!.positions[at + k]!);
      b.push(posed[part]!.positions[at + k]!);
    }
  }
  const { turn, from, to } = rigidMotion(a, b);
  const turned = (v: Vec3): Vec3 => turn.map((row) => row[0] * v[0] + row[1] * v[1] + row[2] * v[2]) as Vec3;
  return { ...head, origin: add(to, turned(sub(head.origin, from))), forward: turned(head.forward), up: turned(head.up) };
}
