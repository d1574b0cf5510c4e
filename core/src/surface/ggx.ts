// GGX microfacets (Walter, Marschner, Li, Torrance 2007) with height-correlated Smith masking (Heitz 2014), sampled by
// visible normals (Heitz 2018, "Sampling the GGX Distribution of Visible Normals", listing 1).
// Directions are unit vectors in the local frame, z along the shading normal.

import { cosTurn, sinTurn } from '../math/index.ts';

/** glTF: alpha is perceptual roughness squared; kept above a floor so that a mirror stays a number. */
export const roughnessToAlpha = (roughness: number): number => Math.max(0.002, roughness * roughness);

/** Normal distribution D(m) for cosine `nh` and roughness `a` (Walter 2007, eq. 33). */
export function ggxD(nh: number, a: number): number {
  const a2 = a * a,
    k = nh * nh * (a2 - 1) + 1;
  return a2 / (Math.PI * k * k);
}

/** G2 / (4 nl nv) with height-correlated Smith (Heitz 2014, eq. 99): the visibility term V. */
export function ggxV(nl: number, nv: number, a: number): number {
  const a2 = a * a;
  const v = nl * Math.sqrt(nv * nv * (1 - a2) + a2),
    l = nv * Math.sqrt(nl * nl * (1 - a2) + a2);
  return 0.5 / (v + l);
}

/** Smith G1 of one direction (Heitz 2014, eq. 43 and 72). */
export function ggxG1(n: number, a: number): number {
  const a2 = a * a;
  return (2 * n) / (n + Math.sqrt(a2 + (1 - a2) * n * n));
}

/** Density of `ggxSample` in solid angle around the reflected direction: G1(v) D(h) / (4 nv). */
export const ggxPdf = (nh: number, nv: number, a: number): number => (ggxG1(nv, a) * ggxD(nh, a)) / (4 * nv);

/** The half vector that `ggxSample` left. */
export const half = new Float64Array(3);

/** Samples a visible normal for view direction v (local, v.z > 0); the result stands in `half`. */
export function ggxSample(vx: number, vy: number, vz: number, a: number, u1: number, u2: number): void {
  // stretch the view
  let hx = a * vx,
    hy = a * vy,
    hz = vz;
  const l = 1 / Math.sqrt(hx * hx + hy * hy + hz * hz);
  hx *= l;
  hy *= l;
  hz *= l;
  // orthonormal basis around it
  const l2 = hx * hx + hy * hy;
  let t1x = 1,
    t1y = 0;
  if (l2 > 1e-14) {
    const s = 1 / Math.sqrt(l2);
    t1x = -hy * s;
    t1y = hx * s;
  }
  const t2x = -hz * t1y,
    t2y = hz * t1x,
    t2z = hx * t1y - hy * t1x;
  // a point on the projected hemisphere
  const r = Math.sqrt(u1);
  const p1 = r * cosTurn(u2),
    s = 0.5 * (1 + hz);
  const p2 = (1 - s) * Math.sqrt(1 - p1 * p1) + s * r * sinTurn(u2);
  const p3 = Math.sqrt(Math.max(0, 1 - p1 * p1 - p2 * p2));
  // back to the ellipsoid
  const nx = a * (p1 * t1x + p2 * t2x + p3 * hx),
    ny = a * (p1 * t1y + p2 * t2y + p3 * hy),
    nz = Math.max(1e-9, p2 * t2z + p3 * hz);
  const k = 1 / Math.sqrt(nx * nx + ny * ny + nz * nz);
  half[0] = nx * k;
  half[1] = ny * k;
  half[2] = nz * k;
}

/** Schlick's Fresnel term (Schlick 1994) as glTF 2.0 prescribes. */
export function schlick(f0: number, vh: number): number {
  const m = 1 - vh,
    m2 = m * m;
  return f0 + (1 - f0) * m2 * m2 * m;
}
