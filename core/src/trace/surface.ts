import type { RayKernel, Shader } from '@plinket/kernel';
import { dimension, maskWords, openDimension, shiftedA, shiftedB } from '../math/index.ts';
import type { SceneGeometry } from '../scene/index.ts';
import {
  ALBEDO_COLUMNS,
  albedoAt,
  albedoBetween,
  albedoTables,
  hasAlpha,
  normalReflectance,
  roughnessToAlpha,
  rowOf,
  sheenAlbedo,
  type Material,
} from '../surface/index.ts';
import { CLEAR, OPAQUE, THROUGH, type Batch } from './batch.ts';
import { HOLE, stepKey } from './dimensions.ts';
import { lookUpPictures, picture } from './pictures.ts';

/** Distance by which new rays start off the surface: metres, and more where single precision is coarser. */
const GAP = 2e-5;
const GAP_PER_METRE = 5e-7;

/** A material with what does not depend on the point worked out. */
export interface Prepared {
  source: Material;
  /** Reflectance at normal incidence of the dielectric, by channel and in the mean. */
  f0: [number, number, number];
  f0Mean: number;
  extra: boolean;
  /** Needs the slow way: pictures, holes, transmission, one side. */
  special: boolean;
  sheenMost: number;
}

/** Prepares a geometry's materials for standing on. */
export function prepareMaterials(geometry: SceneGeometry): Prepared[] {
  return geometry.materials.map((m) => {
    const at = normalReflectance(m.ior) * m.specular;
    const f0 = m.specularTint.map((t) => Math.min(1, at * t)) as [number, number, number];
    return {
      source: m,
      f0,
      f0Mean: (f0[0] + f0[1] + f0[2]) / 3,
      extra: m.coat > 0 || m.fibres > 0 || m.sheen.some((v) => v > 0),
      special: m.textures !== undefined || hasAlpha(m) || m.transmission > 0 || !m.twoSided,
      sheenMost: Math.max(...m.sheen),
    };
  });
}

const hole = dimension();
/** Sixteen floats for each material, as the kernel's shader wants them (`stand` in kernel/assembly/shade). */
export function packMaterials(materials: Prepared[]): Float32Array {
  const { meanA, meanB } = albedoTables();
  const out = new Float32Array(materials.length * 16);
  materials.forEach(({ source: m, f0, f0Mean, extra, special }, i) => {
    const row = rowOf(m.roughness),
      plain = !extra && !special && !m.unlit;
    const inMean = 1 / Math.max(0.05, 1 - f0Mean * meanA[row]! - m.specular * meanB[row]!);
    out.set(
      [...m.base, m.metallic, m.roughness, ...f0, f0Mean, m.specular, plain ? 1 : 0, row, roughnessToAlpha(m.roughness), inMean],
      i * 16,
    );
  });
  return out;
}

/**
 * Stands every path that met something on its surface point, closing up the ranks; answers how many there are.
 * Paths that met nothing must have been dealt with before; paths beyond `lastDepth` bounces end here. The kernel's shader
 * does it for plain surfaces where it is there.
 */
export function standOnSurfaces(
  batch: Batch,
  kernel: RayKernel,
  shader: Shader | undefined,
  geometry: SceneGeometry,
  materials: Prepared[],
  count: number,
  sample: number,
  step: number,
  seed: number,
  lastDepth: number,
): number {
  const { extra } = batch.fields;
  const n = shader ? shader.stand(count, lastDepth) : standPlainly(batch, kernel, geometry, materials, count, lastDepth);
  openDimension(hole, sample, stepKey(seed, step, HOLE));
  for (let i = 0; i < n; i++) if (extra[i] !== 0) finish(batch, geometry, materials, i);
  return n;
}

/** The twin of the shader's `stand`: all that follows from geometry; every surface is left for `finish`. */
function standPlainly(
  batch: Batch,
  kernel: RayKernel,
  geometry: SceneGeometry,
  materials: Prepared[],
  count: number,
  lastDepth: number,
): number {
  const { rays, hits, hitIds } = kernel;
  const { positions, indices } = geometry.mesh;
  const { normals, colours, triangleMaterial } = geometry;
  const f = batch.fields;
  let n = 0;
  for (let i = 0; i < count; i++) {
    const id = hitIds[i * 4 + 3]!;
    if (id < 0 || f.depth[i]! > lastDepth) continue;
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
    const bx = positions[b]!,
      by = positions[b + 1]!,
      bz = positions[b + 2]!;
    const cx = positions[c]!,
      cy = positions[c + 1]!,
      cz = positions[c + 2]!;
    const ux = bx - ax,
      uy = by - ay,
      uz = bz - az;
    const wx = cx - ax,
      wy = cy - ay,
      wz = cz - az;
    let gx = uy * wz - uz * wy,
      gy = uz * wx - ux * wz,
      gz = ux * wy - uy * wx;
    const inside = gx * dx + gy * dy + gz * dz > 0;
    const gl = (inside ? -1 : 1) / Math.sqrt(gx * gx + gy * gy + gz * gz);
    gx *= gl;
    gy *= gl;
    gz *= gl;
    const nax = normals[a]!,
      nay = normals[a + 1]!,
      naz = normals[a + 2]!,
      nbx = normals[b]!,
      nby = normals[b + 1]!,
      nbz = normals[b + 2]!,
      ncx = normals[c]!,
      ncy = normals[c + 1]!,
      ncz = normals[c + 2]!;
    const nx = nax * w + nbx * u + ncx * v,
      ny = nay * w + nby * u + ncy * v,
      nz = naz * w + nbz * u + ncz * v;
    // a shading normal that turns away from its own triangle is not believed
    const flip = nx * gx + ny * gy + nz * gz < 0 ? -1 : 1;
    const nl = flip / Math.sqrt(nx * nx + ny * ny + nz * nz);
    // positions are taken from the triangle, which is more exact than along the ray
    const x = ax * w + bx * u + cx * v,
      y = ay * w + by * u + cy * v,
      z = az * w + bz * u + cz * v;
    const gap = GAP + GAP_PER_METRE * Math.max(Math.abs(x), Math.abs(y), Math.abs(z));
    const k = triangleMaterial[id]!,
      m = materials[k]!.source;
    f.dr[n] = m.base[0] * (colours[a]! * w + colours[b]! * u + colours[c]! * v);
    f.dg[n] = m.base[1] * (colours[a + 1]! * w + colours[b + 1]! * u + colours[c + 1]! * v);
    f.db[n] = m.base[2] * (colours[a + 2]! * w + colours[b + 2]! * u + colours[c + 2]! * v);
    f.lx[n] = u;
    f.ly[n] = v;
    f.pass[n] = inside ? 1 : 0;
    f.extra[n] = 1;
    f.px[n] = x;
    f.py[n] = y;
    f.pz[n] = z;
    f.gx[n] = gx;
    f.gy[n] = gy;
    f.gz[n] = gz;
    f.nx[n] = nx * nl;
    f.ny[n] = ny * nl;
    f.nz[n] = nz * nl;
    f.vx[n] = -dx;
    f.vy[n] = -dy;
    f.vz[n] = -dz;
    f.gap[n] = gap;
    f.triangle[n] = id;
    f.material[n] = k;
    // Shadow rays start on the curved surface that the facets stand for (Hanika 2021, "Hacking the Shadow Terminator"):
    // the point is lifted off each corner's tangent plane where it lies below, and the three are blended.
    const sa = Math.min(0, ((x - ax) * nax + (y - ay) * nay + (z - az) * naz) * flip) * flip * w,
      sb = Math.min(0, ((x - bx) * nbx + (y - by) * nby + (z - bz) * nbz) * flip) * flip * u,
      sc = Math.min(0, ((x - cx) * ncx + (y - cy) * ncy + (z - cz) * ncz) * flip) * flip * v;
    f.ox[n] = x - (sa * nax + sb * nbx + sc * ncx) + gx * gap;
    f.oy[n] = y - (sa * nay + sb * nby + sc * ncy) + gy * gap;
    f.oz[n] = z - (sa * naz + sb * nbz + sc * ncz) + gz * gap;
    batch.movePath(i, n);
    f.travelled[n] = f.travelled[n]! + t;
    n++;
  }
  return n;
}

/** Works out what the surface does at a point that `stand` left: pictures, layers, holes, lobes. */
function finish(batch: Batch, geometry: SceneGeometry, materials: Prepared[], n: number): void {
  const f = batch.fields;
  const { A, B, meanA, meanB } = albedoTables();
  const prepared = materials[f.material[n]!]!,
    m = prepared.source;
  const inside = f.pass[n] === 1,
    cell = f.cell[n]!;
  const dx = -f.vx[n]!,
    dy = -f.vy[n]!,
    dz = -f.vz[n]!;
  let nx = f.nx[n]!,
    ny = f.ny[n]!,
    nz = f.nz[n]!;
  let red = f.dr[n]!,
    green = f.dg[n]!,
    blue = f.db[n]!;
  let metallic = m.metallic,
    roughness = m.roughness,
    pass = OPAQUE;
  if (prepared.special) {
    lookUpPictures(geometry, m, f.triangle[n]!, f.lx[n]!, f.ly[n]!, nx, ny, nz);
    red *= picture.r;
    green *= picture.g;
    blue *= picture.b;
    metallic *= picture.metallic;
    roughness *= picture.roughness;
    nx = picture.nx;
    ny = picture.ny;
    nz = picture.nz;
    const mask = maskWords();
    const covered = m.alphaMode === 'opaque' ? 1 : m.alphaMode === 'mask' ? (picture.alpha >= m.alphaCutoff ? 1 : 0) : picture.alpha;
    if ((!m.twoSided && inside && m.transmission === 0) || (covered < 1 && shiftedA(hole, mask, cell) >= covered)) pass = THROUGH;
    else if (m.transmission > 0 && shiftedB(hole, mask, cell) < m.transmission) pass = inside ? THROUGH : CLEAR;
  }
  if (m.unlit) red = green = blue = 0;
  if (!(nx * dx + ny * dy + nz * dz < -1e-3)) {
    nx = f.gx[n]!;
    ny = f.gy[n]!;
    nz = f.gz[n]!;
  }
  const cos = Math.min(1, -(nx * dx + ny * dy + nz * dz));
  // reflectance, and what it leaves for the diffuse layer (Kulla, Conty 2017: reciprocal and without loss)
  const solid = 1 - metallic,
    f0 = prepared.f0;
  const fr = m.unlit ? 0 : f0[0] * solid + red * metallic,
    fg = m.unlit ? 0 : f0[1] * solid + green * metallic,
    fb = m.unlit ? 0 : f0[2] * solid + blue * metallic;
  const f90 = m.unlit ? 0 : m.specular * solid + metallic;
  const row = rowOf(roughness);
  const ea = albedoBetween(A, roughness, cos),
    eb = albedoBetween(B, roughness, cos);
  const inMean = Math.max(0.05, 1 - prepared.f0Mean * meanA[row]! - m.specular * meanB[row]!);
  const leaves = ((1 - prepared.f0Mean * ea - m.specular * eb) / inMean) * solid;
  f.lost[n] = 1 / Math.max(0.05, ea + eb) - 1;
  const spec = (fr + fg + fb) * ea + 3 * f90 * eb;
  let sharp = spec,
    scale = 1;
  f.extra[n] = prepared.extra ? 1 : 0;
  if (prepared.extra) {
    batch.coat[n] = m.coat;
    batch.thin[n] = m.fibres * 0.5;
    batch.coatChance[n] = 0;
    if (m.coat > 0) {
      const cr = rowOf(m.coatRoughness);
      const e = m.coat * (0.04 * albedoAt(A, cr, cos) + albedoAt(B, cr, cos)),
        mean = m.coat * (0.04 * meanA[cr]! + meanB[cr]!);
      batch.coatAlpha[n] = roughnessToAlpha(m.coatRoughness);
      batch.coatRow[n] = cr * ALBEDO_COLUMNS;
      batch.coatChance[n] = (3 * e) / Math.max(1e-6, 3 * e + spec);
      scale *= (1 - e) / (1 - mean);
      sharp += 3 * e;
    }
    if (prepared.sheenMost > 0) {
      scale *= 1 - prepared.sheenMost * sheenAlbedo(cos, m.sheenRoughness);
      batch.sheenR[n] = m.sheen[0];
      batch.sheenG[n] = m.sheen[1];
      batch.sheenB[n] = m.sheen[2];
      batch.sheenRoughness[n] = m.sheenRoughness;
    } else batch.sheenR[n] = batch.sheenG[n] = batch.sheenB[n] = 0;
    if (m.fibres > 0) strandAt(batch, geometry, n, nx, ny, nz);
    else batch.sx[n] = batch.sy[n] = batch.sz[n] = 0;
    batch.under[n] = scale;
  }
  const broad = (red + green + blue) * solid + 3 * prepared.sheenMost;
  if (pass === CLEAR) {
    // what the surface does not reflect passes, tinted; the reflection is taken a quarter of the time
    f.dr[n] = red;
    f.dg[n] = green;
    f.db[n] = blue;
    f.chance[n] = 0.25;
  } else {
    f.dr[n] = red * leaves * scale;
    f.dg[n] = green * leaves * scale;
    f.db[n] = blue * leaves * scale;
    // lobe choice by what each would return at this angle, never certain where both exist
    f.chance[n] = broad <= 0 ? 1 : Math.min(0.9, Math.max(0.1, sharp / (sharp + broad)));
  }
  f.nx[n] = nx;
  f.ny[n] = ny;
  f.nz[n] = nz;
  f.fr[n] = fr;
  f.fg[n] = fg;
  f.fb[n] = fb;
  f.f90[n] = f90;
  f.cover[n] = m.unlit ? 0 : prepared.f0Mean;
  f.cover90[n] = m.unlit ? 0 : m.specular;
  f.row[n] = row * ALBEDO_COLUMNS;
  f.alpha[n] = roughnessToAlpha(roughness);
  f.pass[n] = pass;
}

/**
 * The way that strands run at a point, laid into the surface: along V of the texture coordinates, as hair is laid out (common
 * practice, no source); where there are none they hang.
 */
function strandAt(batch: Batch, geometry: SceneGeometry, n: number, nx: number, ny: number, nz: number): void {
  const { uvs } = geometry;
  let sx = 0,
    sy = 1,
    sz = 0;
  if (uvs.length > 0) {
    const { indices, positions } = geometry.mesh,
      id = batch.fields.triangle[n]! * 3;
    const a = indices[id]!,
      b = indices[id + 1]!,
      c = indices[id + 2]!;
    const du1 = uvs[b * 2]! - uvs[a * 2]!,
      dv1 = uvs[b * 2 + 1]! - uvs[a * 2 + 1]!,
      du2 = uvs[c * 2]! - uvs[a * 2]!,
      dv2 = uvs[c * 2 + 1]! - uvs[a * 2 + 1]!;
    // only the direction counts, so that the determinant need not divide; its sign neither
    if (Math.abs(du1 * dv2 - du2 * dv1) > 1e-14) {
      sx = (positions[c * 3]! - positions[a * 3]!) * du1 - (positions[b * 3]! - positions[a * 3]!) * du2;
      sy = (positions[c * 3 + 1]! - positions[a * 3 + 1]!) * du1 - (positions[b * 3 + 1]! - positions[a * 3 + 1]!) * du2;
      sz = (positions[c * 3 + 2]! - positions[a * 3 + 2]!) * du1 - (positions[b * 3 + 2]! - positions[a * 3 + 2]!) * du2;
    }
  }
  const before = Math.sqrt(sx * sx + sy * sy + sz * sz);
  const into = sx * nx + sy * ny + sz * nz;
  sx -= into * nx;
  sy -= into * ny;
  sz -= into * nz;
  const l = Math.sqrt(sx * sx + sy * sy + sz * sz);
  const flat = l < 1e-3 * before;
  batch.sx[n] = flat ? 0 : sx / l;
  batch.sy[n] = flat ? 0 : sy / l;
  batch.sz[n] = flat ? 1 : sz / l;
}
