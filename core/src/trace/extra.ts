import { albedoAt, albedoTables, ALBEDO_COLUMNS, charlieAt, ggxD, ggxG1, ggxV, sheenV } from '../surface/index.ts';
import type { Batch } from './batch.ts';

/** What the evaluations below leave: factor on the diffuse albedo, sheen r g b, reflection r g b. */
export const lobes = new Float64Array(7);
const DIFFUSE = 0,
  SHEEN = 1,
  SHARP = 4;

/** Fibres: the highlight along a strand by its tangent (Kajiya, Kay 1989), as broad as the surface is rough. */
const strandExponent = (alpha: number): number => Math.max(2, 2 / Math.max(0.02, alpha) - 2);
const hasStrands = (batch: Batch, i: number): boolean => batch.sx[i] !== 0 || batch.sy[i] !== 0 || batch.sz[i] !== 0;

/** Diffuse and sheen towards a direction whose cosine is `signed`, times the cosine. */
function broadLobes(batch: Batch, i: number, x: number, y: number, z: number, signed: number): void {
  const { cover, cover90, row, nx, ny, nz, vx, vy, vz } = batch.fields;
  const { A, B } = albedoTables();
  const nl = Math.abs(signed),
    thin = batch.thin[i]!,
    base = (row[i]! / ALBEDO_COLUMNS) | 0;
  let diffuse =
    ((1 - cover[i]! * albedoAt(A, base, nl) - cover90[i]! * albedoAt(B, base, nl)) * (signed > 0 ? 1 - thin : thin) * nl) / Math.PI;
  if (batch.coat[i]! > 0) diffuse *= underCoat(batch, i, nl);
  lobes[DIFFUSE] = diffuse;
  lobes[SHEEN] = lobes[SHEEN + 1] = lobes[SHEEN + 2] = 0;
  if (signed <= 0 || batch.sheenR[i]! + batch.sheenG[i]! + batch.sheenB[i]! === 0) return;
  const hx = x + vx[i]!,
    hy = y + vy[i]!,
    hz = z + vz[i]!;
  const nh = (nx[i]! * hx + ny[i]! * hy + nz[i]! * hz) / Math.sqrt(hx * hx + hy * hy + hz * hz),
    nv = nx[i]! * vx[i]! + ny[i]! * vy[i]! + nz[i]! * vz[i]!;
  const k = charlieAt(nh, batch.sheenRoughness[i]!) * sheenV(nl, nv) * nl;
  lobes[SHEEN] = batch.sheenR[i]! * k;
  lobes[SHEEN + 1] = batch.sheenG[i]! * k;
  lobes[SHEEN + 2] = batch.sheenB[i]! * k;
}

/** What the coat lets through at a light's angle. */
function underCoat(batch: Batch, i: number, nl: number): number {
  const { A, B } = albedoTables();
  const row = (batch.coatRow[i]! / ALBEDO_COLUMNS) | 0;
  return 1 - batch.coat[i]! * (0.04 * albedoAt(A, row, nl) + albedoAt(B, row, nl));
}

/**
 * Reflection, coat and the strands' highlight towards a direction above the surface, times the cosine; answers the density
 * with which the walk would draw it by its sharp lobes (without their chance). `strands`: with the strands' highlight, which
 * the walk does not follow. `chanceS`: chance of the sharp lobes times 1/density of the light's sample, to weigh what the walk
 * follows against it; 0 does not weigh.
 */
function sharpLobes(batch: Batch, i: number, x: number, y: number, z: number, nl: number, strands: boolean, chanceS: number): number {
  const { nx, ny, nz, vx, vy, vz, fr, fg, fb, f90, lost, alpha } = batch.fields;
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
  const m = 1 - vh,
    m5 = m * m * m * m * m;
  const a = alpha[i]!,
    q = batch.coatChance[i]!,
    D = ggxD(nh, a);
  let density = ((1 - q) * ggxG1(nv, a) * D) / (4 * nv),
    coat = 0,
    under = 1;
  if (batch.coat[i]! > 0) {
    const ca = batch.coatAlpha[i]!,
      cD = ggxD(nh, ca);
    under = underCoat(batch, i, nl) * batch.under[i]!;
    density += (q * ggxG1(nv, ca) * cD) / (4 * nv);
    coat = batch.coat[i]! * (0.04 + 0.96 * m5) * cD * ggxV(nl, nv, ca) * nl;
  }
  const p = density * chanceS,
    weight = 1 / (1 + p * p);
  const g5 = f90[i]! * m5,
    Fr = fr[i]! * (1 - m5) + g5,
    Fg = fg[i]! * (1 - m5) + g5,
    Fb = fb[i]! * (1 - m5) + g5;
  if (hasStrands(batch, i)) {
    let k = 0;
    if (strands) {
      const th = batch.sx[i]! * hx + batch.sy[i]! * hy + batch.sz[i]! * hz,
        e = strandExponent(a);
      // normalised so that at normal incidence it gives back what a mirror of its reflectance would
      k = ((Math.max(0, 1 - th * th) ** (e / 2) * (e + 2)) / (8 * Math.PI)) * nl;
    }
    lobes[SHARP] = coat * weight + Fr * k;
    lobes[SHARP + 1] = coat * weight + Fg * k;
    lobes[SHARP + 2] = coat * weight + Fb * k;
  } else {
    const es = D * ggxV(nl, nv, a) * nl * under,
      more = lost[i]! * es;
    lobes[SHARP] = (coat + Fr * (es + fr[i]! * more)) * weight;
    lobes[SHARP + 1] = (coat + Fg * (es + fg[i]! * more)) * weight;
    lobes[SHARP + 2] = (coat + Fb * (es + fb[i]! * more)) * weight;
  }
  return density;
}

/**
 * The surface with coat, sheen or fibres towards a light direction with 1/density `S`. With `weigh` each lobe is weighed
 * against the walk's own sampling of it. Answers whether there is anything; the result stands in `lobes`.
 */
export function evaluateExtra(batch: Batch, i: number, x: number, y: number, z: number, S: number, weigh: boolean): boolean {
  const { nx, ny, nz, chance } = batch.fields;
  const signed = nx[i]! * x + ny[i]! * y + nz[i]! * z,
    nl = Math.abs(signed);
  if (nl < 1e-5) return false;
  const c = chance[i]!,
    thin = batch.thin[i]!;
  const pd = weigh ? ((1 - c) * (signed > 0 ? 1 - thin : thin) * nl * S) / Math.PI : 0;
  const wd = S / (1 + pd * pd);
  broadLobes(batch, i, x, y, z, signed);
  for (let k = 0; k < SHARP; k++) lobes[k] = lobes[k]! * wd;
  if (signed > 0) {
    sharpLobes(batch, i, x, y, z, nl, true, weigh ? c * S : 0);
    for (let k = SHARP; k < 7; k++) lobes[k] = lobes[k]! * S;
  } else lobes[SHARP] = lobes[SHARP + 1] = lobes[SHARP + 2] = 0;
  return true;
}

/**
 * The walk's broad lobe at a surface with coat, sheen or fibres, for a direction drawn by the cosine: factors on what
 * comes from there, over the density (1 − c)·part·cos/π, in `lobes` from 4 on.
 */
export function broadExtra(batch: Batch, i: number, x: number, y: number, z: number): void {
  const { nx, ny, nz, dr, dg, db, chance } = batch.fields;
  const signed = nx[i]! * x + ny[i]! * y + nz[i]! * z;
  broadLobes(batch, i, x, y, z, signed);
  const part = signed > 0 ? 1 - batch.thin[i]! : batch.thin[i]!;
  const over = Math.abs(signed) < 1e-5 ? 0 : Math.PI / (Math.abs(signed) * Math.max(1e-6, part) * (1 - chance[i]!));
  lobes[SHARP] = (dr[i]! * lobes[DIFFUSE]! + lobes[SHEEN]!) * over;
  lobes[SHARP + 1] = (dg[i]! * lobes[DIFFUSE]! + lobes[SHEEN + 1]!) * over;
  lobes[SHARP + 2] = (db[i]! * lobes[DIFFUSE]! + lobes[SHEEN + 2]!) * over;
}

/**
 * The walk's sharp lobe (base reflection and coat together) for a direction drawn from either: factors over the joint
 * density in `lobes` from 4 on; answers that density. With fibres only the coat is followed.
 */
export function sharpExtra(batch: Batch, i: number, x: number, y: number, z: number): number {
  const { nx, ny, nz, chance } = batch.fields;
  const density = sharpLobes(batch, i, x, y, z, nx[i]! * x + ny[i]! * y + nz[i]! * z, false, 0) * chance[i]!;
  const over = density > 1e-12 ? 1 / density : 0;
  for (let k = SHARP; k < 7; k++) lobes[k] = lobes[k]! * over;
  return density;
}
