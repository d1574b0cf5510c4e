// Where light that went into skin comes out, and by how much it counts: each colour's probe along the normal against one across, by the power heuristic
// (Veach 1997, "Robust Monte Carlo Methods for Light Transport", section 9.2.3).
import type { SceneGeometry } from '../scene/index.ts';
import { DIFFUSION_REACH, diffusionProfile } from '../surface/index.ts';
import { DIFFUSE, OPAQUE, type Batch } from './batch.ts';
import { ACROSS, ACROSS_ALONE, type Probes } from './probes.ts';

/** Light coming out over the density of its own probe up to which no other probe is asked: more would only add their noise. */
const WELL_FOUND = 1.5;

/** Normal and two tangents of the point that was last asked for. */
export const axes = new Float64Array(9);

/** The three axes at a surface point: normal, two tangents. */
export function frameAt(batch: Batch, i: number): void {
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

/** A path goes on from its exit without the others, counting `k` times. */
export function takeAlone({ fields: f }: Batch, { alone }: Probes, j: number, k = 1): void {
  f.tr[j] = alone[j * 3]! * k;
  f.tg[j] = alone[j * 3 + 1]! * k;
  f.tb[j] = alone[j * 3 + 2]! * k;
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

/** Whether a colour's own probe finds an exit about as often as light comes out there. */
const wellFound = (density: number, profile: number): boolean => WELL_FOUND * density >= profile;

/**
 * Weight over density, for one colour, of an exit among others: of the colour's own probe with its `density`, or of the one across. Its own
 * probe alone counts where that finds the exit about as often as light comes out there; a colour's own brings nothing of the others.
 */
function weightAmong(colour: number, exit: number, profile: number, density: number, across: number): number {
  if (wellFound(density, profile)) return exit === colour ? 1 / density : 0;
  const tried = exit === ACROSS ? across : exit === colour ? density : 0;
  return tried > 0 ? tried / (density * density + across * across) : 0;
}

/**
 * Puts a path at the exit that a probe found to place `to`, for the diffuse lobe alone and weighed by profile over density; not where no light
 * goes through it. Fields that only sharp lobes use are left as they are: those lobes are black.
 */
export function arrive(batch: Batch, geometry: SceneGeometry, probes: Probes, j: number, to: number, among: boolean): boolean {
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
  const along = ex * axes[0]! + ey * axes[1]! + ez * axes[2]!,
    cos = Math.abs(gx * axes[0]! + gy * axes[1]! + gz * axes[2]!),
    off = Math.sqrt(Math.max(0, r2 - along * along));
  const n0 = within(r, off, d0) * cos,
    n1 = within(r, off, d1) * cos,
    n2 = within(r, off, d2) * cos,
    p0 = diffusionProfile(r, d0),
    p1 = diffusionProfile(r, d1),
    p2 = diffusionProfile(r, d2);
  const exit = probes.exit[j]!;
  let any: number,
    tryAcross = 0;
  if (among && wellFound(n0, p0) && wellFound(n1, p1) && wellFound(n2, p2)) {
    // the one across is left out wherever the three along the normal do well, so that it needs no weight there
    if (exit === ACROSS) return false;
    any = n0 + n1 + n2;
  } else {
    // every probe of this path might have found this exit: as the only one any of them by chance, among others those that were sent
    const across = acrossAt(ex, ey, ez, gx, gy, gz, r, Math.max(d0, d1, d2));
    tryAcross = probes.tried[j]! * across;
    any = among ? n0 + n1 + n2 + tryAcross : ((1 - ACROSS_ALONE) / 3) * (n0 + n1 + n2) + ACROSS_ALONE * across;
  }
  if (!(any > 0)) return false;
  const { alone } = probes;
  const R = f.tr[i]! * p0 * found,
    G = f.tg[i]! * p1 * found,
    B = f.tb[i]! * p2 * found;
  if (!(R + G + B > 0)) return false;
  alone[to * 3] = R / any;
  alone[to * 3 + 1] = G / any;
  alone[to * 3 + 2] = B / any;
  f.tr[to] = R * weightAmong(0, exit, p0, n0, tryAcross);
  f.tg[to] = G * weightAmong(1, exit, p1, n1, tryAcross);
  f.tb[to] = B * weightAmong(2, exit, p2, n2, tryAcross);
  probes.from[to] = i;
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
