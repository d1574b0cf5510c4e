import type { SceneGeometry } from '../scene/index.ts';
import { sampleTexture, texel, type Material } from '../surface/index.ts';

/** What the pictures of a material say about the point at hand; the defaults stand for "nothing". */
export const picture = { r: 1, g: 1, b: 1, alpha: 1, roughness: 1, metallic: 1, nx: 0, ny: 0, nz: 0 };

/** Looks the pictures of a material up at a triangle's weights u v; the result stands in `picture`. */
export function lookUpPictures(
  geometry: SceneGeometry,
  m: Material,
  id: number,
  u: number,
  v: number,
  nx: number,
  ny: number,
  nz: number,
): void {
  picture.r = picture.g = picture.b = picture.roughness = picture.metallic = 1;
  picture.alpha = m.alpha;
  picture.nx = nx;
  picture.ny = ny;
  picture.nz = nz;
  const { textures } = m;
  if (!textures || geometry.uvs.length === 0) return;
  const { uvs } = geometry,
    { indices } = geometry.mesh;
  const a = indices[id * 3]! * 2,
    b = indices[id * 3 + 1]! * 2,
    c = indices[id * 3 + 2]! * 2;
  const w = 1 - u - v;
  const s = uvs[a]! * w + uvs[b]! * u + uvs[c]! * v,
    t = uvs[a + 1]! * w + uvs[b + 1]! * u + uvs[c + 1]! * v;
  if (textures.base) {
    sampleTexture(textures.base, s, t, true);
    picture.r = texel[0]!;
    picture.g = texel[1]!;
    picture.b = texel[2]!;
    picture.alpha *= texel[3]!;
  }
  if (textures.metallicRoughness) {
    sampleTexture(textures.metallicRoughness, s, t, false);
    picture.roughness = texel[1]!;
    picture.metallic = texel[2]!;
  }
  if (textures.normal) {
    // the picture's own axes on the surface: gradients of its coordinates over the triangle
    const k = textures.normal.transform;
    const du1 = uvs[b]! - uvs[a]!,
      dv1 = uvs[b + 1]! - uvs[a + 1]!,
      du2 = uvs[c]! - uvs[a]!,
      dv2 = uvs[c + 1]! - uvs[a + 1]!;
    const s1 = k[0] * du1 + k[1] * dv1,
      t1 = k[3] * du1 + k[4] * dv1,
      s2 = k[0] * du2 + k[1] * dv2,
      t2 = k[3] * du2 + k[4] * dv2;
    const det = s1 * t2 - s2 * t1;
    if (Math.abs(det) < 1e-14) return;
    sampleTexture(textures.normal, s, t, false);
    const { positions } = geometry.mesh;
    const p = indices[id * 3]! * 3,
      q = indices[id * 3 + 1]! * 3,
      r = indices[id * 3 + 2]! * 3;
    const ux = positions[q]! - positions[p]!,
      uy = positions[q + 1]! - positions[p + 1]!,
      uz = positions[q + 2]! - positions[p + 2]!,
      wx = positions[r]! - positions[p]!,
      wy = positions[r + 1]! - positions[p + 1]!,
      wz = positions[r + 2]! - positions[p + 2]!;
    const mx = (texel[0]! * 2 - 1) * m.normalScale,
      my = (texel[1]! * 2 - 1) * m.normalScale,
      mz = texel[2]! * 2 - 1;
    let tx = (ux * t2 - wx * t1) / det,
      ty = (uy * t2 - wy * t1) / det,
      tz = (uz * t2 - wz * t1) / det;
    const along = tx * nx + ty * ny + tz * nz;
    tx -= along * nx;
    ty -= along * ny;
    tz -= along * nz;
    const tl = 1 / Math.max(1e-12, Math.sqrt(tx * tx + ty * ty + tz * tz));
    tx *= tl;
    ty *= tl;
    tz *= tl;
    // glTF: V runs down the picture, the normal's Y runs up; where the picture is not mirrored (det < 0 seen from in
    // front) that is normal × tangent
    const hand = det < 0 ? 1 : -1;
    const qx = (ny * tz - nz * ty) * hand,
      qy = (nz * tx - nx * tz) * hand,
      qz = (nx * ty - ny * tx) * hand;
    const rx = tx * mx + qx * my + nx * mz,
      ry = ty * mx + qy * my + ny * mz,
      rz = tz * mx + qz * my + nz * mz;
    const l = 1 / Math.max(1e-12, Math.sqrt(rx * rx + ry * ry + rz * rz));
    picture.nx = rx * l;
    picture.ny = ry * l;
    picture.nz = rz * l;
  }
}

/** Radiance that a glowing surface gives at a hit, cd/m²; r g b stand in `out`. */
export function emissionAt(geometry: SceneGeometry, id: number, u: number, v: number, out: Float64Array): void {
  const m = geometry.materials[geometry.triangleMaterial[id]!]!;
  out[0] = m.emission[0];
  out[1] = m.emission[1];
  out[2] = m.emission[2];
  const use = m.unlit ? m.textures?.base : m.textures?.emission;
  if (m.unlit) {
    out[0] = m.base[0] * UNLIT_LUMINANCE;
    out[1] = m.base[1] * UNLIT_LUMINANCE;
    out[2] = m.base[2] * UNLIT_LUMINANCE;
  }
  if (!use || geometry.uvs.length === 0) return;
  const { uvs } = geometry,
    { indices } = geometry.mesh;
  const a = indices[id * 3]! * 2,
    b = indices[id * 3 + 1]! * 2,
    c = indices[id * 3 + 2]! * 2,
    w = 1 - u - v;
  sampleTexture(use, uvs[a]! * w + uvs[b]! * u + uvs[c]! * v, uvs[a + 1]! * w + uvs[b + 1]! * u + uvs[c + 1]! * v, true);
  for (let k = 0; k < 3; k++) out[k] = out[k]! * texel[k]!;
}

/** White of an unlit surface, cd/m²: that of a screen (IEC 61966-2-1 assumes 80). */
export const UNLIT_LUMINANCE = 80;
