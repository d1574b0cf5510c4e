import type { CharacterAsset, Part } from './asset.ts';
import type { Channel, Quaternion, Rig, RigNode } from './rig.ts';

/** A moment of a clip, seconds. */
export interface Pose {
  clip: string;
  time: number;
}

type Matrix = Float64Array;

/** Columns of a node's matrix: translation · rotation · scale (glTF 2.0, section 3.6.3). */
function compose([x, y, z]: readonly number[], [qx, qy, qz, qw]: readonly number[], [sx, sy, sz]: readonly number[], out: Matrix): void {
  const [a, b, c, d] = [qx!, qy!, qz!, qw!];
  out[0] = (1 - 2 * (b * b + c * c)) * sx!;
  out[1] = 2 * (a * b + c * d) * sx!;
  out[2] = 2 * (a * c - b * d) * sx!;
  out[3] = 0;
  out[4] = 2 * (a * b - c * d) * sy!;
  out[5] = (1 - 2 * (a * a + c * c)) * sy!;
  out[6] = 2 * (b * c + a * d) * sy!;
  out[7] = 0;
  out[8] = 2 * (a * c + b * d) * sz!;
  out[9] = 2 * (b * c - a * d) * sz!;
  out[10] = (1 - 2 * (a * a + b * b)) * sz!;
  out[11] = 0;
  out[12] = x!;
  out[13] = y!;
  out[14] = z!;
  out[15] = 1;
}

function multiply(a: ArrayLike<number>, b: ArrayLike<number>, out: Matrix, at = 0): void {
  for (let c = 0; c < 4; c++)
    for (let r = 0; r < 4; r++)
      out[at + c * 4 + r] = a[r]! * b[c * 4]! + a[4 + r]! * b[c * 4 + 1]! + a[8 + r]! * b[c * 4 + 2]! + a[12 + r]! * b[c * 4 + 3]!;
}

/** Spherical interpolation the short way (glTF 2.0, appendix C.4). */
function slerp(a: Quaternion, b: Quaternion, t: number): Quaternion {
  let dot = a[0] * b[0] + a[1] * b[1] + a[2] * b[2] + a[3] * b[3];
  const sign = dot < 0 ? -1 : 1;
  dot = Math.min(1, dot * sign);
  const angle = Math.acos(dot);
  const [p, q] = angle < 1e-4 ? [1 - t, t] : [Math.sin((1 - t) * angle) / Math.sin(angle), Math.sin(t * angle) / Math.sin(angle)];
  return unit([0, 1, 2, 3].map((k) => a[k]! * p + b[k]! * q * sign) as Quaternion);
}

function unit(q: Quaternion): Quaternion {
  const l = Math.hypot(...q) || 1;
  return q.map((v) => v / l) as Quaternion;
}

/** Value of a channel at a moment: held before the first and after the last key (glTF 2.0, appendix C). */
export function channelAt({ times, values, interpolation, path }: Channel, time: number): number[] {
  const n = times.length,
    cubic = interpolation === 'CUBICSPLINE';
  const size = values.length / n / (cubic ? 3 : 1);
  const key = (i: number, part: 0 | 1 | 2 = 1): number[] => {
    const from = (cubic ? i * 3 + part : i) * size;
    return [...values.subarray(from, from + size)];
  };
  if (time <= times[0]!) return key(0);
  if (time >= times[n - 1]!) return key(n - 1);
  let i = 0;
  while (times[i + 1]! <= time) i++;
  if (interpolation === 'STEP') return key(i);
  const span = times[i + 1]! - times[i]!,
    t = (time - times[i]!) / span;
  if (cubic) {
    const t2 = t * t,
      t3 = t2 * t;
    const a = key(i),
      m = key(i, 2),
      b = key(i + 1),
      w = key(i + 1, 0);
    const out = a.map(
      (v, k) => (2 * t3 - 3 * t2 + 1) * v + span * (t3 - 2 * t2 + t) * m[k]! + (3 * t2 - 2 * t3) * b[k]! + span * (t3 - t2) * w[k]!,
    );
    return path === 'rotation' ? unit(out as Quaternion) : out;
  }
  if (path === 'rotation') return slerp(key(i) as Quaternion, key(i + 1) as Quaternion, t);
  const b = key(i + 1);
  return key(i).map((v, k) => v + (b[k]! - v) * t);
}

/** World matrices of all nodes, sixteen floats each, and morph weights by node, at a moment. */
function skeletonAt(rig: Rig, pose: Pose | undefined): { world: Matrix; weights: Map<number, number[]> } {
  const clip = pose && rig.clips.find((c) => c.name === pose.clip);
  const moved: Partial<RigNode>[] = rig.nodes.map(() => ({}));
  const weights = new Map<number, number[]>();
  for (const channel of clip?.channels ?? []) {
    const value = channelAt(channel, pose!.time);
    if (channel.path === 'weights') weights.set(channel.node, value);
    else Object.assign(moved[channel.node]!, { [channel.path]: value });
  }
  const world = new Float64Array(rig.nodes.length * 16),
    own = new Float64Array(16);
  rig.nodes.forEach((node, i) => {
    const { translation, rotation, scale } = { ...node, ...moved[i] };
    compose(translation, rotation, scale, own);
    if (node.parent < 0) world.set(own, i * 16);
    else multiply(world.subarray(node.parent * 16, node.parent * 16 + 16), own, world, i * 16);
  });
  return { world, weights };
}

function posePart(part: Part, world: Matrix, weights: Map<number, number[]>): Part {
  const rig = part.rig!;
  const count = rig.positions.length / 3;
  let from = rig.positions,
    bent = rig.normals;
  const morph = weights.get(rig.node) ?? rig.weights;
  if (rig.targets.some((_, i) => morph[i])) {
    from = from.slice();
    bent = bent.slice();
    rig.targets.forEach((target, i) => {
      const w = morph[i] ?? 0;
      if (w === 0) return;
      for (let k = 0; k < from.length; k++) {
        from[k] = from[k]! + w * target.positions[k]!;
        if (target.normals) bent[k] = bent[k]! + w * target.normals[k]!;
      }
    });
  }
  const positions = new Float32Array(count * 3),
    normals = new Float32Array(count * 3);
  const { skin } = rig;
  // one matrix for all, or a blend of the joints' for each vertex (section 3.7.3.1)
  const joints = new Float64Array(skin ? skin.joints.length * 16 : 16);
  if (skin)
    skin.joints.forEach((j, i) =>
      multiply(world.subarray(j * 16, j * 16 + 16), skin.inverse.subarray(i * 16, i * 16 + 16), joints, i * 16),
    );
  else joints.set(world.subarray(rig.node * 16, rig.node * 16 + 16));
  const one = skin ? undefined : joints;
  // the upper three rows of the matrix, column by column
  let m0 = 0,
    m1 = 0,
    m2 = 0,
    m4 = 0,
    m5 = 0,
    m6 = 0,
    m8 = 0,
    m9 = 0,
    m10 = 0,
    m12 = 0,
    m13 = 0,
    m14 = 0;
  for (let v = 0; v < count; v++) {
    if (!one || v === 0) {
      m0 = m1 = m2 = m4 = m5 = m6 = m8 = m9 = m10 = m12 = m13 = m14 = 0;
      for (let k = 0; k < (one ? 1 : 4); k++) {
        const w = one ? 1 : skin!.weights[v * 4 + k]!;
        if (w === 0) continue;
        const j = one ? 0 : skin!.indices[v * 4 + k]! * 16;
        m0 += w * joints[j]!;
        m1 += w * joints[j + 1]!;
        m2 += w * joints[j + 2]!;
        m4 += w * joints[j + 4]!;
        m5 += w * joints[j + 5]!;
        m6 += w * joints[j + 6]!;
        m8 += w * joints[j + 8]!;
        m9 += w * joints[j + 9]!;
        m10 += w * joints[j + 10]!;
        m12 += w * joints[j + 12]!;
        m13 += w * joints[j + 13]!;
        m14 += w * joints[j + 14]!;
      }
    }
    const o = v * 3,
      x = from[o]!,
      y = from[o + 1]!,
      z = from[o + 2]!,
      nx = bent[o]!,
      ny = bent[o + 1]!,
      nz = bent[o + 2]!;
    positions[o] = m0 * x + m4 * y + m8 * z + m12;
    positions[o + 1] = m1 * x + m5 * y + m9 * z + m13;
    positions[o + 2] = m2 * x + m6 * y + m10 * z + m14;
    // normals go by the cofactors of the matrix's upper left part
    const a = (m5 * m10 - m6 * m9) * nx + (m2 * m9 - m1 * m10) * ny + (m1 * m6 - m2 * m5) * nz,
      b = (m6 * m8 - m4 * m10) * nx + (m0 * m10 - m2 * m8) * ny + (m2 * m4 - m0 * m6) * nz,
      c = (m4 * m9 - m5 * m8) * nx + (m1 * m8 - m0 * m9) * ny + (m0 * m5 - m1 * m4) * nz;
    const l = 1 / (Math.sqrt(a * a + b * b + c * c) || 1);
    normals[o] = a * l;
    normals[o + 1] = b * l;
    normals[o + 2] = c * l;
  }
  return { ...part, positions, normals };
}

const posed = new WeakMap<CharacterAsset, { key: string; parts: Part[] }>();

/** The parts of a character at a moment of one of its clips; at rest when there is none. The last moment is remembered. */
export function partsAt(asset: CharacterAsset, pose: Pose | undefined): Part[] {
  const { rig } = asset;
  if (!rig || !pose || !rig.clips.some((c) => c.name === pose.clip)) return asset.parts;
  const key = `${pose.clip} ${pose.time}`;
  const last = posed.get(asset);
  if (last?.key === key) return last.parts;
  const { world, weights } = skeletonAt(rig, pose);
  const parts = asset.parts.map((p) => (p.rig ? posePart(p, world, weights) : p));
  posed.set(asset, { key, parts });
  return parts;
}

/** The parts of a rig as it stands at rest. */
export function restParts(parts: Part[], rig: Rig): Part[] {
  const { world, weights } = skeletonAt(rig, undefined);
  return parts.map((p) => (p.rig ? posePart(p, world, weights) : p));
}
