// Light from all around, as a picture over directions: rows from the zenith down, columns round.
import { sharedFloats, type Vec3 } from '../math/index.ts';
import { luminance } from '../photometry/index.ts';

/**
 * A picture over all directions, equirectangular, as seen from within: the middle column looks along +Z of its own
 * space, columns further right towards −X (to the right of who looks along +Z); rows go from straight up to straight down.
 */
export interface Environment {
  key: string;
  width: number;
  height: number;
  /** Linear r g b. */
  rgb: Float32Array;
  /** For sampling: running share of each row, and within each row of its pixels. */
  rows: Float32Array;
  columns: Float32Array;
  /** Sum over pixels of luminance × solid angle: 4π × the mean luminance. */
  total: number;
}

/** Solid angle (sr) of a pixel of a row. */
const pixelAngle = (row: number, width: number, height: number): number =>
  ((2 * Math.PI) / width) * (Math.cos((row / height) * Math.PI) - Math.cos(((row + 1) / height) * Math.PI));

/** Prepares a picture for sampling by luminance × solid angle, as bilinear look-ups find it. */
export function makeEnvironment(key: string, width: number, height: number, rgb: Float32Array): Environment {
  const rows = sharedFloats(height),
    columns = sharedFloats(width * height);
  let total = 0;
  // never nothing: what bilinear look-ups find between pixels must be able to be sampled
  let mean = 0;
  for (let i = 0; i < width * height; i++) mean += luminance(rgb[i * 3]!, rgb[i * 3 + 1]!, rgb[i * 3 + 2]!);
  const floor = Math.max(1e-12, (mean / (width * height)) * 0.01);
  const sums = new Float64Array(height);
  const blurred = overPixels(width, height, rgb);
  for (let j = 0; j < height; j++) {
    let sum = 0;
    for (let i = 0; i < width; i++) {
      const p = j * width + i;
      sum += floor + blurred[p]!;
      columns[p] = sum;
    }
    for (let i = 0; i < width; i++) columns[j * width + i] = columns[j * width + i]! / sum;
    columns[j * width + width - 1] = 1;
    sums[j] = sum * pixelAngle(j, width, height);
    total += sums[j]!;
  }
  let running = 0;
  for (let j = 0; j < height; j++) {
    running += sums[j]!;
    rows[j] = running / total;
  }
  rows[height - 1] = 1;
  return { key, width, height, rgb, rows, columns, total };
}

/** Mean luminance over each pixel of what bilinear look-ups find there: ⅛, ¾, ⅛ each way. */
function overPixels(width: number, height: number, rgb: Float32Array): Float32Array {
  const across = new Float32Array(width * height),
    out = new Float32Array(width * height);
  const at = (i: number, j: number) => {
    const p = (j * width + ((i + width) % width)) * 3;
    return luminance(rgb[p]!, rgb[p + 1]!, rgb[p + 2]!);
  };
  for (let j = 0; j < height; j++)
    for (let i = 0; i < width; i++) across[j * width + i] = 0.75 * at(i, j) + 0.125 * (at(i - 1, j) + at(i + 1, j));
  for (let j = 0; j < height; j++)
    for (let i = 0; i < width; i++)
      out[j * width + i] =
        0.75 * across[j * width + i]! +
        0.125 * (across[Math.max(0, j - 1) * width + i]! + across[Math.min(height - 1, j + 1) * width + i]!);
  return out;
}

/** First index of `sums` (from … from + count) that is above u. */
function find(sums: Float32Array, from: number, count: number, u: number): number {
  let low = 0,
    high = count - 1;
  while (low < high) {
    const middle = (low + high) >> 1;
    if (sums[from + middle]! > u) high = middle;
    else low = middle + 1;
  }
  return low;
}

/** Draws directions in an environment's own space and looks it up; results stand in the fields. */
export class EnvironmentView {
  x = 0;
  y = 0;
  z = 0;
  r = 0;
  g = 0;
  b = 0;
  private readonly e: Environment;

  constructor(environment: Environment) {
    this.e = environment;
  }

  /** A direction drawn by luminance; answers 1 / density by solid angle. Its radiance is looked up too. */
  sample(u: number, v: number): number {
    const { width, height, rows, columns } = this.e;
    const j = find(rows, 0, height, u),
      i = find(columns, j * width, width, v);
    const rowFrom = j ? rows[j - 1]! : 0,
      rowShare = rows[j]! - rowFrom;
    const from = i ? columns[j * width + i - 1]! : 0,
      share = columns[j * width + i]! - from;
    const fy = Math.min(0.999999, (u - rowFrom) / rowShare),
      fx = Math.min(0.999999, (v - from) / share);
    // even over the solid angle of the pixel: linear in the cosine
    const top = Math.cos((j / height) * Math.PI),
      bottom = Math.cos(((j + 1) / height) * Math.PI);
    this.y = top + (bottom - top) * fy;
    const s = Math.sqrt(Math.max(0, 1 - this.y * this.y)),
      phi = ((i + fx) / width - 0.5) * 2 * Math.PI;
    this.x = -s * Math.sin(phi);
    this.z = s * Math.cos(phi);
    this.look();
    const angle = pixelAngle(j, width, height);
    return angle / (rowShare * share);
  }

  /** Points the view along a unit direction; answers 1 / density of `sample` there. */
  towards(x: number, y: number, z: number): number {
    this.x = x;
    this.y = y;
    this.z = z;
    this.look();
    const { width, height, rows, columns } = this.e;
    const j = Math.min(height - 1, Math.floor((Math.acos(Math.min(1, Math.max(-1, y))) / Math.PI) * height)),
      i = Math.min(width - 1, Math.max(0, Math.floor((Math.atan2(-x, z) / (2 * Math.PI) + 0.5) * width)));
    const rowShare = rows[j]! - (j ? rows[j - 1]! : 0),
      share = columns[j * width + i]! - (i ? columns[j * width + i - 1]! : 0);
    return pixelAngle(j, width, height) / Math.max(1e-20, rowShare * share);
  }

  /** Bilinear look-up; columns go round, rows end at the poles. */
  private look(): void {
    const { width, height, rgb } = this.e;
    const fx = (Math.atan2(-this.x, this.z) / (2 * Math.PI) + 0.5) * width - 0.5,
      fy = (Math.acos(Math.min(1, Math.max(-1, this.y))) / Math.PI) * height - 0.5;
    const x0 = Math.floor(fx),
      y0 = Math.floor(fy),
      u = fx - x0,
      v = fy - y0;
    const xa = (x0 + width) % width,
      xb = (x0 + 1) % width,
      ya = Math.min(height - 1, Math.max(0, y0)) * width,
      yb = Math.min(height - 1, Math.max(0, y0 + 1)) * width;
    const p = (ya + xa) * 3,
      q = (ya + xb) * 3,
      s = (yb + xa) * 3,
      t = (yb + xb) * 3;
    const a = (1 - u) * (1 - v),
      b = u * (1 - v),
      c = (1 - u) * v,
      d = u * v;
    this.r = rgb[p]! * a + rgb[q]! * b + rgb[s]! * c + rgb[t]! * d;
    this.g = rgb[p + 1]! * a + rgb[q + 1]! * b + rgb[s + 1]! * c + rgb[t + 1]! * d;
    this.b = rgb[p + 2]! * a + rgb[q + 2]! * b + rgb[s + 2]! * c + rgb[t + 2]! * d;
  }
}

/** Irradiance (lx) on a plane of unit normal n in the environment's own space, by quadrature over its pixels. */
export function environmentIrradiance({ width, height, rgb }: Environment, n: Vec3): number {
  let sum = 0;
  for (let j = 0; j < height; j++) {
    const t = ((j + 0.5) / height) * Math.PI,
      angle = pixelAngle(j, width, height);
    for (let i = 0; i < width; i++) {
      const phi = ((i + 0.5) / width - 0.5) * 2 * Math.PI;
      const cos = -n[0] * Math.sin(t) * Math.sin(phi) + n[1] * Math.cos(t) + n[2] * Math.sin(t) * Math.cos(phi);
      const p = (j * width + i) * 3;
      if (cos > 0) sum += cos * angle * luminance(rgb[p]!, rgb[p + 1]!, rgb[p + 2]!);
    }
  }
  return sum;
}

/** A stop of a gradient dome: elevation in degrees (−90…90) and linear colour. */
export interface DomeStop {
  elevation: number;
  colour: Vec3;
}

const gradients = new Map<string, Environment>();

/** A dome whose colour changes with elevation, straight from stop to stop; the last few are remembered by their key. */
export function gradientEnvironment(key: string, stops: readonly DomeStop[]): Environment {
  const known = gradients.get(key);
  if (known) return known;
  if (gradients.size >= 8) gradients.delete(gradients.keys().next().value!);
  const made = makeGradient(key, stops);
  gradients.set(key, made);
  return made;
}

function makeGradient(key: string, stops: readonly DomeStop[]): Environment {
  const width = 8,
    height = 180;
  const sorted = [...stops].sort((a, b) => a.elevation - b.elevation);
  const rgb = sharedFloats(width * height * 3);
  for (let j = 0; j < height; j++) {
    const e = 90 - (j + 0.5);
    const above = sorted.findIndex((s) => s.elevation >= e);
    const a = sorted[above < 0 ? sorted.length - 1 : Math.max(0, above - 1)]!,
      b = sorted[above < 0 ? sorted.length - 1 : above]!;
    const t = b.elevation > a.elevation ? Math.min(1, Math.max(0, (e - a.elevation) / (b.elevation - a.elevation))) : 0;
    for (let i = 0; i < width; i++)
      for (let c = 0; c < 3; c++) rgb[(j * width + i) * 3 + c] = a.colour[c]! + (b.colour[c]! - a.colour[c]!) * t;
  }
  return makeEnvironment(key, width, height, rgb);
}
