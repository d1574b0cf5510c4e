// Normalised diffusion (Christensen, Burley 2015, "Approximate Reflectance Profiles for Efficient Subsurface Scattering"):
// R(r) = A (e^(−r/d) + e^(−r/3d)) / (8π d r), which integrates over the plane to A for every d.

/** d for a mean free path ℓ and surface albedo A: d = ℓ / s with s = 1.85 − A + 7 |A − 0.8|³ (their eq. 6). */
export const diffusionWidth = (freePath: number, albedo: number): number => freePath / (1.85 - albedo + 7 * Math.abs(albedo - 0.8) ** 3);

/** Beyond this many d nothing is followed: 1 − CDF is 2.5e-3 there (1 − ¼e^(−r/d) − ¾e^(−r/3d)). */
export const DIFFUSION_REACH = 17;

/** Steps of the table below for each d. */
const STEPS = 64;
/** e^(−x) + e^(−x/3) at x = 0, 1/64 … 17, and one more for x = 17 itself. */
const falls = Float64Array.from({ length: DIFFUSION_REACH * STEPS + 2 }, (_, i) => Math.exp(-i / STEPS) + Math.exp(-i / STEPS / 3));

/** e^(−x) + e^(−x/3), from a table up to the reach: good to 2e-5 of itself. */
function fall(x: number): number {
  if (!(x <= DIFFUSION_REACH)) return Math.exp(-x) + Math.exp(-x / 3);
  const at = x * STEPS,
    i = at | 0,
    a = falls[i]!;
  return a + (falls[i + 1]! - a) * (at - i);
}

/** The profile for A = 1 at radius r, per area. */
export const diffusionProfile = (r: number, d: number): number => fall(r / d) / (8 * Math.PI * d * Math.max(r, 1e-7));

/** A radius drawn with density 2π r R(r): one quarter e^(−r/d)/d, three quarters e^(−r/3d)/3d. */
export const sampleDiffusion = (u: number, d: number): number =>
  u < 0.25 ? -d * Math.log(Math.max(1e-9, 1 - u * 4)) : -3 * d * Math.log(Math.max(1e-9, 1 - (u - 0.25) / 0.75));
