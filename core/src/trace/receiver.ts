import type { RayKernel } from '@plinket/kernel';
import { mix, normalize, point, sample2, type Vec3 } from '../math/index.ts';
import { DIFFUSE, type Batch } from './batch.ts';
import type { TraceRectangle } from './direct.ts';
import { SURFACE_OFFSET } from './surface.ts';

/** Starts `count` cosine-distributed paths at a receiver; each carries π, so that the mean of what they bring is irradiance. */
export function receiverRays(batch: Batch, rays: Float32Array, at: Vec3, normal: Vec3, count: number, from: number, seed: number): void {
  const [x, y, z] = normalize(normal);
  const s = z >= 0 ? 1 : -1,
    a0 = -1 / (s + z),
    b0 = x * y * a0;
  const o = SURFACE_OFFSET;
  for (let i = 0; i < count; i++) {
    sample2(from + i, seed);
    const r = Math.sqrt(point[0]!),
      phi = 2 * Math.PI * point[1]!,
      a = r * Math.cos(phi),
      b = r * Math.sin(phi),
      h = Math.sqrt(Math.max(0, 1 - r * r));
    rays.set(
      [
        at[0] + x * o,
        at[1] + y * o,
        at[2] + z * o,
        0,
        a * (1 + s * x * x * a0) + b * b0 + h * x,
        a * s * b0 + b * (s + y * y * a0) + h * y,
        -a * s * x - b * y + h * z,
        1e30,
      ],
      i * 8,
    );
    batch.pixel[i] = 0;
    batch.key[i] = mix(from + i, seed ^ 0x51ed270b);
    batch.label[i] = DIFFUSE;
    batch.depth[i] = 1;
    batch.tr[i] = batch.tg[i] = batch.tb[i] = Math.PI;
    // no density: light that is met directly is counted by its own sampling, not here
    batch.density[i] = 0;
  }
}

/** Sum over `count` samples of the direct irradiance from one light of luminance 1. */
export function receiverLight(
  kernel: RayKernel,
  light: TraceRectangle,
  at: Vec3,
  normal: Vec3,
  count: number,
  from: number,
  seed: number,
): number {
  const { rect } = light;
  const n = normalize(normal);
  const o = SURFACE_OFFSET;
  const S = rect.prepare(at[0], at[1], at[2]);
  if (!(S > 0)) return 0;
  const cosines = new Float64Array(count);
  for (let i = 0; i < count; i++) {
    sample2(from + i, mix(light.key, seed));
    rect.sample(point[0]!, point[1]!);
    cosines[i] = n[0] * rect.wx + n[1] * rect.wy + n[2] * rect.wz;
    kernel.shadowRays.set([at[0] + n[0] * o, at[1] + n[1] * o, at[2] + n[2] * o, 0, rect.wx, rect.wy, rect.wz, rect.d * 0.9999], i * 8);
  }
  kernel.occluded(count);
  let sum = 0;
  for (let i = 0; i < count; i++) if (!kernel.blocked[i] && cosines[i]! > 0) sum += cosines[i]! * S;
  return sum;
}
