import { WAITING_FLOATS, type RayKernel } from '@plinket/kernel';
import { ALBEDO_COLUMNS, albedoTables, ggxD, ggxG1, ggxV, roughnessToAlpha } from '../surface/index.ts';
import { CLEAR, THROUGH, UNSCATTERED } from './batch.ts';
import { evaluateExtra, lobes } from './extra.ts';
import type { LightSampler, SamplerJob } from './lights/index.ts';
import { HAZE_DEPTH } from './limits.ts';
import { meetShadows } from './shadows.ts';

/** Reflections of surfaces as smooth as this are mirror images. */
const MIRROR_ALPHA = roughnessToAlpha(0.15);

/**
 * Next-event estimation: the light sample that stands at every surface point of the batch (`lx … lb`) goes through the
 * surface and to its shadow ray. It is weighed against the walk's own sampling by the power heuristic (Veach 1995), lobe
 * by lobe, unless the walk cannot meet this light. Where the walk ends the light sample carries all. Answers the number of
 * shadow rays. The job's shader does the plain surfaces, into the film at `place`.
 */
export function lightSurfaces(
  job: SamplerJob,
  sampler: LightSampler,
  film: Float32Array,
  second: number,
  count: number,
  place: number,
): number {
  const { batch, kernel, limits, bounces: lastDepth } = job;
  const { alone } = sampler,
    { bent } = sampler.light;
  const noMirror = bent !== undefined && !bent.mirror;
  // what the kernel shades it shades whole: a light without mirror images is the host's
  const shader = noMirror ? undefined : job.shader;
  if (noMirror) batch.findRest(count, false);
  const { shadowRays } = kernel;
  const { waitingPixel } = batch.fields;
  const { waiting } = batch;
  const { gx, gy, gz, nx, ny, nz, vx, vy, vz, dr, dg, db, fr, fg, fb, f90, lost, tr, tg, tb } = batch.fields;
  const { cover, cover90, alpha, row, chance, pass, extra, label, depth, pixel, lx, ly, lz, ld, lw, lr, lg, lb } = batch.fields;
  const { A, B } = albedoTables();
  const { haze } = limits;
  let w = shader ? shader.lightPlain(count, 0, lastDepth, alone) : 0;
  const { rest, restCount } = batch;
  for (let k = 0; k < restCount; k++) {
    const i = rest[k]!;
    const S = lw[i]!;
    if (S === 0 || pass[i] === THROUGH) continue;
    const x = lx[i]!,
      y = ly[i]!,
      z = lz[i]!;
    const nl = nx[i]! * x + ny[i]! * y + nz[i]! * z;
    const plain = extra[i] === 0;
    if (!(nl > 0) && (plain || batch.thin[i] === 0)) continue;
    const nv = nx[i]! * vx[i]! + ny[i]! * vy[i]! + nz[i]! * vz[i]!;
    const c = chance[i]!;
    const weigh = !alone && depth[i]! < lastDepth;
    let ed: number, sr: number, sg: number, sb: number;
    let er = 0,
      eg = 0,
      eb = 0;
    let side = 1;
    if (plain) {
      let hx = x + vx[i]!,
        hy = y + vy[i]!,
        hz = z + vz[i]!;
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
      if (weigh) {
        const pd = (1 - c) * nl * (1 / Math.PI) * S,
          ps = c * ((ggxG1(nv, a) * D) / (4 * nv)) * S;
        wd = 1 / (1 + pd * pd);
        ws = 1 / (1 + ps * ps);
      }
      // what the reflection at the light's angle leaves for the diffuse layer
      const q = nl * (ALBEDO_COLUMNS - 1),
        j = q >= ALBEDO_COLUMNS - 2 ? ALBEDO_COLUMNS - 2 : q | 0,
        at = row[i]! + j,
        f = q - j;
      const ea = A[at]! + (A[at + 1]! - A[at]!) * f,
        e9 = B[at]! + (B[at + 1]! - B[at]!) * f;
      ed = pass[i] === CLEAR ? 0 : (1 - cover[i]! * ea - cover90[i]! * e9) * (1 / Math.PI) * nl * S * wd;
      const es = D * ggxV(nl, nv, a) * nl * S * ws;
      const m = 1 - vh,
        m2 = m * m,
        m5 = m2 * m2 * m,
        g5 = f90[i]! * m5,
        more = lost[i]! * es;
      const u = 1 - m5;
      sr = (fr[i]! * u + g5) * (es + fr[i]! * more);
      sg = (fg[i]! * u + g5) * (es + fg[i]! * more);
      sb = (fb[i]! * u + g5) * (es + fb[i]! * more);
    } else {
      if (!evaluateExtra(batch, i, x, y, z, S, weigh)) continue;
      side = nl > 0 ? 1 : -1;
      ed = lobes[0]!;
      er = lobes[1]!;
      eg = lobes[2]!;
      eb = lobes[3]!;
      sr = lobes[4]!;
      sg = lobes[5]!;
      sb = lobes[6]!;
    }
    if (noMirror && (alpha[i]! < MIRROR_ALPHA || (!plain && batch.coat[i]! > 0 && batch.coatAlpha[i]! < MIRROR_ALPHA))) sr = sg = sb = 0;
    let R = tr[i]! * lr[i]!,
      G = tg[i]! * lg[i]!,
      Bl = tb[i]! * lb[i]!;
    if (haze > 0) {
      const k = Math.exp(-haze * Math.min(ld[i]!, HAZE_DEPTH));
      R *= k;
      G *= k;
      Bl *= k;
    }
    const q = w * WAITING_FLOATS;
    const lab = label[i]!;
    const ar = dr[i]! * ed + er,
      ag = dg[i]! * ed + eg,
      ab = db[i]! * ed + eb;
    if (lab === UNSCATTERED) {
      waiting[q] = R * ar;
      waiting[q + 1] = G * ag;
      waiting[q + 2] = Bl * ab;
      waiting[q + 3] = R * sr;
      waiting[q + 4] = G * sg;
      waiting[q + 5] = Bl * sb;
    } else {
      const o = q + lab * 3,
        p = q + 3 - lab * 3;
      waiting[o] = R * (ar + sr);
      waiting[o + 1] = G * (ag + sg);
      waiting[o + 2] = Bl * (ab + sb);
      waiting[p] = waiting[p + 1] = waiting[p + 2] = 0;
      if (limits.clamp > 0) limits.apply(waiting, o);
    }
    waitingPixel[w] = pixel[i]!;
    const r = w * 8;
    if (side > 0) {
      shadowRays[r] = batch.fields.ox[i]!;
      shadowRays[r + 1] = batch.fields.oy[i]!;
      shadowRays[r + 2] = batch.fields.oz[i]!;
    } else {
      const o = -batch.fields.gap[i]!;
      shadowRays[r] = batch.fields.px[i]! + gx[i]! * o;
      shadowRays[r + 1] = batch.fields.py[i]! + gy[i]! * o;
      shadowRays[r + 2] = batch.fields.pz[i]! + gz[i]! * o;
    }
    shadowRays[r + 3] = 0;
    shadowRays[r + 4] = x;
    shadowRays[r + 5] = y;
    shadowRays[r + 6] = z;
    shadowRays[r + 7] = ld[i]! * 0.9999;
    w++;
  }
  meetShadows(kernel, sampler, waiting, WAITING_FLOATS, w);
  if (!bent) limits.dimThrough(kernel, waiting, WAITING_FLOATS, w, sampler.reach.casts);
  if (noMirror && job.shader) batch.findRest(count, true);
  if (shader) shader.addUnblocked(place, second, w);
  else addUnblocked(kernel, waiting, waitingPixel, film, second, w);
  return w;
}

/** Adds what waited for its shadow ray to a film whose second plane begins at `second`. */
function addUnblocked(
  kernel: RayKernel,
  waiting: Float32Array,
  waitingPixel: Int32Array,
  film: Float32Array,
  second: number,
  count: number,
): void {
  const { blocked } = kernel;
  for (let i = 0; i < count; i++) {
    if (blocked[i]) continue;
    const f = waitingPixel[i]! * 3,
      s = f + second,
      q = i * WAITING_FLOATS;
    film[f] = film[f]! + waiting[q]!;
    film[f + 1] = film[f + 1]! + waiting[q + 1]!;
    film[f + 2] = film[f + 2]! + waiting[q + 2]!;
    film[s] = film[s]! + waiting[q + 3]!;
    film[s + 1] = film[s + 1]! + waiting[q + 4]!;
    film[s + 2] = film[s + 2]! + waiting[q + 5]!;
  }
}
