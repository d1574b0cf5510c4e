import type { RayKernel } from '@plinket/kernel';
import { luminance } from '../photometry/index.ts';
import type { SceneGeometry } from '../scene/index.ts';
import { hasAlpha, isClear, sampleTexture, texel } from '../surface/index.ts';

/** Haze reaches so far: what comes from further away has come through this much of it, metres. */
export const HAZE_DEPTH = 60;

/** Surfaces that one shadow ray may pass. */
const VEILS = 4;

/**
 * What holds for every contribution of a job: haze on the way, veils that a shadow ray passes, and the clamp on single
 * indirect contributions, which is off unless asked for and counts what it takes away.
 */
export class Limits {
  /** Extinction of the haze, 1/m. */
  readonly haze: number;
  /** Most luminance that one indirect contribution may have, for a light of luminance 1; 0: no limit. */
  readonly clamp: number;
  /** Luminance that indirect contributions brought, and what the clamp took of it. */
  offered = 0;
  removed = 0;
  private readonly geometry: SceneGeometry;
  private readonly veiled: boolean;

  constructor(geometry: SceneGeometry, haze: number, clamp: number) {
    this.geometry = geometry;
    this.haze = haze;
    this.clamp = clamp;
    this.veiled = geometry.materials.some((m) => hasAlpha(m) || (isClear(m) && m.base.some((v) => v < 0.999)));
  }

  /** Holds r g b at `at` to the clamp. */
  apply(values: Float32Array, at: number): void {
    const l = luminance(values[at]!, values[at + 1]!, values[at + 2]!);
    this.offered += l;
    if (!(l > this.clamp)) return;
    const k = this.clamp / l;
    this.removed += l - this.clamp;
    values[at] = values[at]! * k;
    values[at + 1] = values[at + 1]! * k;
    values[at + 2] = values[at + 2]! * k;
  }

  /**
   * Follows the shadow rays that nothing opaque stopped through coloured glass, holes and half-transparent places, and dims
   * what waits for them (`stride` floats each, r g b by r g b), but for objects that `casts` says cast no shadow. Uses the kernel's walk rays, which are free meanwhile.
   */
  dimThrough(kernel: RayKernel, waiting: Float32Array, stride: number, count: number, casts?: Uint8Array): void {
    if (!this.veiled) return;
    const { rays, shadowRays, hits, hitIds, blocked } = kernel;
    const open: number[] = [];
    for (let i = 0; i < count; i++) if (!blocked[i]) open.push(i);
    let live = open;
    const from = new Float64Array(count);
    for (let pass = 0; live.length && pass < VEILS; pass++) {
      live.forEach((i, k) => {
        rays.set(shadowRays.subarray(i * 8, i * 8 + 8), k * 8);
        rays[k * 8 + 3] = from[i]!;
      });
      kernel.closest(live.length);
      const next: number[] = [];
      live.forEach((i, k) => {
        const id = hitIds[k * 4 + 3]!;
        if (id < 0) return;
        from[i] = hits[k * 4]! + 1e-4;
        next.push(i);
        if (casts && casts[this.geometry.triangleObject[id]!] === 0) return;
        const through = this.through(id, hits[k * 4 + 1]!, hits[k * 4 + 2]!);
        for (let c = 0; c < stride; c++) waiting[i * stride + c] = waiting[i * stride + c]! * through[c % 3]!;
      });
      live = next;
    }
  }

  /** What a veil lets through, r g b. */
  private through(id: number, u: number, v: number): [number, number, number] {
    const { geometry } = this;
    const m = geometry.materials[geometry.triangleMaterial[id]!]!;
    let alpha = m.alpha;
    const use = m.textures?.base;
    if (hasAlpha(m)) {
      if (use && geometry.uvs.length) {
        const { indices } = geometry.mesh,
          { uvs } = geometry,
          w = 1 - u - v;
        const at = (k: number) =>
          uvs[indices[id * 3]! * 2 + k]! * w + uvs[indices[id * 3 + 1]! * 2 + k]! * u + uvs[indices[id * 3 + 2]! * 2 + k]! * v;
        sampleTexture(use, at(0), at(1), true);
        alpha *= texel[3]!;
      }
      if (m.alphaMode === 'mask') alpha = alpha >= m.alphaCutoff ? 1 : 0;
    }
    if (isClear(m)) return [m.base[0], m.base[1], m.base[2]];
    const open = hasAlpha(m) ? 1 - alpha : 0;
    return [open, open, open];
  }
}
