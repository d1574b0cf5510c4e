import type { RayKernel } from '@plinket/kernel';
import type { SphericalRectangle } from '../light/index.ts';
import { mix, point, sample2 } from '../math/index.ts';
import { DIELECTRIC_F0, ggxD, ggxG1, ggxV, schlick } from '../surface/index.ts';
import { FILM_CHANNELS, UNSCATTERED, type Batch } from './batch.ts';
import { SURFACE_OFFSET } from './surface.ts';

/** A rectangle light prepared for tracing. */
export interface TraceRectangle {
  /** Number of its film. */
  film: number;
  /** Its own dimensions of the random sequence: the same whichever other lights are traced. */
  key: number;
  rect: SphericalRectangle;
}

/**
 * Next-event estimation: one sample of one light at every surface point of the batch, by solid angle (Ureña 2013),
 * weighed against the walk's own sampling by the power heuristic (Veach 1995), lobe by lobe. Where the walk ends
 * (`depth` = `lastDepth`) the light sample carries all. Answers the number of shadow rays.
 */
export function sampleLight(
  batch: Batch,
  kernel: RayKernel,
  light: TraceRectangle,
  film: Float32Array,
  count: number,
  sample: number,
  step: number,
  lastDepth: number,
): number {
  const { rect } = light;
  const { shadowRays, blocked } = kernel;
  const { waiting, waitingPixel } = batch;
  const {
    px,
    py,
    pz,
    gx,
    gy,
    gz,
    nx,
    ny,
    nz,
    vx,
    vy,
    vz,
    dr,
    dg,
    db,
    fr,
    fg,
    fb,
    tr,
    tg,
    tb,
    alpha,
    chance,
    clear,
    label,
    depth,
    pixel,
    key,
  } = batch;
  const salt = mix(light.key, step);
  let w = 0;
  for (let i = 0; i < count; i++) {
    if (clear[i] === 2) continue;
    const x = px[i]!,
      y = py[i]!,
      z = pz[i]!;
    const S = rect.prepare(x, y, z);
    if (!(S > 0)) continue;
    sample2(sample, mix(key[i]!, salt));
    rect.sample(point[0]!, point[1]!);
    const lx = rect.wx,
      ly = rect.wy,
      lz = rect.wz;
    const nl = nx[i]! * lx + ny[i]! * ly + nz[i]! * lz;
    if (!(nl > 0) || gx[i]! * lx + gy[i]! * ly + gz[i]! * lz <= 0) continue;
    const nv = nx[i]! * vx[i]! + ny[i]! * vy[i]! + nz[i]! * vz[i]!;
    let hx = lx + vx[i]!,
      hy = ly + vy[i]!,
      hz = lz + vz[i]!;
    const hl = 1 / Math.sqrt(hx * hx + hy * hy + hz * hz);
    hx *= hl;
    hy *= hl;
    hz *= hl;
    const nh = nx[i]! * hx + ny[i]! * hy + nz[i]! * hz,
      vh = vx[i]! * hx + vy[i]! * hy + vz[i]! * hz;
    const a = alpha[i]!,
      D = ggxD(nh, a);
    let wd = 1,
      ws = 1;
    if (depth[i]! < lastDepth) {
      const c = chance[i]!,
        pd = (1 - c) * nl * (1 / Math.PI) * S,
        ps = c * ((ggxG1(nv, a) * D) / (4 * nv)) * S;
      wd = 1 / (1 + pd * pd);
      ws = 1 / (1 + ps * ps);
    }
    const ed = ((1 - schlick(DIELECTRIC_F0, vh)) / Math.PI) * nl * S * wd,
      es = D * ggxV(nl, nv, a) * nl * S * ws;
    const m = 1 - vh,
      m5 = m * m * m * m * m;
    const sr = (fr[i]! + (1 - fr[i]!) * m5) * es,
      sg = (fg[i]! + (1 - fg[i]!) * m5) * es,
      sb = (fb[i]! + (1 - fb[i]!) * m5) * es;
    const q = w * FILM_CHANNELS;
    const lab = label[i]!;
    if (lab === UNSCATTERED) {
      waiting[q] = tr[i]! * dr[i]! * ed;
      waiting[q + 1] = tg[i]! * dg[i]! * ed;
      waiting[q + 2] = tb[i]! * db[i]! * ed;
      waiting[q + 3] = tr[i]! * sr;
      waiting[q + 4] = tg[i]! * sg;
      waiting[q + 5] = tb[i]! * sb;
    } else {
      const o = q + lab * 3,
        p = q + 3 - lab * 3;
      waiting[o] = tr[i]! * (dr[i]! * ed + sr);
      waiting[o + 1] = tg[i]! * (dg[i]! * ed + sg);
      waiting[o + 2] = tb[i]! * (db[i]! * ed + sb);
      waiting[p] = waiting[p + 1] = waiting[p + 2] = 0;
    }
    waitingPixel[w] = pixel[i]!;
    const r = w * 8;
    shadowRays[r] = x + gx[i]! * SURFACE_OFFSET;
    shadowRays[r + 1] = y + gy[i]! * SURFACE_OFFSET;
    shadowRays[r + 2] = z + gz[i]! * SURFACE_OFFSET;
    shadowRays[r + 3] = 0;
    shadowRays[r + 4] = lx;
    shadowRays[r + 5] = ly;
    shadowRays[r + 6] = lz;
    shadowRays[r + 7] = rect.d * 0.9999;
    w++;
  }
  kernel.occluded(w);
  for (let i = 0; i < w; i++) {
    if (blocked[i]) continue;
    const f = waitingPixel[i]! * FILM_CHANNELS,
      q = i * FILM_CHANNELS;
    film[f] = film[f]! + waiting[q]!;
    film[f + 1] = film[f + 1]! + waiting[q + 1]!;
    film[f + 2] = film[f + 2]! + waiting[q + 2]!;
    film[f + 3] = film[f + 3]! + waiting[q + 3]!;
    film[f + 4] = film[f + 4]! + waiting[q + 4]!;
    film[f + 5] = film[f + 5]! + waiting[q + 5]!;
  }
  return w;
}

/** The other half of the multiple importance sampling: the walk's own rays that meet a light's face. */
export function meetLight(
  batch: Batch,
  kernel: RayKernel,
  light: TraceRectangle,
  film: Float32Array,
  count: number,
  lastDepth: number,
): void {
  const { rays, hits } = kernel;
  const { density, label, depth, pixel, tr, tg, tb } = batch;
  const { rect } = light;
  for (let i = 0; i < count; i++) {
    const p = density[i]!;
    if (p === 0 || depth[i]! > lastDepth) continue;
    const r = i * 8;
    const t = rect.intersectFrom(rays[r]!, rays[r + 1]!, rays[r + 2]!, rays[r + 4]!, rays[r + 5]!, rays[r + 6]!);
    if (!(t < hits[i * 4]!)) continue;
    const S = rect.prepare(rays[r]!, rays[r + 1]!, rays[r + 2]!);
    if (!(S > 0)) continue;
    const ps = p * S;
    const weight = (ps * ps) / (1 + ps * ps);
    const f = pixel[i]! * FILM_CHANNELS + label[i]! * 3;
    film[f] = film[f]! + tr[i]! * weight;
    film[f + 1] = film[f + 1]! + tg[i]! * weight;
    film[f + 2] = film[f + 2]! + tb[i]! * weight;
  }
}

/** Light of the dome for every walk ray that meets nothing. The dome itself is not in the camera's picture. */
export function meetDome(batch: Batch, kernel: RayKernel, film: Float32Array, count: number): void {
  const { hitIds } = kernel;
  const { density, label, pixel, tr, tg, tb } = batch;
  for (let i = 0; i < count; i++) {
    if (hitIds[i * 4 + 3]! >= 0 || density[i] === 0) continue;
    const f = pixel[i]! * FILM_CHANNELS + label[i]! * 3;
    film[f] = film[f]! + tr[i]!;
    film[f + 1] = film[f + 1]! + tg[i]!;
    film[f + 2] = film[f + 2]! + tb[i]!;
  }
}
