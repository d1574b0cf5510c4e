import type { Shader } from './shader.ts';

/**
 * Rays against one mesh, in batches, over buffers that the kernel owns.
 *
 * A ray is eight floats: origin x y z, tMin, direction x y z, tMax. A hit is four: t, u, v and the triangle's number as
 * an integer in `hitIds` (-1: nothing, t is then infinite). u and v weigh the triangle's second and third corner.
 *
 * @example
 * kernel.rays.set([0, 0, 5, 0, 0, 0, -1, 100]);
 * kernel.closest(1);
 * const id = kernel.hitIds[3]; // triangle number or -1
 */
export interface RayKernel {
  readonly kind: 'simd' | 'plain';
  /** Rays of each kind that fit into the buffers. */
  readonly capacity: number;
  readonly rays: Float32Array;
  readonly hits: Float32Array;
  /** The same memory as `hits`; the triangle's number stands at 4*i+3. */
  readonly hitIds: Int32Array;
  readonly shadowRays: Float32Array;
  /** 1 where the shadow ray is blocked. */
  readonly blocked: Uint8Array;
  /** The hot half of shading, where the mesh carries what it needs and SIMD is there. */
  readonly shader?: Shader;
  /** Nearest hit of the first `count` rays. */
  closest(count: number): void;
  /**
   * Whether anything opaque stands in the way of the first `count` shadow rays. `casts`: one byte for each object of the mesh, 0 where it
   * lets them pass; default: all stop them.
   */
  occluded(count: number, casts?: Uint8Array): void;
}
