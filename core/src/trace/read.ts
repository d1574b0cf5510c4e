import type { RayKernel } from '@plinket/kernel';
import { aroundNormal, mix, normalize, point, sample2, type Vec3 } from '../math/index.ts';
import { luminance } from '../photometry/index.ts';
import type { SceneGeometry, SceneLight } from '../scene/index.ts';
import type { LightSampler } from './lights/index.ts';
import { HAZE_DEPTH } from './limits.ts';
import { meetShadows } from './shadows.ts';

/** Asks what lights send to points directly, for luminance 1. */
export interface ReadJob {
  /** x y z of each point and of its normal. */
  points: Float32Array;
  normals: Float32Array;
  lights: SceneLight[];
  /** Number of the object that the points lie on: lights that do not light it send nothing. Default: of none, which all light. */
  object?: number;
  /** Samples of each light at each point. */
  samples: number;
  seed: number;
  /** Extinction of the haze, 1/m. */
  haze?: number;
}

/** lights × points: what reaches each, and what it would be if nothing stood in the way. */
export interface ReadResult {
  /** Irradiance red green blue, lx for luminance 1, without and with shadows. */
  open: Float32Array;
  lit: Float32Array;
  /** Number of the object that takes most of a light away; −1 where nothing does. */
  blockers: Int32Array;
  /** Shadow rays that were traced. */
  rays: number;
}

/** Distance by which rays start off their surface, metres. */
const OFF = 3e-5;
/** Shadow rays end a little before what they go to. */
const SHORT = 0.9999;

/** One light's turn: what its rays bring, and to whom. */
interface Turn {
  sampler: LightSampler;
  /** Of this light alone: points × 3. */
  open: Float32Array;
  lit: Float32Array;
  /** points × objects: what each object takes away. */
  taken: Float32Array;
}

/**
 * Direct light only, in batches: irradiance at points by light, with and without shadow, and what casts it. Clear surfaces let light pass.
 * Samples are drawn by light and place, so that a point reads the same in whatever batch it comes.
 */
export class Reader {
  private readonly kernel: RayKernel;
  private readonly geometry: SceneGeometry;
  private readonly samplerOf: (light: SceneLight) => LightSampler | undefined;
  /** Rays that wait in the kernel's buffer: of which point, and what they bring, red green blue. */
  private count = 0;
  private readonly points: Int32Array;
  private readonly values: Float32Array;

  constructor(kernel: RayKernel, geometry: SceneGeometry, samplerOf: (light: SceneLight) => LightSampler | undefined) {
    this.kernel = kernel;
    this.geometry = geometry;
    this.samplerOf = samplerOf;
    this.points = new Int32Array(kernel.capacity);
    this.values = new Float32Array(kernel.capacity * 3);
  }

  read({ points, normals, lights, object = -1, samples, seed, haze = 0 }: ReadJob): ReadResult {
    const count = points.length / 3,
      objects = this.geometry.objects.length;
    const open = new Float32Array(lights.length * count * 3),
      lit = new Float32Array(open.length),
      blockers = new Int32Array(lights.length * count).fill(-1);
    let rays = 0;
    lights.forEach((light, l) => {
      const sampler = this.samplerOf(light);
      if (!sampler || !(sampler.aims || light.kind === 'dome') || sampler.reach.lights?.[object] === 0) return;
      const own = (a: Float32Array) => a.subarray(l * count * 3, (l + 1) * count * 3);
      const turn: Turn = { sampler, open: own(open), lit: own(lit), taken: new Float32Array(count * objects) };
      for (let p = 0; p < count; p++) {
        const at: Vec3 = [points[p * 3]!, points[p * 3 + 1]!, points[p * 3 + 2]!],
          normal = normalize([normals[p * 3]!, normals[p * 3 + 1]!, normals[p * 3 + 2]!]);
        const key = mix(mix(sampler.key, seed), placeKey(at));
        for (let s = 0; s < samples; s++) {
          sample2(s, key);
          if (light.kind === 'dome') this.fromAll(turn, p, at, normal, samples, haze);
          else this.from(turn, sampler, p, at, normal, samples, haze);
          if (this.count === this.kernel.capacity) rays += this.meet(turn);
        }
      }
      rays += this.meet(turn);
      for (let p = 0; p < count; p++) blockers[l * count + p] = largest(turn.taken.subarray(p * objects, (p + 1) * objects));
    });
    return { open, lit, blockers, rays };
  }

  /** A sample towards a light that is somewhere. */
  private from(turn: Turn, sampler: LightSampler, p: number, at: Vec3, n: Vec3, samples: number, haze: number): void {
    const S = sampler.fromPoint(at[0], at[1], at[2], point[0]!, point[1]!);
    const { towards } = sampler;
    const cos = n[0] * towards.x + n[1] * towards.y + n[2] * towards.z;
    if (!(S > 0) || !(cos > 0)) return;
    const k = (cos * S * throughHaze(haze, towards.distance)) / samples;
    this.wait(turn, p, at, n, towards.x, towards.y, towards.z, towards.distance, k * towards.r, k * towards.g, k * towards.b);
  }

  /** A sample of light that is everywhere alike: by cosine, each carries π. */
  private fromAll(turn: Turn, p: number, at: Vec3, n: Vec3, samples: number, haze: number): void {
    const r = Math.sqrt(point[0]!),
      phi = 2 * Math.PI * point[1]!;
    const [x, y, z] = aroundNormal(n, r * Math.cos(phi), r * Math.sin(phi), Math.sqrt(Math.max(0, 1 - r * r)));
    const k = (Math.PI * throughHaze(haze, Infinity)) / samples;
    this.wait(turn, p, at, n, x, y, z, FAR, k, k, k);
  }

  private wait(
    turn: Turn,
    p: number,
    at: Vec3,
    n: Vec3,
    x: number,
    y: number,
    z: number,
    distance: number,
    r: number,
    g: number,
    b: number,
  ): void {
    const { shadowRays } = this.kernel,
      { open } = turn;
    const w = this.count++,
      o = w * 8;
    for (let k = 0; k < 3; k++) shadowRays[o + k] = at[k]! + n[k]! * OFF;
    shadowRays[o + 3] = 0;
    shadowRays[o + 4] = x;
    shadowRays[o + 5] = y;
    shadowRays[o + 6] = z;
    shadowRays[o + 7] = distance * SHORT;
    this.points[w] = p;
    this.values[w * 3] = r;
    this.values[w * 3 + 1] = g;
    this.values[w * 3 + 2] = b;
    open[p * 3] = open[p * 3]! + r;
    open[p * 3 + 1] = open[p * 3 + 1]! + g;
    open[p * 3 + 2] = open[p * 3 + 2]! + b;
  }

  /** Traces what waits; answers the number of rays. */
  private meet({ sampler, lit, taken }: Turn): number {
    const { kernel, points, values } = this;
    const w = this.count;
    this.count = 0;
    if (w === 0) return 0;
    const whole = Float64Array.from({ length: w }, (_, i) => luminance(values[i * 3]!, values[i * 3 + 1]!, values[i * 3 + 2]!));
    meetShadows(kernel, sampler, values, 3, w);
    let held = 0;
    for (let i = 0; i < w; i++) {
      const p = points[i]!;
      if (!kernel.blocked[i]) for (let c = 0; c < 3; c++) lit[p * 3 + c] = lit[p * 3 + c]! + values[i * 3 + c]!;
      const left = kernel.blocked[i] ? 0 : luminance(values[i * 3]!, values[i * 3 + 1]!, values[i * 3 + 2]!);
      if (!(left < whole[i]!)) continue;
      // what is in the way is asked of the rays that lost something
      kernel.rays.set(kernel.shadowRays.subarray(i * 8, i * 8 + 8), held * 8);
      points[held] = p;
      whole[held] = whole[i]! - left;
      held++;
    }
    return w + this.find(held, whole, taken);
  }

  /** Finds what the first `held` rays meet, through what is clear, and notes what it takes away; answers the number of rays. */
  private find(held: number, lost: Float64Array, taken: Float32Array): number {
    const { kernel, geometry, points } = this;
    const { rays, hits, hitIds } = kernel,
      objects = geometry.objects.length,
      clearFrom = geometry.mesh.clearFrom ?? Infinity;
    let asked = 0;
    for (let pass = 0; held > 0 && pass < MOST_CLEAR; pass++) {
      kernel.closest(held);
      asked += held;
      let on = 0;
      for (let i = 0; i < held; i++) {
        const id = hitIds[i * 4 + 3]!;
        if (id < 0) continue;
        if (id < clearFrom) {
          const at = points[i]! * objects + geometry.triangleObject[id]!;
          taken[at] = taken[at]! + lost[i]!;
          continue;
        }
        rays.copyWithin(on * 8, i * 8, i * 8 + 8);
        rays[on * 8 + 3] = hits[i * 4]! + OFF;
        points[on] = points[i]!;
        lost[on++] = lost[i]!;
      }
      held = on;
    }
    return asked;
  }
}

/** Clear surfaces behind which a blocker is looked for, at most. */
const MOST_CLEAR = 8;

/** As far as rays go that leave the set. */
const FAR = 1e30;

const throughHaze = (haze: number, distance: number): number => (haze > 0 ? Math.exp(-haze * Math.min(distance, HAZE_DEPTH)) : 1);

const bits = new Float32Array(3),
  words = new Int32Array(bits.buffer);
/** A number for a place. */
function placeKey(at: Vec3): number {
  bits.set(at);
  return mix(mix(words[0]!, words[1]!), words[2]!);
}

/** Number of the largest entry; −1 where all are 0. */
function largest(values: Float32Array): number {
  let best = -1,
    most = 0;
  for (let k = 0; k < values.length; k++)
    if (values[k]! > most) {
      most = values[k]!;
      best = k;
    }
  return best;
}
