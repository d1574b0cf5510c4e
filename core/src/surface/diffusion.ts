// Normalised diffusion (Christensen, Burley 2015, "Approximate Reflectance Profiles for Efficient Subsurface Scattering"):
// R(r) = A (e^(−r/d) + e^(−r/3d)) / (8π d r), which integrates over the plane to A for every d.

/** d for a mean free path ℓ and surface albedo A: d = ℓ / s with s = 1.85 − A + 7 |A − 0.8|³ (their eq. 6). */
export const diffusionWidth = (freePath: number, albedo: number): number => freePath / (1.85 - albedo + 7 * Math.abs(albedo - 0.8) ** 3);

/** The profile for A = 1 at radius r, per area. */
export function diffusionProfile(r: number, d: number): number {
  const e = Math.exp(-r / (3 * d));
  return (e * e * e + e) / (8 * Math.PI * d * Math.max(r, 1e-7));
}

/** A radius drawn with density 2π r R(r): one quarter e^(−r/d)/d, three quarters e^(−r/3d)/3d. */
export const sampleDiffusion = (u: number, d: number): number =>
  u < 0.25 ? -d * Math.log(Math.max(1e-9, 1 - u * 4)) : -3 * d * Math.log(Math.max(1e-9, 1 - (u - 0.25) / 0.75));

/** Beyond this many d nothing is followed: 1 − CDF is 2.5e-3 there (1 − ¼e^(−r/d) − ¾e^(−r/3d)). */
export const DIFFUSION_REACH = 17;
