// Skin: at the first vertex that the camera sees, diffuse light goes in there and comes out nearby. The exit is found by a
// probe through the surface (King, Kulla, Conty, Fajardo 2013, "BSSRDF Importance Sampling"), radii by normalised
// diffusion (Christensen, Burley 2015), axes and channels weighed together by their joint density (one-sample MIS).
import type { RayKernel } from '@plinket/kernel';
import { cosTurn, dimension, maskWords, openDimension, shiftedA, shiftedB, sinTurn } from '../math/index.ts';
import type { SceneGeometry } from '../scene/index.ts';
import { DIFFUSION_REACH, diffusionProfile, diffusionWidth, sampleDiffusion } from '../surface/index.ts';
import { DIFFUSE, OPAQUE, UNSCATTERED, type Batch } from './batch.ts';
import { DEPTH, INSIDE, stepKey } from './dimensions.ts';

/** Surfaces that one probe may find. */
const FOUND = 3;
const AXES = [0.5, 0.25, 0.25] as const;

const first = dimension(),
  second = dimension();

/** Scratch of the probes: which path each is of, and the exit that it found: triangle, weights, how many there were. */
export interface Probes {
  path: Int32Array;
  id: Int32Array;
  u: Float32Array;
  v: Float32Array;
  found: Uint8Array;
}

/** Scratch for a batch of this capacity. */
export function makeProbes(capacity: number): Probes {
  return {
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
  const x = batch.gx[i]!,
    y = batch.gy[i]!,
    z = batch.gz[i]!;
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

const widths = new Float64Array(3);

function widthsAt(geometry: SceneGeometry, batch: Batch, i: number): void {
  const m = geometry.materials[batch.material[i]!]!;
  widths[0] = diffusionWidth(m.freePath[0], Math.min(0.99, m.base[0]));
  widths[1] = diffusionWidth(m.freePath[1], Math.min(0.99, m.base[1]));
  widths[2] = diffusionWidth(m.freePath[2], Math.min(0.99, m.base[2]));
}

/**
 * Sends the diffuse light of first vertices with depth to where it comes out. Each such path either stays for the sharp
 * lobes alone or moves to its exit for the diffuse lobe alone, both weighed for the choice. Paths whose probe finds
 * nothing end. Answers how many probe rays were traced.
 */
export function comeOutElsewhere(
  batch: Batch,
  kernel: RayKernel,
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
    if (batch.pass[i] !== OPAQUE || batch.depth[i] !== 0 || batch.label[i] !== UNSCATTERED) continue;
    const m = geometry.materials[batch.material[i]!]!;
    if (m.subsurface <= 0) continue;
    const cell = batch.cell[i]!;
    const c = batch.chance[i]!;
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
    widthsAt(geometry, batch, i);
    const channel = Math.min(2, Math.floor(choice * 3)),
      rest = choice * 3 - channel;
    const axis = rest < 0.5 ? 0 : rest < 0.75 ? 1 : 2;
    const d = widths[channel]!,
      far = DIFFUSION_REACH * d,
      r = sampleDiffusion(shiftedA(second, mask, cell), d);
    if (r >= far) {
      batch.tr[i] = batch.tg[i] = batch.tb[i] = 0;
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
      const at = e === 0 ? batch.px[i]! : e === 1 ? batch.py[i]! : batch.pz[i]!;
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
  const traced = follow(batch, kernel, geometry, probes, n);
  for (let j = 0; j < n; j++) arrive(batch, geometry, probes, j);
  return traced;
}

/** Follows the probes through the surfaces of their own material and picks one exit for each. Answers the rays traced. */
function follow(batch: Batch, kernel: RayKernel, geometry: SceneGeometry, probes: Probes, count: number): number {
  const { rays, hits, hitIds } = kernel;
  const mask = maskWords();
  let traced = 0;
  for (let pass = 1, any = true; any && pass <= FOUND; pass++) {
    kernel.closest(count);
    traced += count;
    any = false;
    for (let j = 0; j < count; j++) {
      const id = hitIds[j * 4 + 3]!;
      if (id < 0) continue;
      any = true;
      rays[j * 8 + 3] = hits[j * 4]! + 2e-5;
      const path = probes.path[j]!;
      if (geometry.triangleMaterial[id] !== batch.material[path]!) continue;
      // one of those found, each with the same chance (reservoir sampling)
      const seen = probes.found[j]! + 1;
      probes.found[j] = seen;
      const u = (shiftedB(first, mask, batch.cell[path]!) * 7.13 * pass) % 1;
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
  batch.tr[i] = batch.tr[i]! / c;
  batch.tg[i] = batch.tg[i]! / c;
  batch.tb[i] = batch.tb[i]! / c;
  batch.dr[i] = batch.dg[i] = batch.db[i] = 0;
  batch.chance[i] = 1;
}

/** The path goes on with its diffuse lobe alone. */
function leave(batch: Batch, i: number, k: number): void {
  batch.tr[i] = batch.tr[i]! * k;
  batch.tg[i] = batch.tg[i]! * k;
  batch.tb[i] = batch.tb[i]! * k;
  batch.label[i] = DIFFUSE;
  batch.fr[i] = batch.fg[i] = batch.fb[i] = batch.f90[i] = 0;
  batch.extra[i] = 0;
  batch.chance[i] = 0;
}

/** Moves a path to the exit that its probe found, weighed by profile over density. */
function arrive(batch: Batch, geometry: SceneGeometry, probes: Probes, j: number): void {
  const i = probes.path[j]!;
  const found = probes.found[j]!;
  if (found === 0) {
    batch.tr[i] = batch.tg[i] = batch.tb[i] = 0;
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
  const at = (from: Float32Array, k: number) => from[a + k]! * w + from[b + k]! * u + from[c + k]! * v;
  const x = at(positions, 0),
    y = at(positions, 1),
    z = at(positions, 2);
  const ux = positions[b]! - positions[a]!,
    uy = positions[b + 1]! - positions[a + 1]!,
    uz = positions[b + 2]! - positions[a + 2]!,
    wx = positions[c]! - positions[a]!,
    wy = positions[c + 1]! - positions[a + 1]!,
    wz = positions[c + 2]! - positions[a + 2]!;
  let gx = uy * wz - uz * wy,
    gy = uz * wx - ux * wz,
    gz = ux * wy - uy * wx;
  let nx = at(normals, 0),
    ny = at(normals, 1),
    nz = at(normals, 2);
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
  widthsAt(geometry, batch, i);
  const ex = x - batch.px[i]!,
    ey = y - batch.py[i]!,
    ez = z - batch.pz[i]!,
    r2 = ex * ex + ey * ey + ez * ez,
    r = Math.sqrt(r2);
  let density = 0;
  for (let axis = 0; axis < 3; axis++) {
    const k = axis * 3;
    const along = ex * axes[k]! + ey * axes[k + 1]! + ez * axes[k + 2]!,
      cos = Math.abs(gx * axes[k]! + gy * axes[k + 1]! + gz * axes[k + 2]!),
      off = Math.sqrt(Math.max(0, r2 - along * along));
    for (let channel = 0; channel < 3; channel++) {
      const d = widths[channel]!,
        far = DIFFUSION_REACH * d;
      if (r >= far || off >= far) continue;
      density += (AXES[axis]! / 3) * diffusionProfile(off, d) * cos;
    }
  }
  if (!(density > 0)) {
    batch.tr[i] = batch.tg[i] = batch.tb[i] = 0;
    return;
  }
  const k = found / density;
  batch.tr[i] = batch.tr[i]! * diffusionProfile(r, widths[0]!) * k;
  batch.tg[i] = batch.tg[i]! * diffusionProfile(r, widths[1]!) * k;
  batch.tb[i] = batch.tb[i]! * diffusionProfile(r, widths[2]!) * k;
  batch.px[i] = x;
  batch.py[i] = y;
  batch.pz[i] = z;
  batch.gx[i] = gx;
  batch.gy[i] = gy;
  batch.gz[i] = gz;
  batch.nx[i] = nx;
  batch.ny[i] = ny;
  batch.nz[i] = nz;
  // nobody looks at it from outside any more; the lobe is Lambertian, the view only has to be above
  batch.vx[i] = nx;
  batch.vy[i] = ny;
  batch.vz[i] = nz;
  batch.triangle[i] = id;
  const gap = batch.gap[i]!;
  batch.ox[i] = x + gx * gap;
  batch.oy[i] = y + gy * gap;
  batch.oz[i] = z + gz * gap;
}
