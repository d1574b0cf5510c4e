import { buildPlainTree, NODE_FLOATS, type PlainTree } from './plain-build.ts';
import { checkMesh, type RayMesh } from './mesh.ts';
import type { RayKernel } from './types.ts';

const reciprocal = (d: number): number => 1 / (Math.abs(d) < 1e-18 ? (d < 0 ? -1e-18 : 1e-18) : d);

/**
 * One ray through the tree, Möller and Trumbore 1997 at the leaves. Answers the slot of the nearest triangle (or of any
 * opaque one when `any`), -1 for none; t, u, v stand in `out`.
 */
function walk(
  tree: PlainTree,
  ray: Float32Array,
  r: number,
  any: boolean,
  clearFrom: number,
  casts: ((triangle: number) => boolean) | undefined,
  stack: Int32Array,
  out: Float64Array,
): number {
  const { boxes, refs, corners, ids } = tree;
  const ox = ray[r]!,
    oy = ray[r + 1]!,
    oz = ray[r + 2]!,
    tMin = ray[r + 3]!,
    dx = ray[r + 4]!,
    dy = ray[r + 5]!,
    dz = ray[r + 6]!;
  let best = ray[r + 7]!,
    hit = -1,
    sp = 0,
    cur = tree.root;
  const ix = reciprocal(dx),
    iy = reciprocal(dy),
    iz = reciprocal(dz);
  for (;;) {
    if (cur >= 0) {
      let first = -1,
        second = -1,
        firstNear = Infinity;
      for (let side = 0; side < 2; side++) {
        const b = cur * NODE_FLOATS + side * 6;
        const x0 = (boxes[b]! - ox) * ix,
          x1 = (boxes[b + 3]! - ox) * ix,
          y0 = (boxes[b + 1]! - oy) * iy,
          y1 = (boxes[b + 4]! - oy) * iy,
          z0 = (boxes[b + 2]! - oz) * iz,
          z1 = (boxes[b + 5]! - oz) * iz;
        const near = Math.max(Math.min(x0, x1), Math.min(y0, y1), Math.min(z0, z1), tMin);
        const far = Math.min(Math.max(x0, x1), Math.max(y0, y1), Math.max(z0, z1), best);
        if (near > far) continue;
        if (near < firstNear) {
          second = first;
          first = side;
          firstNear = near;
        } else second = side;
      }
      if (second >= 0) stack[sp++] = refs[cur * 2 + second]!;
      if (first >= 0) {
        cur = refs[cur * 2 + first]!;
        continue;
      }
    } else {
      const leaf = ~cur;
      for (let k = leaf >> 4, end = k + (leaf & 15); k < end; k++) {
        const p = k * 9;
        const e1x = corners[p + 3]!,
          e1y = corners[p + 4]!,
          e1z = corners[p + 5]!,
          e2x = corners[p + 6]!,
          e2y = corners[p + 7]!,
          e2z = corners[p + 8]!;
        const px = dy * e2z - dz * e2y,
          py = dz * e2x - dx * e2z,
          pz = dx * e2y - dy * e2x;
        const inverse = 1 / (e1x * px + e1y * py + e1z * pz);
        const sx = ox - corners[p]!,
          sy = oy - corners[p + 1]!,
          sz = oz - corners[p + 2]!;
        const u = (sx * px + sy * py + sz * pz) * inverse;
        if (!(u >= 0 && u <= 1)) continue;
        const qx = sy * e1z - sz * e1y,
          qy = sz * e1x - sx * e1z,
          qz = sx * e1y - sy * e1x;
        const v = (dx * qx + dy * qy + dz * qz) * inverse;
        if (!(v >= 0 && u + v <= 1)) continue;
        const t = (e2x * qx + e2y * qy + e2z * qz) * inverse;
        if (!(t > tMin && t < best)) continue;
        if (any) {
          if (ids[k]! < clearFrom && (!casts || casts(ids[k]!))) return k;
          continue;
        }
        best = t;
        hit = k;
        out[0] = t;
        out[1] = u;
        out[2] = v;
      }
    }
    if (sp === 0) return hit;
    cur = stack[--sp]!;
  }
}

/**
 * The plain TypeScript twin: the oracle of the kernel's tests, and what serves where SIMD is missing.
 * @throws MeshError for positions that are not finite or indices out of range.
 */
export function plainKernel(mesh: RayMesh, options: { capacity?: number } = {}): RayKernel {
  checkMesh(mesh);
  const { capacity = 8192 } = options;
  const tree = buildPlainTree(mesh);
  const clearFrom = mesh.clearFrom ?? mesh.indices.length / 3;
  const rays = new Float32Array(capacity * 8),
    hits = new Float32Array(capacity * 4),
    hitIds = new Int32Array(hits.buffer),
    shadowRays = new Float32Array(capacity * 8),
    blocked = new Uint8Array(capacity);
  const stack = new Int32Array(8192),
    out = new Float64Array(3);
  return {
    kind: 'plain',
    capacity,
    rays,
    hits,
    hitIds,
    shadowRays,
    blocked,
    closest(count) {
      for (let i = 0; i < count; i++) {
        const k = walk(tree, rays, i * 8, false, clearFrom, undefined, stack, out);
        hits[i * 4] = k < 0 ? Infinity : out[0]!;
        hits[i * 4 + 1] = out[1]!;
        hits[i * 4 + 2] = out[2]!;
        hitIds[i * 4 + 3] = k < 0 ? -1 : tree.ids[k]!;
      }
    },
    occluded(count, casts) {
      const { objects } = mesh;
      const asks = casts && objects ? (triangle: number) => casts[objects[triangle]!] !== 0 : undefined;
      for (let i = 0; i < count; i++) blocked[i] = walk(tree, shadowRays, i * 8, true, clearFrom, asks, stack, out) < 0 ? 0 : 1;
    },
  };
}
