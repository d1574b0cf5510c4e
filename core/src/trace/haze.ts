// Light scattered once by homogeneous haze on the camera's rays: Beer–Lambert on both ways, the phase function of Henyey and
// Greenstein (1941), distances by equiangular sampling (Kulla, Fajardo 2012, "Importance Sampling Techniques for Path
// Tracing in Participating Media", section 4).
import type { RayKernel } from '@plinket/kernel';
import { dimension, maskWords, openDimension, shiftedA, shiftedB } from '../math/index.ts';
import type { Haze } from '../scene/index.ts';
import type { Batch } from './batch.ts';
import { lightKey } from './dimensions.ts';
import type { LightSampler, SamplerJob } from './lights/index.ts';
import { HAZE_DEPTH } from './limits.ts';
import { meetShadows } from './shadows.ts';

const VOLUME = 41;

/** Phase function of Henyey and Greenstein for the cosine between the directions of travel, 1/sr. */
export function phase(cos: number, g: number): number {
  const k = 1 + g * g - 2 * g * cos;
  return (1 - g * g) / (4 * Math.PI * k * Math.sqrt(k));
}

const along = dimension(),
  across = dimension();

/** Adds to `film` (r g b for each pixel) what one light sends into the first `count` camera rays. Answers the shadow rays. */
export function lightHaze(job: SamplerJob, haze: Haze, sampler: LightSampler, film: Float32Array, count: number, sample: number): number {
  const { batch, kernel, seed } = job;
  const { rays, hits, shadowRays, blocked } = kernel;
  const { waitingPixel } = batch.fields;
  const { waiting } = batch;
  const mask = maskWords();
  const { centre, towards } = sampler;
  openDimension(along, sample, lightKey(seed, sampler.key, VOLUME));
  openDimension(across, sample, lightKey(seed, sampler.key, VOLUME + 1));
  const sigma = haze.density;
  let w = 0;
  for (let i = 0; i < count; i++) {
    const r = i * 8;
    const dx = rays[r + 4]!,
      dy = rays[r + 5]!,
      dz = rays[r + 6]!;
    const end = Math.min(HAZE_DEPTH, hits[i * 4]!),
      u = shiftedA(along, mask, batch.fields.cell[i]!);
    let t: number, density: number;
    if (centre) {
      const cx = centre[0] - rays[r]!,
        cy = centre[1] - rays[r + 1]!,
        cz = centre[2] - rays[r + 2]!;
      const nearest = cx * dx + cy * dy + cz * dz,
        D = Math.max(0.02, Math.sqrt(Math.max(0, cx * cx + cy * cy + cz * cz - nearest * nearest)));
      const a = Math.atan(-nearest / D),
        b = Math.atan((end - nearest) / D);
      const s = D * Math.tan(a + (b - a) * u);
      t = nearest + s;
      density = D / ((b - a) * (D * D + s * s));
    } else {
      // by the haze itself
      const whole = 1 - Math.exp(-sigma * end);
      t = -Math.log(1 - u * whole) / sigma;
      density = (sigma * Math.exp(-sigma * t)) / whole;
    }
    const x = rays[r]! + dx * t,
      y = rays[r + 1]! + dy * t,
      z = rays[r + 2]! + dz * t;
    const S = sampler.fromPoint(x, y, z, shiftedA(across, mask, batch.fields.cell[i]!), shiftedB(across, mask, batch.fields.cell[i]!));
    if (!(S > 0) || !(density > 0)) continue;
    const cos = dx * towards.x + dy * towards.y + dz * towards.z;
    const value = (phase(cos, haze.anisotropy) * sigma * Math.exp(-sigma * (t + Math.min(towards.distance, HAZE_DEPTH))) * S) / density;
    waiting[w * 3] = value * towards.r;
    waiting[w * 3 + 1] = value * towards.g;
    waiting[w * 3 + 2] = value * towards.b;
    waitingPixel[w] = batch.fields.pixel[i]!;
    const o = w * 8;
    shadowRays[o] = x;
    shadowRays[o + 1] = y;
    shadowRays[o + 2] = z;
    shadowRays[o + 3] = 0;
    shadowRays[o + 4] = towards.x;
    shadowRays[o + 5] = towards.y;
    shadowRays[o + 6] = towards.z;
    shadowRays[o + 7] = towards.distance * 0.9999;
    w++;
  }
  meetShadows(kernel, sampler, waiting, 3, w);
  for (let i = 0; i < w; i++) {
    if (blocked[i]) continue;
    const f = waitingPixel[i]! * 3;
    film[f] = film[f]! + waiting[i * 3]!;
    film[f + 1] = film[f + 1]! + waiting[i * 3 + 1]!;
    film[f + 2] = film[f + 2]! + waiting[i * 3 + 2]!;
  }
  return w;
}

/** Weakens the paths by the haze on the way to what they met; those that met nothing are the lights' own matter. */
export function dimByHaze(batch: Batch, kernel: RayKernel, density: number, count: number): void {
  for (let i = 0; i < count; i++) {
    const t = kernel.hits[i * 4]!;
    if (!(t < 1e29)) continue;
    const k = Math.exp(-density * t);
    batch.fields.tr[i] = batch.fields.tr[i]! * k;
    batch.fields.tg[i] = batch.fields.tg[i]! * k;
    batch.fields.tb[i] = batch.fields.tb[i]! * k;
  }
}
