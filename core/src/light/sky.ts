// Sun and sky from one model of the air: Rayleigh and Mie scattering along the way (Nishita, Sirai, Tadamura, Nakamae 1993,
// "Display of the Earth Taking into Account Atmospheric Scattering"), ozone, and light scattered more than once as an even
// glow by height (Hillaire 2020, "A Scalable and Production Ready Sky and Atmosphere Rendering Technique", section 5.5).
import { DEGREE, sharedFloats, type Vec3, once } from '../math/index.ts';
import { OBSERVER_1931, planck, xyzToLinear } from '../photometry/index.ts';
import { makeEnvironment, type Environment } from './environment.ts';

/** Radius of the ground, of the top of the air, metres. */
const GROUND = 6_360_000;
const TOP = 6_420_000;
/** Wavelengths that stand for bands of 40 nm. */
const BANDS = [400, 440, 480, 520, 560, 600, 640, 680];
/** Illuminance of the sun outside the air, lx (from memory: 128 klx in the IES Lighting Handbook). */
export const SUN_OUTSIDE = 128_000;
/** The sun's surface as a full radiator, kelvin. */
const SUN_KELVIN = 5778;

/** Scattering by air at sea level, 1/m: 1.3558e-5 at 550 nm (Bruneton, Neyret 2008, table 1: 13.5e-6), by λ⁻⁴. */
const rayleighAt = (nm: number): number => 1.3558e-5 * (550 / nm) ** 4;
const RAYLEIGH_HEIGHT = 8000;
const MIE_HEIGHT = 1200;
const MIE_G = 0.8;
const MIE_SCATTERS = 0.9;
/** Absorption by ozone where it is densest, 1/m, for each band (Chappuis band; from memory, in shape only). */
const OZONE = [0.02e-6, 0.09e-6, 0.35e-6, 0.95e-6, 1.75e-6, 2.05e-6, 1.35e-6, 0.65e-6];
/** Share of the light that the ground sends back. */
const GROUND_ALBEDO = 0.2;

const N = BANDS.length;
const RAYLEIGH = BANDS.map(rayleighAt);

/** X, Y, Z of each band of sunlight outside the air; Y sums up to its illuminance. */
const SUNLIGHT = ((): number[][] => {
  const bands = BANDS.map(() => [0, 0, 0]);
  for (let i = 0; i < OBSERVER_1931.length / 3; i++) {
    const nm = 380 + 5 * i;
    const band = Math.min(N - 1, Math.max(0, Math.round((nm - 400) / 40)));
    const m = planck(nm * 1e-9, SUN_KELVIN);
    for (let c = 0; c < 3; c++) bands[band]![c] = bands[band]![c]! + m * OBSERVER_1931[i * 3 + c]!;
  }
  const sum = bands.reduce((s, b) => s + b[1]!, 0);
  return bands.map((b) => b.map((v) => (v * SUN_OUTSIDE) / sum));
})();

/** Linear Rec.709 of a share for each band of the sunlight. */
function toLinear(shares: ArrayLike<number>): Vec3 {
  let x = 0,
    y = 0,
    z = 0;
  for (let k = 0; k < N; k++) {
    x += SUNLIGHT[k]![0]! * shares[k]!;
    y += SUNLIGHT[k]![1]! * shares[k]!;
    z += SUNLIGHT[k]![2]! * shares[k]!;
  }
  return xyzToLinear(x, y, z).map((v) => Math.max(0, v)) as Vec3;
}

const ozoneAt = (h: number): number => Math.max(0, 1 - Math.abs(h - 25_000) / 15_000);

// Air on the way out from a height in a direction: metres of sea-level air, aerosol and ozone. It depends on nothing that
// can be set, so one table serves all.
const HEIGHTS = 24,
  COSINES = 96;
/** Cosine of the zenith angle below which a way from height h meets the ground. */
const horizonOf = (r: number): number => -Math.sqrt(Math.max(0, 1 - (GROUND / r) ** 2));

const depthTable = once((): Float64Array => {
  const depths = new Float64Array(HEIGHTS * COSINES * 3);
  for (let i = 0; i < HEIGHTS; i++) {
    const h = (TOP - GROUND) * (i / (HEIGHTS - 1)) ** 2,
      r = GROUND + h,
      low = horizonOf(r);
    for (let j = 0; j < COSINES; j++) {
      // denser towards the horizon
      const mu = low + (1 - low) * (j / (COSINES - 1)) ** 2;
      const end = -r * mu + Math.sqrt(Math.max(0, r * r * (mu * mu - 1) + TOP * TOP));
      let a = 0,
        b = 0,
        c = 0;
      const steps = 64;
      for (let k = 0; k < steps; k++) {
        // short steps first
        const t0 = end * (k / steps) ** 2,
          t1 = end * ((k + 1) / steps) ** 2,
          t = (t0 + t1) / 2;
        const height = Math.max(0, Math.sqrt(r * r + t * t + 2 * r * t * mu) - GROUND);
        a += Math.exp(-height / RAYLEIGH_HEIGHT) * (t1 - t0);
        b += Math.exp(-height / MIE_HEIGHT) * (t1 - t0);
        c += ozoneAt(height) * (t1 - t0);
      }
      depths.set([a, b, c], (i * COSINES + j) * 3);
    }
  }
  return depths;
});

const depth = new Float64Array(3);
/** Leaves in `depth` what lies on the way out; answers false where the ground is in the way. */
function depthFrom(r: number, mu: number): boolean {
  const low = horizonOf(r);
  if (mu < low) return false;
  const table = depthTable();
  const fh = Math.sqrt(Math.min(1, Math.max(0, (r - GROUND) / (TOP - GROUND)))) * (HEIGHTS - 1),
    fc = Math.sqrt(Math.min(1, (mu - low) / (1 - low))) * (COSINES - 1);
  const i = Math.min(HEIGHTS - 2, fh | 0),
    j = Math.min(COSINES - 2, fc | 0),
    u = fh - i,
    v = fc - j;
  for (let c = 0; c < 3; c++) {
    const at = (a: number, b: number) => table[(a * COSINES + b) * 3 + c]!;
    depth[c] = (at(i, j) * (1 - u) + at(i + 1, j) * u) * (1 - v) + (at(i, j + 1) * (1 - u) + at(i + 1, j + 1) * u) * v;
  }
  return true;
}

/** The air of a turbidity, band by band: turbidity is (aerosol + air) / air of the vertical depth at 550 nm (Linke). */
class Air {
  readonly mie: number[];
  constructor(turbidity: number) {
    const vertical = (Math.max(1, turbidity) - 1) * rayleighAt(550) * RAYLEIGH_HEIGHT;
    // Ångström's exponent of 1.3
    this.mie = BANDS.map((nm) => (vertical / MIE_HEIGHT) * (550 / nm) ** 1.3);
  }
  /** Share of band k that passes what stands in `depth`. */
  passes(k: number): number {
    return Math.exp(-(RAYLEIGH[k]! * depth[0]! + this.mie[k]! * depth[1]! + OZONE[k]! * depth[2]!));
  }
}

const rayleighPhase = (cos: number): number => (3 / (16 * Math.PI)) * (1 + cos * cos);
/** Cornette and Shanks 1992. */
const miePhase = (cos: number): number => {
  const g2 = MIE_G * MIE_G;
  return ((3 / (8 * Math.PI)) * (1 - g2) * (1 + cos * cos)) / ((2 + g2) * (1 + g2 - 2 * MIE_G * cos) ** 1.5);
};

const LEVELS = 8;
/** Light scattered more than once, per steradian and unit of scattering, by height (square-root spacing up to 40 km). */
function glowByHeight(air: Air, sun: Vec3): Float64Array {
  const out = new Float64Array(LEVELS * N);
  const once = new Float64Array(N),
    share = new Float64Array(N);
  const DIRECTIONS = 48;
  for (let level = 0; level < LEVELS; level++) {
    const r = GROUND + 1 + 40_000 * (level / (LEVELS - 1)) ** 2;
    once.fill(0);
    share.fill(0);
    for (let d = 0; d < DIRECTIONS; d++) {
      const y = 1 - (2 * (d + 0.5)) / DIRECTIONS,
        s = Math.sqrt(1 - y * y),
        phi = d * 2.399963;
      march(air, sun, r, [s * Math.cos(phi), y, s * Math.sin(phi)], 12, undefined, (k, light, scattered) => {
        once[k] = once[k]! + light / DIRECTIONS;
        share[k] = share[k]! + scattered / DIRECTIONS;
      });
    }
    for (let k = 0; k < N; k++) out[level * N + k] = once[k]! / (1 - Math.min(0.95, share[k]!));
  }
  return out;
}

const through = new Float64Array(N),
  sunShare = new Float64Array(N),
  light = new Float64Array(N),
  scatter = new Float64Array(N);

/**
 * Goes from radius r along w (y is up) and tells for each band: light that comes from there, for a sun of irradiance 1, and
 * what share of an even glow would be scattered in. With `glow`, light scattered more than once is in it, and phase functions
 * hold; without, scattering is even.
 */
function march(
  air: Air,
  sun: Vec3,
  r: number,
  w: Vec3,
  steps: number,
  glow: Float64Array | undefined,
  tell: (band: number, light: number, scattered: number) => void,
): void {
  const b = r * w[1];
  const toGround = b * b - (r * r - GROUND * GROUND);
  const meets = w[1] < 0 && toGround > 0;
  const end = meets ? -b - Math.sqrt(toGround) : -b + Math.sqrt(Math.max(0, b * b - (r * r - TOP * TOP)));
  const cos = w[0] * sun[0] + w[1] * sun[1] + w[2] * sun[2];
  const pr = glow ? rayleighPhase(cos) : 1 / (4 * Math.PI),
    pm = glow ? miePhase(cos) : 1 / (4 * Math.PI);
  through.fill(1);
  light.fill(0);
  scatter.fill(0);
  for (let i = 0; i < steps; i++) {
    const t0 = end * (i / steps) ** 2,
      t1 = end * ((i + 1) / steps) ** 2,
      t = (t0 + t1) / 2,
      dt = t1 - t0;
    const px = w[0] * t,
      py = r + w[1] * t,
      pz = w[2] * t,
      pr0 = Math.sqrt(px * px + py * py + pz * pz),
      h = Math.max(0, pr0 - GROUND);
    const thick = Math.exp(-h / RAYLEIGH_HEIGHT),
      dusty = Math.exp(-h / MIE_HEIGHT),
      ozone = ozoneAt(h);
    const lit = depthFrom(pr0, (px * sun[0] + py * sun[1] + pz * sun[2]) / pr0);
    const level = Math.sqrt(Math.min(1, h / 40_000)) * (LEVELS - 1),
      at = Math.min(LEVELS - 2, level | 0),
      f = level - at;
    for (let k = 0; k < N; k++) {
      const rs = RAYLEIGH[k]! * thick,
        ms = air.mie[k]! * dusty * MIE_SCATTERS,
        loss = rs + air.mie[k]! * dusty + OZONE[k]! * ozone;
      sunShare[k] = lit ? air.passes(k) : 0;
      let source = sunShare[k]! * (rs * pr + ms * pm);
      if (glow) source += (rs + ms) * (glow[at * N + k]! * (1 - f) + glow[(at + 1) * N + k]! * f);
      const keep = Math.exp(-loss * dt);
      // the integral over the step with even loss within it
      const weight = (through[k]! * (1 - keep)) / Math.max(1e-30, loss);
      light[k] = light[k]! + source * weight;
      scatter[k] = scatter[k]! + (rs + ms) * weight;
      through[k] = through[k]! * keep;
    }
  }
  if (meets) {
    const px = w[0] * end,
      py = r + w[1] * end,
      pz = w[2] * end,
      mu = (px * sun[0] + py * sun[1] + pz * sun[2]) / GROUND;
    const lit = mu > 0 && depthFrom(GROUND + 1, mu);
    if (lit) for (let k = 0; k < N; k++) light[k] = light[k]! + (through[k]! * air.passes(k) * mu * GROUND_ALBEDO) / Math.PI;
  }
  for (let k = 0; k < N; k++) tell(k, light[k]!, scatter[k]!);
}

/** Direction of a sun at an elevation and bearing (degrees): bearing 0 is +Z, positive towards +X. */
export function sunDirection(elevation: number, bearing: number): Vec3 {
  const e = elevation * DEGREE,
    b = bearing * DEGREE;
  return [Math.sin(b) * Math.cos(e), Math.sin(e), Math.cos(b) * Math.cos(e)];
}

/**
 * Illuminance (lx, linear Rec.709) of the sun on a plane that faces it, at sea level, after the air of a turbidity of
 * 1 (none but air) … 10. Below the horizon there is none.
 */
export function sunThroughAir(elevation: number, turbidity: number): Vec3 {
  const air = new Air(turbidity);
  // half of the disk's height is still there at 0°; what is left fades until it has set
  const shown = Math.min(1, Math.max(0, (elevation + 0.83) / 0.83));
  if (!(shown > 0) || !depthFrom(GROUND + 1, Math.max(horizonOf(GROUND + 1) + 1e-9, Math.sin(Math.max(0, elevation) * DEGREE))))
    return [0, 0, 0];
  const shares = BANDS.map((_, k) => air.passes(k) * shown);
  return toLinear(shares);
}

const SKY_WIDTH = 64,
  SKY_HEIGHT = 64;
const skies = new Map<string, Environment>();

/**
 * The sky without the sun's disk, in cd/m², as a picture over directions whose middle column is below the sun. Below the
 * horizon it is the lit ground, evenly.
 * @param elevation of the sun, −2…90°
 */
export function skyEnvironment(elevation: number, turbidity: number): Environment {
  const key = `sky ${elevation} ${turbidity}`;
  const known = skies.get(key);
  if (known) return known;
  const air = new Air(turbidity),
    sun = sunDirection(elevation, 0),
    glow = glowByHeight(air, sun);
  const rgb = sharedFloats(SKY_WIDTH * SKY_HEIGHT * 3);
  const shares = new Float64Array(N);
  const set = (i: number, j: number, c: Vec3) => rgb.set(c, (j * SKY_WIDTH + i) * 3);
  for (let j = 0; j < SKY_HEIGHT / 2; j++) {
    const t = ((j + 0.5) / SKY_HEIGHT) * Math.PI;
    // left and right of the sun are alike
    for (let i = 0; i < SKY_WIDTH / 2; i++) {
      const phi = ((i + 0.5) / SKY_WIDTH - 0.5) * 2 * Math.PI;
      march(air, sun, GROUND + 2, [Math.sin(t) * Math.sin(phi), Math.cos(t), Math.sin(t) * Math.cos(phi)], 24, glow, (k, l) => {
        shares[k] = l;
      });
      const c = toLinear(shares);
      set(i, j, c);
      set(SKY_WIDTH - 1 - i, j, c);
    }
  }
  const half = makeEnvironment(key, SKY_WIDTH, SKY_HEIGHT, rgb);
  const down = sunThroughAir(elevation, turbidity).map((v) => v * Math.max(0, Math.sin(elevation * DEGREE))) as Vec3;
  const ground = [0, 1, 2].map((c) => (GROUND_ALBEDO * (down[c]! + levelIrradiance(half, c))) / Math.PI) as Vec3;
  for (let j = SKY_HEIGHT / 2; j < SKY_HEIGHT; j++) for (let i = 0; i < SKY_WIDTH; i++) set(i, j, ground);
  const sky = makeEnvironment(key, SKY_WIDTH, SKY_HEIGHT, rgb);
  if (skies.size > 16) skies.delete(skies.keys().next().value!);
  skies.set(key, sky);
  return sky;
}

/** What falls on level ground of one channel. */
function levelIrradiance({ width, height, rgb }: Environment, c: number): number {
  let sum = 0;
  for (let j = 0; j < height / 2; j++) {
    const a = Math.cos((j / height) * Math.PI),
      b = Math.cos(((j + 1) / height) * Math.PI);
    for (let i = 0; i < width; i++) sum += ((a * a - b * b) / 2) * ((2 * Math.PI) / width) * rgb[(j * width + i) * 3 + c]!;
  }
  return sum;
}
