// Where light that went into skin comes out: an exit is found by a probe through the surface (King, Kulla, Conty, Fajardo 2013, "BSSRDF
// Importance Sampling"), radii by normalised diffusion (Christensen, Burley 2015). Along the normal each colour has a probe of its own, with the
// radii of its own profile, since its weight is 1 wherever the surface is flat; one more goes across, with the widest radii, for where it is
// not. They are weighed against each other by the power heuristic (Veach 1997, "Robust Monte Carlo Methods for Light Transport", section 9.2.3).
import type { RayKernel } from '@plinket/kernel';
import { cosTurn, dimension, maskWords, openDimension, shiftedA, shiftedB, sinTurn } from '../math/index.ts';
import type { SceneGeometry } from '../scene/index.ts';
import { DIFFUSION_REACH, diffusionProfile, diffusionWidth, sampleDiffusion } from '../surface/index.ts';
import { DIFFUSE, OPAQUE, type Batch } from './batch.ts';
import { DEPTH, LAYER, stepKey } from './dimensions.ts';
import type { HitCache } from './hit-cache.ts';

/** Surfaces that one probe may meet. */
const FOUND = 4;
/** Exits of a path: one for each colour, along the normal, and then one across. */
export const EXITS = 4,
  ACROSS = 3;
/** Share of the exit across where a path has one exit alone; those along the normal share the rest. */
export const ACROSS_ALONE = 0.5;

/** Chance that the probe across is sent among the others: where it counts for much is rare. */
export const ACROSS_TRIED = 0.25;

const radii = dimension(),
  kinds = dimension();

/** Scratch of the probes. */
export interface Probes {
  /** Of each material the widths d of its three channels' profiles, metres. */
  widths: Float64Array;
  /**
   * What each probe is sent for: the path that goes in, which of its exits it looks for, its cell of the blue-noise mask, whether the
   * exit is lit, and by how much it counts should the path go on from it; 0: it does not.
   */
  path: Int32Array;
  exit: Uint8Array;
  cell: Int32Array;
  lit: Uint8Array;
  counts: Float64Array;
  /** What it found: triangle and weights. */
  id: Int32Array;
  u: Float32Array;
  v: Float32Array;
  /** Width of the profile that its radius is drawn from, the profile's sum over what it met, and what that was at the exit taken. */
  width: Float64Array;
  sum: Float64Array;
  taken: Float64Array;
  /** Throughput with which each path of the batch goes on from its exit alone, r g b; what it has among others stands in the batch. */
  alone: Float32Array;
}

/** Scratch for a batch of this capacity, over a geometry's materials. */
export function makeProbes(capacity: number, materials: SceneGeometry['materials']): Probes {
  const doubles = () => new Float64Array(capacity);
  return {
    widths: Float64Array.from(materials.flatMap((m) => m.base.map((albedo, k) => diffusionWidth(m.freePath[k]!, Math.min(0.99, albedo))))),
    path: new Int32Array(capacity),
    exit: new Uint8Array(capacity),
    cell: new Int32Array(capacity),
    lit: new Uint8Array(capacity),
    counts: doubles(),
    id: new Int32Array(capacity),
    u: new Float32Array(capacity),
    v: new Float32Array(capacity),
    width: doubles(),
    sum: doubles(),
    taken: doubles(),
    alone: new Float32Array(capacity * 3),
  };
}

const axes = new Float64Array(9);

/** The three axes at a surface point: normal, two tangents. */
function frameAt(batch: Batch, i: number): void {
  const x = batch.fields.gx[i]!,
    y = batch.fields.gy[i]!,
    z = batch.fields.gz[i]!;
  const s = z >= 0 ? 1 : -1,
    a = -1 / (s + z),
    b = x * y * a;
  axes[0] = x;
  axes[1] = y;
  axes[2] = z;
  axes[3] = 1 + s * x * x * a;
  axes[4] = s * b;
  axes[5] = -s * x;
  axes[6] = b;
  axes[7] = s + y * y * a;
  axes[8] = -y;
}

/**
 * Sends the first `count` probes. Exits that they find, and through which light goes, become paths of the batch from place `next` on; without
 * `next` they take the place of the path that went in, as if they had been the only one. Answers the rays traced, and the paths there are.
 */
export function sendProbes(
  batch: Batch,
  kernel: RayKernel,
  cache: HitCache,
  geometry: SceneGeometry,
  probes: Probes,
  count: number,
  sample: number,
  key: { step: number; seed: number },
  next: number | undefined,
): { rays: number; count: number } {
  const { rays } = kernel;
  const f = batch.fields;
  const mask = maskWords();
  openDimension(kinds, sample, stepKey(key.seed, key.step, LAYER));
  openDimension(radii, sample, stepKey(key.seed, key.step, DEPTH));
  let n = 0;
  for (let at = 0; at < count; at++) {
    const i = probes.path[at]!,
      exit = probes.exit[at]!,
      cell = probes.cell[at]!;
    frameAt(batch, i);
    // across: along one of two tangents
    const across = exit === ACROSS,
      axis = across ? (shiftedA(kinds, mask, cell) < 0.5 ? 1 : 2) : 0;
    const m = f.material[i]! * 3;
    const d = across ? Math.max(probes.widths[m]!, probes.widths[m + 1]!, probes.widths[m + 2]!) : probes.widths[m + exit]!,
      far = DIFFUSION_REACH * d,
      r = sampleDiffusion(shiftedA(radii, mask, cell), d);
    if (r >= far) {
      if (next === undefined) end(batch, i);
      continue;
    }
    const turn = shiftedB(radii, mask, cell),
      a = r * cosTurn(turn),
      b = r * sinTurn(turn),
      h = Math.sqrt(far * far - r * r);
    const k = axis * 3,
      p = ((axis + 1) % 3) * 3,
      q = ((axis + 2) % 3) * 3;
    const o = n * 8;
    for (let e = 0; e < 3; e++) {
      const from = e === 0 ? f.px[i]! : e === 1 ? f.py[i]! : f.pz[i]!;
      rays[o + e] = from + axes[p + e]! * a + axes[q + e]! * b + axes[k + e]! * h;
      rays[o + 4 + e] = -axes[k + e]!;
    }
    rays[o + 3] = 0;
    rays[o + 7] = 2 * h;
    probes.path[n] = i;
    probes.exit[n] = exit;
    probes.cell[n] = cell;
    probes.lit[n] = probes.lit[at]!;
    probes.counts[n] = probes.counts[at]!;
    probes.width[n] = d;
    probes.sum[n] = 0;
    n++;
  }
  const traced = n === 0 ? 0 : follow(batch, kernel, cache, geometry, probes, n);
  let places = next ?? 0;
  for (let j = 0; j < n; j++) {
    const i = probes.path[j]!;
    if (next !== undefined) places += arrive(batch, geometry, probes, j, places) ? 1 : 0;
    else if (arrive(batch, geometry, probes, j, i)) takeAlone(batch, probes, i);
    else end(batch, i);
  }
  return { rays: traced, count: places };
}

/** A path goes on from its exit without the others. */
export function takeAlone({ fields: f }: Batch, { alone }: Probes, j: number): void {
  f.tr[j] = alone[j * 3]!;
  f.tg[j] = alone[j * 3 + 1]!;
  f.tb[j] = alone[j * 3 + 2]!;
}

/** No light goes this way. */
function end({ fields: f }: Batch, i: number): void {
  f.tr[i] = f.tg[i] = f.tb[i] = 0;
}

/** Follows the probes through the surfaces of their own material and picks one exit for each. Answers the rays traced. */
function follow(batch: Batch, kernel: RayKernel, cache: HitCache, geometry: SceneGeometry, probes: Probes, count: number): number {
  const { rays, hits, hitIds } = kernel;
  const mask = maskWords();
  let traced = 0;
  for (let pass = 1, any = true; any && pass <= FOUND; pass++) {
    traced += cache.closest(count);
    any = false;
    for (let j = 0; j < count; j++) {
      const id = hitIds[j * 4 + 3]!;
      if (id < 0) {
        // nothing more to find on this one
        rays[j * 8 + 7] = 0;
        continue;
      }
      any = true;
      rays[j * 8 + 3] = hits[j * 4]! + 2e-5;
      const path = probes.path[j]!;
      if (geometry.triangleMaterial[id] !== batch.fields.material[path]!) continue;
      // one of those found, by how much light comes out there (weighted reservoir sampling, Chao 1982): far ones hardly count
      const d = probes.width[j]!,
        h = rays[j * 8 + 7]! / 2,
        up = h - hits[j * 4]!,
        far = DIFFUSION_REACH * d;
      const light = diffusionProfile(Math.sqrt(Math.max(0, far * far - h * h + up * up)), d);
      probes.sum[j] = probes.sum[j]! + light;
      const u = (shiftedB(kinds, mask, probes.cell[j]!) * 7.13 * pass) % 1;
      if (u * probes.sum[j]! >= light) continue;
      probes.taken[j] = light;
      probes.id[j] = id;
      probes.u[j] = hits[j * 4 + 1]!;
      probes.v[j] = hits[j * 4 + 2]!;
    }
  }
  return traced;
}

function blend(from: Float32Array, a: number, b: number, c: number, w: number, u: number, v: number): number {
  return from[a]! * w + from[b]! * u + from[c]! * v;
}

/** The profile at a probe's distance `off` from its axis, where a probe of this width reaches an exit `r` away. */
const within = (r: number, off: number, d: number): number => (r < DIFFUSION_REACH * d ? diffusionProfile(off, d) : 0);

/** Density by area with which the probe across finds an exit at a distance e with normal g. */
function acrossAt(ex: number, ey: number, ez: number, gx: number, gy: number, gz: number, r: number, d: number): number {
  let density = 0;
  for (let k = 3; k < 9; k += 3) {
    const along = ex * axes[k]! + ey * axes[k + 1]! + ez * axes[k + 2]!,
      cos = Math.abs(gx * axes[k]! + gy * axes[k + 1]! + gz * axes[k + 2]!),
      off = Math.sqrt(Math.max(0, r * r - along * along));
    density += within(r, off, d) * cos * 0.5;
  }
  return density;
}

/**
 * Puts a path at the exit that a probe found to place `to`, for the diffuse lobe alone and weighed by profile over density; not where no light
 * goes through it. Fields that only sharp lobes use are left as they are: those lobes are black.
 */
function arrive(batch: Batch, geometry: SceneGeometry, probes: Probes, j: number, to: number): boolean {
  const f = batch.fields;
  const i = probes.path[j]!;
  const sum = probes.sum[j]!;
  if (!(sum > 0)) return false;
  const found = sum / probes.taken[j]!;
  const { positions, indices } = geometry.mesh,
    { normals } = geometry;
  const id = probes.id[j]!,
    u = probes.u[j]!,
    v = probes.v[j]!,
    w = 1 - u - v;
  const a = indices[id * 3]! * 3,
    b = indices[id * 3 + 1]! * 3,
    c = indices[id * 3 + 2]! * 3;
  const x = blend(positions, a, b, c, w, u, v),
    y = blend(positions, a + 1, b + 1, c + 1, w, u, v),
    z = blend(positions, a + 2, b + 2, c + 2, w, u, v);
  const ux = positions[b]! - positions[a]!,
    uy = positions[b + 1]! - positions[a + 1]!,
    uz = positions[b + 2]! - positions[a + 2]!,
    wx = positions[c]! - positions[a]!,
    wy = positions[c + 1]! - positions[a + 1]!,
    wz = positions[c + 2]! - positions[a + 2]!;
  let gx = uy * wz - uz * wy,
    gy = uz * wx - ux * wz,
    gz = ux * wy - uy * wx;
  let nx = blend(normals, a, b, c, w, u, v),
    ny = blend(normals, a + 1, b + 1, c + 1, w, u, v),
    nz = blend(normals, a + 2, b + 2, c + 2, w, u, v);
  // light comes out on the outside, which the shading normals name
  const out = nx * gx + ny * gy + nz * gz < 0 ? -1 : 1;
  const gl = out / Math.sqrt(gx * gx + gy * gy + gz * gz),
    nl = 1 / Math.sqrt(nx * nx + ny * ny + nz * nz);
  gx *= gl;
  gy *= gl;
  gz *= gl;
  nx *= nl;
  ny *= nl;
  nz *= nl;
  frameAt(batch, i);
  const ex = x - f.px[i]!,
    ey = y - f.py[i]!,
    ez = z - f.pz[i]!,
    r2 = ex * ex + ey * ey + ez * ez,
    r = Math.sqrt(r2);
  const m = f.material[i]! * 3,
    d0 = probes.widths[m]!,
    d1 = probes.widths[m + 1]!,
    d2 = probes.widths[m + 2]!;
  // every probe of this path might have found this exit
  const across = acrossAt(ex, ey, ez, gx, gy, gz, r, Math.max(d0, d1, d2));
  const along = ex * axes[0]! + ey * axes[1]! + ez * axes[2]!,
    cos = Math.abs(gx * axes[0]! + gy * axes[1]! + gz * axes[2]!),
    off = Math.sqrt(Math.max(0, r2 - along * along));
  const n0 = within(r, off, d0) * cos,
    n1 = within(r, off, d1) * cos,
    n2 = within(r, off, d2) * cos;
  const one = ((1 - ACROSS_ALONE) / 3) * (n0 + n1 + n2) + ACROSS_ALONE * across;
  if (!(one > 0)) return false;
  const { alone } = probes,
    exit = probes.exit[j]!,
    counts = probes.counts[j]!,
    lit = probes.lit[j]!;
  let brings = 0;
  const own = (c: number, profile: number, density: number, throughput: number): number => {
    const light = throughput * profile * found;
    alone[to * 3 + c] = (light / one) * counts;
    // a colour's own probe brings nothing of the others
    const tried = !lit ? 0 : exit === ACROSS ? ACROSS_TRIED * across : exit === c ? density : 0;
    const among = tried > 0 ? (light * tried) / (density * density + ACROSS_TRIED * ACROSS_TRIED * across * across) : 0;
    brings += among + alone[to * 3 + c]!;
    return among;
  };
  const R = own(0, diffusionProfile(r, d0), n0, f.tr[i]!),
    G = own(1, diffusionProfile(r, d1), n1, f.tg[i]!),
    B = own(2, diffusionProfile(r, d2), n2, f.tb[i]!);
  if (!(brings > 0)) return false;
  f.tr[to] = R;
  f.tg[to] = G;
  f.tb[to] = B;
  f.pixel[to] = f.pixel[i]!;
  f.cell[to] = probes.cell[j]!;
  f.label[to] = DIFFUSE;
  f.depth[to] = f.depth[i]!;
  f.density[to] = f.density[i]!;
  f.travelled[to] = f.travelled[i]!;
  f.px[to] = x;
  f.py[to] = y;
  f.pz[to] = z;
  f.gx[to] = gx;
  f.gy[to] = gy;
  f.gz[to] = gz;
  f.nx[to] = nx;
  f.ny[to] = ny;
  f.nz[to] = nz;
  // nobody looks at it from outside any more; the lobe is Lambertian, the view only has to be above
  f.vx[to] = nx;
  f.vy[to] = ny;
  f.vz[to] = nz;
  f.triangle[to] = id;
  f.material[to] = f.material[i]!;
  const gap = f.gap[i]!;
  f.gap[to] = gap;
  f.ox[to] = x + gx * gap;
  f.oy[to] = y + gy * gap;
  f.oz[to] = z + gz * gap;
  const { subsurface } = geometry.materials[f.material[i]!]!;
  f.dr[to] = f.dr[i]! * subsurface;
  f.dg[to] = f.dg[i]! * subsurface;
  f.db[to] = f.db[i]! * subsurface;
  f.fr[to] = f.fg[to] = f.fb[to] = f.f90[to] = 0;
  f.cover[to] = f.cover90[to] = 0;
  f.lost[to] = 0;
  f.alpha[to] = f.alpha[i]!;
  f.row[to] = f.row[i]!;
  f.chance[to] = 0;
  f.pass[to] = OPAQUE;
  f.extra[to] = 0;
  return true;
}
