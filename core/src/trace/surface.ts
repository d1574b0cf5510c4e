import type { RayKernel } from '@plinket/kernel';
import type { SceneGeometry } from '../scene/index.ts';
import { DIELECTRIC_F0, roughnessToAlpha } from '../surface/index.ts';
import type { Batch } from './batch.ts';

/** Distance by which new rays start off the surface, metres. */
export const SURFACE_OFFSET = 3e-5;

/** Materials as flat numbers: base r g b, metallic, alpha, clear. */
export function packMaterials(geometry: SceneGeometry): Float32Array {
  const out = new Float32Array(geometry.materials.length * 6);
  geometry.materials.forEach((m, i) => out.set([...m.base, m.metallic, roughnessToAlpha(m.roughness), m.clear ? 1 : 0], i * 6));
  return out;
}

/**
 * Stands every path that met something on its surface point, closing up the ranks; answers how many there are.
 * Paths that met nothing must have been dealt with before; paths beyond `lastDepth` bounces end here.
 */
export function standOnSurfaces(
  batch: Batch,
  kernel: RayKernel,
  geometry: SceneGeometry,
  materials: Float32Array,
  count: number,
  lastDepth: number,
): number {
  const { rays, hits, hitIds } = kernel;
  const { positions, indices } = geometry.mesh;
  const { normals, colours, triangleMaterial } = geometry;
  let n = 0;
  for (let i = 0; i < count; i++) {
    const id = hitIds[i * 4 + 3]!;
    if (id < 0 || batch.depth[i]! > lastDepth) continue;
    const r = i * 8,
      t = hits[i * 4]!,
      u = hits[i * 4 + 1]!,
      v = hits[i * 4 + 2]!,
      w = 1 - u - v;
    const dx = rays[r + 4]!,
      dy = rays[r + 5]!,
      dz = rays[r + 6]!;
    const a = indices[id * 3]! * 3,
      b = indices[id * 3 + 1]! * 3,
      c = indices[id * 3 + 2]! * 3;
    const ax = positions[a]!,
      ay = positions[a + 1]!,
      az = positions[a + 2]!;
    const ux = positions[b]! - ax,
      uy = positions[b + 1]! - ay,
      uz = positions[b + 2]! - az;
    const wx = positions[c]! - ax,
      wy = positions[c + 1]! - ay,
      wz = positions[c + 2]! - az;
    let gx = uy * wz - uz * wy,
      gy = uz * wx - ux * wz,
      gz = ux * wy - uy * wx;
    const inside = gx * dx + gy * dy + gz * dz > 0;
    const gl = (inside ? -1 : 1) / Math.sqrt(gx * gx + gy * gy + gz * gz);
    gx *= gl;
    gy *= gl;
    gz *= gl;
    let nx = normals[a]! * w + normals[b]! * u + normals[c]! * v,
      ny = normals[a + 1]! * w + normals[b + 1]! * u + normals[c + 1]! * v,
      nz = normals[a + 2]! * w + normals[b + 2]! * u + normals[c + 2]! * v;
    // a shading normal that turns away from the viewer or from its own triangle is not believed
    const flip = nx * gx + ny * gy + nz * gz < 0 ? -1 : 1;
    const nl = flip / Math.sqrt(nx * nx + ny * ny + nz * nz);
    nx *= nl;
    ny *= nl;
    nz *= nl;
    if (!(nx * dx + ny * dy + nz * dz < -1e-3)) {
      nx = gx;
      ny = gy;
      nz = gz;
    }
    const m = triangleMaterial[id]! * 6;
    const metal = materials[m + 3]!;
    const br = materials[m]! * (colours[a]! * w + colours[b]! * u + colours[c]! * v),
      bg = materials[m + 1]! * (colours[a + 1]! * w + colours[b + 1]! * u + colours[c + 1]! * v),
      bb = materials[m + 2]! * (colours[a + 2]! * w + colours[b + 2]! * u + colours[c + 2]! * v);
    const clear = materials[m + 5]!;
    const rest = clear ? 0 : 1 - metal;
    batch.dr[n] = br * rest;
    batch.dg[n] = bg * rest;
    batch.db[n] = bb * rest;
    const fr = DIELECTRIC_F0 * (1 - metal) + br * metal,
      fg = DIELECTRIC_F0 * (1 - metal) + bg * metal,
      fb = DIELECTRIC_F0 * (1 - metal) + bb * metal;
    batch.fr[n] = fr;
    batch.fg[n] = fg;
    batch.fb[n] = fb;
    batch.alpha[n] = materials[m + 4]!;
    // lobe choice by what each would return at this angle (Schlick), never certain where both exist
    const cos = -(nx * dx + ny * dy + nz * dz);
    const m1 = 1 - cos,
      m2 = m1 * m1,
      k = m2 * m2 * m1;
    const spec = (fr + fg + fb) * (1 - k) + 3 * k,
      diff = (br + bg + bb) * rest;
    batch.chance[n] = diff <= 0 ? (clear ? 0.25 : 1) : Math.min(0.9, Math.max(0.1, spec / (spec + diff)));
    batch.clear[n] = clear ? (inside ? 2 : 1) : 0;
    batch.px[n] = rays[r]! + dx * t;
    batch.py[n] = rays[r + 1]! + dy * t;
    batch.pz[n] = rays[r + 2]! + dz * t;
    batch.gx[n] = gx;
    batch.gy[n] = gy;
    batch.gz[n] = gz;
    batch.nx[n] = nx;
    batch.ny[n] = ny;
    batch.nz[n] = nz;
    batch.vx[n] = -dx;
    batch.vy[n] = -dy;
    batch.vz[n] = -dz;
    if (n !== i) {
      batch.pixel[n] = batch.pixel[i]!;
      batch.key[n] = batch.key[i]!;
      batch.label[n] = batch.label[i]!;
      batch.depth[n] = batch.depth[i]!;
      batch.tr[n] = batch.tr[i]!;
      batch.tg[n] = batch.tg[i]!;
      batch.tb[n] = batch.tb[i]!;
      batch.density[n] = batch.density[i]!;
    }
    n++;
  }
  return n;
}
