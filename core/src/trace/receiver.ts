import type { RayKernel } from '@plinket/kernel';
import { aroundNormal, normalize, point, sample2, mix, type Vec3 } from '../math/index.ts';
import { DIFFUSE, type Batch } from './batch.ts';
import type { LightSampler } from './lights/index.ts';
import { HAZE_DEPTH } from './limits.ts';
import { meetShadows } from './shadows.ts';

/** Distance by which a receiver's rays start off its surface, metres. */
const OFF = 3e-5;

/** Starts `count` cosine-distributed paths at a receiver; each carries π, so that the mean of what they bring is irradiance. */
export function receiverRays(batch: Batch, rays: Float32Array, at: Vec3, normal: Vec3, count: number, from: number, seed: number): void {
  const n = normalize(normal);
  for (let i = 0; i < count; i++) {
    sample2(from + i, seed);
    const r = Math.sqrt(point[0]!),
      phi = 2 * Math.PI * point[1]!;
    const [x, y, z] = aroundNormal(n, r * Math.cos(phi), r * Math.sin(phi), Math.sqrt(Math.max(0, 1 - r * r)));
    rays.set([at[0] + n[0] * OFF, at[1] + n[1] * OFF, at[2] + n[2] * OFF, 0, x, y, z, 1e30], i * 8);
    batch.fields.pixel[i] = 0;
    batch.fields.cell[i] = i & 4095;
    batch.fields.label[i] = DIFFUSE;
    batch.fields.depth[i] = 1;
    batch.fields.tr[i] = batch.fields.tg[i] = batch.fields.tb[i] = Math.PI;
    // no density: light that is met directly is counted by its own sampling, not here
    batch.fields.density[i] = 0;
    batch.fields.travelled[i] = 0;
  }
}

/** Adds to `sum` (red, green, blue) the direct irradiance of `count` samples of one light of luminance 1, through haze of a density. */
export function receiverLight(
  kernel: RayKernel,
  sampler: LightSampler,
  at: Vec3,
  normal: Vec3,
  count: number,
  from: number,
  seed: number,
  haze: number,
  sum: Vec3,
): void {
  const { towards } = sampler;
  const n = normalize(normal);
  const values = new Float32Array(count * 3);
  let w = 0;
  for (let i = 0; i < count; i++) {
    sample2(from + i, mix(sampler.key, seed));
    const S = sampler.fromPoint(at[0], at[1], at[2], point[0]!, point[1]!);
    const cos = n[0] * towards.x + n[1] * towards.y + n[2] * towards.z;
    if (!(S > 0) || !(cos > 0)) continue;
    const k = haze > 0 ? cos * S * Math.exp(-haze * Math.min(towards.distance, HAZE_DEPTH)) : cos * S;
    values.set([k * towards.r, k * towards.g, k * towards.b], w * 3);
    kernel.shadowRays.set(
      [at[0] + n[0] * OFF, at[1] + n[1] * OFF, at[2] + n[2] * OFF, 0, towards.x, towards.y, towards.z, towards.distance * 0.9999],
      w * 8,
    );
    w++;
  }
  meetShadows(kernel, sampler, values, 3, w);
  for (let i = 0; i < w; i++) if (!kernel.blocked[i]) for (let c = 0; c < 3; c++) sum[c] = sum[c]! + values[i * 3 + c]!;
}
