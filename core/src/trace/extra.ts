import { albedoAt, albedoTables, ALBEDO_COLUMNS, charlieD, ggxD, ggxG1, ggxV, sheenV } from '../surface/index.ts';
import type { Batch } from './batch.ts';

/** What `evaluateExtra` left: factor on the diffuse albedo, sheen and reflection as r g b, all times cosine and 1/density. */
export const lobes = { none: true, diffuse: 0, sheenR: 0, sheenG: 0, sheenB: 0, r: 0, g: 0, b: 0 };

/** Fibres: the highlight along a strand by its tangent (Kajiya, Kay 1989), as broad as the surface is rough. */
const strandExponent = (alpha: number): number => Math.max(2, 2 / Math.max(0.02, alpha) - 2);

/** The strand highlight's value, normalised so that at normal incidence it gives back what a mirror of its reflectance would. */
function strand(batch: Batch, i: number, x: number, y: number, z: number): number {
  const { sx, sy, sz, vx, vy, vz } = batch;
  let hx = x + vx[i]!,
    hy = y + vy[i]!,
    hz = z + vz[i]!;
  const l = 1 / Math.sqrt(hx * hx + hy * hy + hz * hz);
  hx *= l;
  hy *= l;
  hz *= l;
  const th = sx[i]! * hx + sy[i]! * hy + sz[i]! * hz;
  const e = strandExponent(batch.alpha[i]!);
  return (Math.max(0, 1 - th * th) ** (e / 2) * (e + 2)) / (8 * Math.PI);
}

/**
 * The surface with coat, sheen or fibres towards a light direction with 1/density `S`. With `weigh` each lobe is weighed
 * against the walk's own sampling of it. The result stands in `lobes`.
 */
export function evaluateExtra(batch: Batch, i: number, x: number, y: number, z: number, S: number, weigh: boolean): void {
  const { nx, ny, nz, vx, vy, vz, fr, fg, fb, f90, lost, alpha, row, chance, coat } = batch;
  const { A, B } = albedoTables();
  lobes.none = false;
  lobes.sheenR = lobes.sheenG = lobes.sheenB = lobes.r = lobes.g = lobes.b = 0;
  const signed = nx[i]! * x + ny[i]! * y + nz[i]! * z,
    nl = Math.abs(signed),
    thin = batch.thin[i]!;
  if (nl < 1e-5) {
    lobes.none = true;
    return;
  }
  const c = chance[i]!;
  const part = signed > 0 ? 1 - thin : thin;
  const pd = weigh ? ((1 - c) * part * nl * S) / Math.PI : 0;
  const wd = 1 / (1 + pd * pd);
  const mean = (fr[i]! + fg[i]! + fb[i]!) / 3;
  const base = Math.floor(row[i]! / ALBEDO_COLUMNS);
  lobes.diffuse = ((1 - mean * albedoAt(A, base, nl) - f90[i]! * albedoAt(B, base, nl)) * part * nl * S * wd) / Math.PI;
  if (signed <= 0) return;
  const nv = nx[i]! * vx[i]! + ny[i]! * vy[i]! + nz[i]! * vz[i]!;
  let hx = x + vx[i]!,
    hy = y + vy[i]!,
    hz = z + vz[i]!;
  const hl = 1 / Math.sqrt(hx * hx + hy * hy + hz * hz);
  hx *= hl;
  hy *= hl;
  hz *= hl;
  const nh = nx[i]! * hx + ny[i]! * hy + nz[i]! * hz,
    vh = vx[i]! * hx + vy[i]! * hy + vz[i]! * hz;
  const m5 = (1 - vh) ** 5;
  let under = 1;
  const a = alpha[i]!,
    D = ggxD(nh, a);
  const q = batch.coatChance[i]!;
  let ps = weigh ? (c * (1 - q) * ggxG1(nv, a) * D) / (4 * nv) : 0;
  if (coat[i]! > 0) {
    const ca = batch.coatAlpha[i]!,
      cr = batch.coatRow[i]! / ALBEDO_COLUMNS,
      cD = ggxD(nh, ca);
    under = 1 - coat[i]! * (0.04 * albedoAt(A, cr, nl) + albedoAt(B, cr, nl));
    lobes.diffuse *= under;
    if (weigh) ps += (c * q * ggxG1(nv, ca) * cD) / (4 * nv);
    const f = coat[i]! * (0.04 + 0.96 * m5) * cD * ggxV(nl, nv, ca) * nl * S;
    lobes.r = lobes.g = lobes.b = f;
  }
  const ws = 1 / (1 + (ps * S) ** 2);
  lobes.r *= ws;
  lobes.g *= ws;
  lobes.b *= ws;
  const fibre = batch.sx[i] !== 0 || batch.sy[i] !== 0 || batch.sz[i] !== 0;
  if (fibre) {
    // the walk does not follow the strands' highlight, so the light's own sample carries it
    const k = strand(batch, i, x, y, z) * nl * S;
    lobes.r += (fr[i]! + (f90[i]! - fr[i]!) * m5) * k;
    lobes.g += (fg[i]! + (f90[i]! - fg[i]!) * m5) * k;
    lobes.b += (fb[i]! + (f90[i]! - fb[i]!) * m5) * k;
  } else {
    const es = D * ggxV(nl, nv, a) * nl * S * ws * under * batch.under[i]!,
      more = lost[i]! * es;
    lobes.r += (fr[i]! * (1 - m5) + f90[i]! * m5) * (es + fr[i]! * more);
    lobes.g += (fg[i]! * (1 - m5) + f90[i]! * m5) * (es + fg[i]! * more);
    lobes.b += (fb[i]! * (1 - m5) + f90[i]! * m5) * (es + fb[i]! * more);
  }
  if (batch.sheenR[i]! + batch.sheenG[i]! + batch.sheenB[i]! > 0) {
    const k = charlieD(nh, batch.sheenAlpha[i]!) * sheenV(nl, nv) * nl * S * wd;
    lobes.sheenR = batch.sheenR[i]! * k;
    lobes.sheenG = batch.sheenG[i]! * k;
    lobes.sheenB = batch.sheenB[i]! * k;
  }
}

/**
 * The walk's broad lobe at a surface with coat, sheen or fibres, for a direction drawn by the cosine: factors on what
 * comes from there, over the density (1 − c)·part·cos/π. r g b stand in `lobes`.
 */
export function broadExtra(batch: Batch, i: number, x: number, y: number, z: number): void {
  const nl = Math.abs(batch.nx[i]! * x + batch.ny[i]! * y + batch.nz[i]! * z);
  evaluateExtra(batch, i, x, y, z, 1, false);
  if (lobes.none || nl < 1e-5) {
    lobes.r = lobes.g = lobes.b = 0;
    return;
  }
  const signed = batch.nx[i]! * x + batch.ny[i]! * y + batch.nz[i]! * z;
  const part = signed > 0 ? 1 - batch.thin[i]! : batch.thin[i]!;
  const over = Math.PI / (nl * Math.max(1e-6, part) * (1 - batch.chance[i]!));
  lobes.r = (batch.dr[i]! * lobes.diffuse + lobes.sheenR) * over;
  lobes.g = (batch.dg[i]! * lobes.diffuse + lobes.sheenG) * over;
  lobes.b = (batch.db[i]! * lobes.diffuse + lobes.sheenB) * over;
}

/**
 * The walk's sharp lobe (base reflection and coat together) for a direction drawn from either: factors over the joint
 * density, which is the answer. With fibres only the coat is followed.
 */
export function sharpExtra(batch: Batch, i: number, x: number, y: number, z: number): number {
  const { nx, ny, nz, vx, vy, vz, alpha, coatAlpha, coatChance, chance } = batch;
  const nv = nx[i]! * vx[i]! + ny[i]! * vy[i]! + nz[i]! * vz[i]!;
  const hx = x + vx[i]!,
    hy = y + vy[i]!,
    hz = z + vz[i]!;
  const nh = (nx[i]! * hx + ny[i]! * hy + nz[i]! * hz) / Math.sqrt(hx * hx + hy * hy + hz * hz);
  const q = coatChance[i]!;
  let p = ((1 - q) * ggxG1(nv, alpha[i]!) * ggxD(nh, alpha[i]!)) / (4 * nv);
  if (q > 0) p += (q * ggxG1(nv, coatAlpha[i]!) * ggxD(nh, coatAlpha[i]!)) / (4 * nv);
  p *= chance[i]!;
  evaluateExtra(batch, i, x, y, z, 1, false);
  const fibre = batch.sx[i] !== 0 || batch.sy[i] !== 0 || batch.sz[i] !== 0;
  if (fibre) {
    // take the strands' highlight out again: it was the light sample's
    const m5 = (1 - (vx[i]! * hx + vy[i]! * hy + vz[i]! * hz) / Math.sqrt(hx * hx + hy * hy + hz * hz)) ** 5;
    const k = strand(batch, i, x, y, z) * Math.max(0, nx[i]! * x + ny[i]! * y + nz[i]! * z);
    lobes.r -= (batch.fr[i]! + (batch.f90[i]! - batch.fr[i]!) * m5) * k;
    lobes.g -= (batch.fg[i]! + (batch.f90[i]! - batch.fg[i]!) * m5) * k;
    lobes.b -= (batch.fb[i]! + (batch.f90[i]! - batch.fb[i]!) * m5) * k;
  }
  const over = p > 1e-12 ? 1 / p : 0;
  lobes.r *= over;
  lobes.g *= over;
  lobes.b *= over;
  return p;
}
