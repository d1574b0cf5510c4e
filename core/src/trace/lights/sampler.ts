import type { RayKernel, Shader } from '@plinket/kernel';
import { dimension, maskWords, openDimension, shiftedA, shiftedB } from '../../math/index.ts';
import type { SceneGeometry, SceneLight } from '../../scene/index.ts';
import { THROUGH, type Batch } from '../batch.ts';
import { lightKey } from '../dimensions.ts';
import type { Limits } from '../limits.ts';
import type { ReachTables } from '../reach.ts';

/** What the samplers of one job share. */
export interface SamplerJob {
  batch: Batch;
  kernel: RayKernel;
  geometry: SceneGeometry;
  limits: Limits;
  /** The kernel's shader, where this job can use it. */
  shader: Shader | undefined;
  seed: number;
  bounces: number;
}

/** Direction (unit), distance (metres) and radiance of a sample. */
export interface Towards {
  x: number;
  y: number;
  z: number;
  distance: number;
  r: number;
  g: number;
  b: number;
}

export const makeTowards = (distance = 0): Towards => ({ x: 0, y: 0, z: 0, distance, r: 1, g: 1, b: 1 });

/**
 * How one light is met by paths. `aim` leaves one sample for each surface point in the batch (`lx … lb`); `meet` counts
 * the walk's own rays that come to the light by themselves. A light offers one or both; together they are weighed by the
 * power heuristic (Veach 1995).
 */
export interface LightSampler {
  readonly light: SceneLight;
  /** What its reach says of the objects that are there. */
  reach: ReachTables;
  /** Its own dimensions of the random sequence: the same whichever other lights are traced. */
  readonly key: number;
  /** The walk never meets it: its samples carry all. */
  readonly alone: boolean;
  /** Needs the ray that leaves the last vertex. */
  readonly far: boolean;
  /** Whether `aim` offers anything. */
  readonly aims: boolean;
  /** Fills the samples of `count` surface points. */
  aim(job: SamplerJob, count: number, sample: number, step: number): void;
  /** Adds what the walk's rays bring to a film whose second plane begins at `second`. */
  meet(job: SamplerJob, film: Float32Array, second: number, count: number): void;
  /** The shader, where there is one, adds what the walk's rays bring itself. */
  readonly known?: boolean;
  /** Tells the shader what it must know, under a number of its own. */
  introduce?(shader: Shader, slot: number): void;
  /** One sample towards the light from a point in the haze: 1/density (0: none); direction and distance stand in the sampler. */
  fromPoint(x: number, y: number, z: number, u: number, v: number): number;
  /** What `fromPoint` left. */
  readonly towards: Towards;
  /** A point of the light that equiangular sampling may use, or nothing for a light that is everywhere. */
  readonly centre: [number, number, number] | undefined;
}

const place = dimension();

/**
 * `aim` for every sampler that has nothing quicker than one point after the other. Towards a light that is `solid`, a mesh
 * which stops rays itself, samples are aimed from where the shadow ray will start: one that runs beside its own line would end
 * within the mesh.
 */
export function aimByPoints(
  sampler: LightSampler,
  { batch, seed }: SamplerJob,
  count: number,
  sample: number,
  step: number,
  solid = false,
): void {
  const { px, py, pz, ox, oy, oz, gx, gy, gz, pass, cell, lx, ly, lz, ld, lw, lr, lg, lb } = batch.fields;
  const { centre } = sampler;
  const { towards } = sampler;
  const mask = maskWords();
  openDimension(place, sample, lightKey(seed, sampler.key, step));
  for (let i = 0; i < count; i++) {
    lw[i] = 0;
    if (pass[i] === THROUGH) continue;
    let x = px[i]!,
      y = py[i]!,
      z = pz[i]!;
    if (solid && centre && (centre[0] - x) * gx[i]! + (centre[1] - y) * gy[i]! + (centre[2] - z) * gz[i]! > 0) {
      x = ox[i]!;
      y = oy[i]!;
      z = oz[i]!;
    }
    const S = sampler.fromPoint(x, y, z, shiftedA(place, mask, cell[i]!), shiftedB(place, mask, cell[i]!));
    if (!(S > 0)) continue;
    lx[i] = towards.x;
    ly[i] = towards.y;
    lz[i] = towards.z;
    ld[i] = towards.distance;
    lw[i] = S;
    lr[i] = towards.r;
    lg[i] = towards.g;
    lb[i] = towards.b;
  }
}

/** Weight of the walk's own sample (density p) against a light sample of 1 / density S: the power heuristic. */
export const walkWeight = (p: number, S: number): number => {
  const ps = p * S;
  return ps > 1e8 ? 1 : (ps * ps) / (1 + ps * ps);
};
