// What rays meet, for whoever asks about a face: a few rays each by itself, or all directions from many points.
import type { RayKernel } from '@plinket/kernel';

/** Asks what stands in every direction from points of a surface. */
export interface SightJob {
  /** x y z of each point and of its normal. */
  points: Float32Array;
  normals: Float32Array;
  /** x y z of each direction, in the world. */
  directions: Float32Array;
  /** Only what lies nearer counts, metres; nearer than `close` it is told apart: it can be the surface's own form. */
  reach: number;
  close: number;
}

/** In place of a triangle's number: nothing is in the way; the surface is turned away. */
export const FREE = -1,
  TURNED = -2;

/** What is met nearer than `close` is told by this number of its triangle's, and back. */
export const closeOf = (id: number): number => -3 - id;

/** Distance by which rays start off their surface, metres. */
export const OFF_SURFACE = 5e-5;

/** Triangles that rays (eight floats each, as the kernel has them) meet: distance, u, v, and the number in the fourth float's bits. */
export function cast(kernel: RayKernel, rays: Float32Array): Float32Array {
  const count = rays.length / 8,
    out = new Float32Array(count * 4);
  for (let from = 0; from < count; from += kernel.capacity) {
    const n = Math.min(kernel.capacity, count - from);
    kernel.rays.set(rays.subarray(from * 8, (from + n) * 8));
    kernel.closest(n);
    out.set(kernel.hits.subarray(0, n * 4), from * 4);
  }
  return out;
}

/** points × directions: the triangle that is met first, FREE, TURNED, or `closeOf` the triangle; and the rays that were followed. */
export function sight(kernel: RayKernel, { points, normals, directions, reach, close }: SightJob): { seen: Int32Array; rays: number } {
  const many = directions.length / 3,
    count = points.length / 3;
  const out = new Int32Array(count * many).fill(TURNED);
  const { rays, hits, hitIds, capacity } = kernel,
    waiting = new Int32Array(capacity);
  let n = 0,
    traced = 0;
  const meet = (): void => {
    kernel.closest(n);
    traced += n;
    for (let i = 0; i < n; i++) {
      const id = hitIds[i * 4 + 3]!;
      const t = hits[i * 4]!;
      out[waiting[i]!] = id < 0 ? FREE : t < close ? closeOf(id) : id;
    }
    n = 0;
  };
  for (let p = 0; p < count; p++) {
    const nx = normals[p * 3]!,
      ny = normals[p * 3 + 1]!,
      nz = normals[p * 3 + 2]!;
    const x = points[p * 3]! + nx * OFF_SURFACE,
      y = points[p * 3 + 1]! + ny * OFF_SURFACE,
      z = points[p * 3 + 2]! + nz * OFF_SURFACE;
    for (let d = 0; d < many; d++) {
      const dx = directions[d * 3]!,
        dy = directions[d * 3 + 1]!,
        dz = directions[d * 3 + 2]!;
      if (nx * dx + ny * dy + nz * dz <= 0) continue;
      const o = n * 8;
      rays[o] = x;
      rays[o + 1] = y;
      rays[o + 2] = z;
      rays[o + 3] = 0;
      rays[o + 4] = dx;
      rays[o + 5] = dy;
      rays[o + 6] = dz;
      rays[o + 7] = reach;
      waiting[n++] = p * many + d;
      if (n === capacity) meet();
    }
  }
  if (n > 0) meet();
  return { seen: out, rays: traced };
}

/** Who follows rays for a face: a kernel at hand, or workers. */
export interface Eyes {
  cast(rays: Float32Array): Promise<Float32Array> | Float32Array;
  sight(job: SightJob): Promise<Int32Array> | Int32Array;
}

/** A kernel at hand. */
export const eyesOf = (kernel: RayKernel): Eyes => ({ cast: (rays) => cast(kernel, rays), sight: (job) => sight(kernel, job).seen });
