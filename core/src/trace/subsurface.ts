// Skin: at the first vertex that the camera sees, diffuse light goes in there and comes out nearby. The exit is found by a
// probe through the surface (King, Kulla, Conty, Fajardo 2013, "BSSRDF Importance Sampling"), radii by normalised
// diffusion (Christensen, Burley 2015), axes and channels weighed together by their joint density (one-sample MIS).
import type { RayKernel } from '@plinket/kernel';
import { cosTurn, dimension, maskWords, openDimension, shiftedA, shiftedB, sinTurn } from '../math/index.ts';
import type { SceneGeometry } from '../scene/index.ts';
import { DIFFUSION_REACH, diffusionProfile, diffusionWidth, sampleDiffusion } from '../surface/index.ts';
import { DIFFUSE, OPAQUE, UNSCATTERED, type Batch } from './batch.ts';
import { DEPTH, INSIDE, stepKey } from './dimensions.ts';
import type { HitCache } from './hit-cache.ts';

/** Surfaces that one probe may find. */
const FOUND = 3;
const AXES = [0.5, 0.25, 0.25] as const;

const first = dimension(),
  second = dimension();

/** Scratch of the probes: which path each is of, and the exit that it found: triangle, weights, how many there were. */
export interface Probes {
  /** Of each material the widths d of its three channels' profiles, metres. */
  widths: Float64Array;
  path: Int32Array;
  id: Int32Array;
  u: Float32Array;
  v: Float32Array;
  found: Uint8Array;
}

/** Scratch for a batch of this capacity, over a geometry's materials. */
export function makeProbes(capacity: number, materials: SceneGeometry['materials']): Probes {
  return {
    widths: Float64Array.from(materials.flatMap((m) => m.base.map((albedo, k) => diffusionWidth(m.freePath[k]!, Math.min(0.99, albedo))))),
    path: new Int32Array(capacity),
    id: new Int32Array(capacity),
    u: new Float32Array(capacity),
    v: new Float32Array(capacity),
    found: new Uint8Array(capacity),
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
 * Sends the diffuse light of first vertices with depth to where it comes out. Each such path either stays for the sharp
 * lobes alone or moves to its exit for the diffuse lobe alone, both weighed for the choice. Paths whose probe finds
 * nothing end. Answers how many probe rays were traced.
 */
export function comeOutElsewhere(
  batch: Batch,
  kernel: RayKernel,
  cache: HitCache,
  geometry: SceneGeometry,
  probes: Probes,
  count: number,
  sample: number,
  step: number,
  seed: number,
): number {
  const { rays } = kernel;
  const mask = maskWords();
  openDimension(first, sample, stepKey(seed, step, INSIDE));
  openDimension(second, sample, stepKey(seed, step, DEPTH));
  let n = 0;
  for (let i = 0; i < count; i++) {
    if (batch.fields.pass[i] !== OPAQUE || batch.fields.depth[i] !== 0 || batch.fields.label[i] !== UNSCATTERED) continue;
    const m = geometry.materials[batch.fields.material[i]!]!;
    if (m.subsurface <= 0) continue;
    const cell = batch.fields.cell[i]!;
    const c = batch.fields.chance[i]!;
    let choice = shiftedA(first, mask, cell);
    if (choice < c) {
      stayForReflection(batch, i, c);
      continue;
    }
    choice = (choice - c) / (1 - c);
    leave(batch, i, 1 / (1 - c));
    // only a part of the diffuse light may go in; the rest stays, Lambertian
    if (choice >= m.subsurface) continue;
    choice /= m.subsurface;
    frameAt(batch, i);
    const channel = Math.min(2, Math.floor(choice * 3)),
      rest = choice * 3 - channel;
    const axis = rest < 0.5 ? 0 : rest < 0.75 ? 1 : 2;
    const d = probes.widths[batch.fields.material[i]! * 3 + channel]!,
      far = DIFFUSION_REACH * d,
      r = sampleDiffusion(shiftedA(second, mask, cell), d);
    if (r >= far) {
      batch.fields.tr[i] = batch.fields.tg[i] = batch.fields.tb[i] = 0;
      continue;
    }
    const turn = shiftedB(second, mask, cell),
      a = r * cosTurn(turn),
      b = r * sinTurn(turn),
      h = Math.sqrt(far * far - r * r);
    const k = axis * 3,
      p = ((axis + 1) % 3) * 3,
      q = ((axis + 2) % 3) * 3;
    const o = n * 8;
    for (let e = 0; e < 3; e++) {
      const at = e === 0 ? batch.fields.px[i]! : e === 1 ? batch.fields.py[i]! : batch.fields.pz[i]!;
      rays[o + e] = at + axes[p + e]! * a + axes[q + e]! * b + axes[k + e]! * h;
      rays[o + 4 + e] = -axes[k + e]!;
    }
    rays[o + 3] = 0;
    rays[o + 7] = 2 * h;
    probes.path[n] = i;
    probes.found[n] = 0;
    n++;
  }
  if (n === 0) return 0;
  const traced = follow(batch, kernel, cache, geometry, probes, n);
  for (let j = 0; j < n; j++) arrive(batch, geometry, probes, j);
  return traced;
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
      if (id < 0) continue;
      any = true;
      rays[j * 8 + 3] = hits[j * 4]! + 2e-5;
      const path = probes.path[j]!;
      if (geometry.triangleMaterial[id] !== batch.fields.material[path]!) continue;
      // one of those found, each with the same chance (reservoir sampling)
      const seen = probes.found[j]! + 1;
      probes.found[j] = seen;
      const u = (shiftedB(first, mask, batch.fields.cell[path]!) * 7.13 * pass) % 1;
      if (u * seen >= 1) continue;
      probes.id[j] = id;
      probes.u[j] = hits[j * 4 + 1]!;
      probes.v[j] = hits[j * 4 + 2]!;
    }
  }
  return traced;
}

/** The path stays where it is, for the sharp lobes alone. */
function stayForReflection(batch: Batch, i: number, c: number): void {
  batch.fields.tr[i] = batch.fields.tr[i]! / c;
  batch.fields.tg[i] = batch.fields.tg[i]! / c;
  batch.fields.tb[i] = batch.fields.tb[i]! / c;
  batch.fields.dr[i] = batch.fields.dg[i] = batch.fields.db[i] = 0;
  batch.fields.chance[i] = 1;
}

/** The path goes on with its diffuse lobe alone. */
function leave(batch: Batch, i: number, k: number): void {
  batch.fields.tr[i] = batch.fields.tr[i]! * k;
  batch.fields.tg[i] = batch.fields.tg[i]! * k;
  batch.fields.tb[i] = batch.fields.tb[i]! * k;
  batch.fields.label[i] = DIFFUSE;
  batch.fields.fr[i] = batch.fields.fg[i] = batch.fields.fb[i] = batch.fields.f90[i] = 0;
  batch.fields.cover[i] = batch.fields.cover90[i] = 0;
  batch.fields.extra[i] = 0;
  batch.fields.chance[i] = 0;
}

function blend(from: Float32Array, a: number, b: number, c: number, w: number, u: number, v: number): number {
  return from[a]! * w + from[b]! * u + from[c]! * v;
}

/** The profile at a probe's distance `off` from its axis, where a probe of this width reaches an exit `r` away. */
const within = (r: number, off: number, d: number): number => (r < DIFFUSION_REACH * d ? diffusionProfile(off, d) : 0);

/** Moves a path to the exit that its probe found, weighed by profile over density. */
function arrive(batch: Batch, geometry: SceneGeometry, probes: Probes, j: number): void {
  const i = probes.path[j]!;
  const found = probes.found[j]!;
  if (found === 0) {
    batch.fields.tr[i] = batch.fields.tg[i] = batch.fields.tb[i] = 0;
    return;
  }
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
  const ex = x - batch.fields.px[i]!,
    ey = y - batch.fields.py[i]!,
    ez = z - batch.fields.pz[i]!,
    r2 = ex * ex + ey * ey + ez * ez,
    r = Math.sqrt(r2);
  const m = batch.fields.material[i]! * 3,
    d0 = probes.widths[m]!,
    d1 = probes.widths[m + 1]!,
    d2 = probes.widths[m + 2]!;
  // every axis might have found this exit, with every channel's radii
  let density = 0;
  for (let axis = 0; axis < 3; axis++) {
    const k = axis * 3;
    const along = ex * axes[k]! + ey * axes[k + 1]! + ez * axes[k + 2]!,
      cos = Math.abs(gx * axes[k]! + gy * axes[k + 1]! + gz * axes[k + 2]!),
      off = Math.sqrt(Math.max(0, r2 - along * along));
    const profiles = within(r, off, d0) + within(r, off, d1) + within(r, off, d2);
    density += (AXES[axis]! / 3) * profiles * cos;
  }
  if (!(density > 0)) {
    batch.fields.tr[i] = batch.fields.tg[i] = batch.fields.tb[i] = 0;
    return;
  }
  const k = found / density;
  batch.fields.tr[i] = batch.fields.tr[i]! * diffusionProfile(r, d0) * k;
  batch.fields.tg[i] = batch.fields.tg[i]! * diffusionProfile(r, d1) * k;
  batch.fields.tb[i] = batch.fields.tb[i]! * diffusionProfile(r, d2) * k;
  batch.fields.px[i] = x;
  batch.fields.py[i] = y;
  batch.fields.pz[i] = z;
  batch.fields.gx[i] = gx;
  batch.fields.gy[i] = gy;
  batch.fields.gz[i] = gz;
  batch.fields.nx[i] = nx;
  batch.fields.ny[i] = ny;
  batch.fields.nz[i] = nz;
  // nobody looks at it from outside any more; the lobe is Lambertian, the view only has to be above
  batch.fields.vx[i] = nx;
  batch.fields.vy[i] = ny;
  batch.fields.vz[i] = nz;
  batch.fields.triangle[i] = id;
  const gap = batch.fields.gap[i]!;
  batch.fields.ox[i] = x + gx * gap;
  batch.fields.oy[i] = y + gy * gap;
  batch.fields.oz[i] = z + gz * gap;
}
