import { ownKey } from '../dimensions.ts';
import { luminance } from '../../photometry/index.ts';
import type { SceneGeometry, SceneLight } from '../../scene/index.ts';
import { refCovers, type ObjectRef } from '../../setup/index.ts';
import { glows } from '../../surface/index.ts';
import { UNSCATTERED } from '../batch.ts';
import { emissionAt, UNLIT_LUMINANCE } from '../pictures.ts';
import { isAlone, type ReachTables } from '../reach.ts';
import { aimByPoints, makeTowards, walkWeight, type LightSampler, type SamplerJob } from './sampler.ts';

const radiance = new Float64Array(3);

/** Luminance of each triangle's own light, by which it is chosen; and what it sends at a point, left in `out`. */
interface Glowing {
  levels: Float32Array;
  radiance(id: number, u: number, v: number, out: Float64Array): void;
}

/** Surfaces whose materials give light. */
function byMaterial(geometry: SceneGeometry): Glowing {
  const levels = geometry.materials.map((m) => {
    if (!glows(m)) return 0;
    return m.unlit ? luminance(...m.base) * UNLIT_LUMINANCE : luminance(...m.emission);
  });
  return {
    levels: Float32Array.from(geometry.triangleMaterial, (k) => levels[k]!),
    radiance: (id, u, v, out) => emissionAt(geometry, id, u, v, out),
  };
}

/** All surfaces of one object, evenly. */
function byObject(geometry: SceneGeometry, ref: ObjectRef): Glowing {
  const glows = geometry.objects.map((object) => refCovers(ref, object));
  return {
    levels: Float32Array.from(geometry.triangleObject, (k) => (glows[k] ? 1 : 0)),
    radiance: (_id, _u, _v, out) => void out.fill(1),
  };
}

/**
 * Surfaces that give light: a triangle is chosen by its power (area × luminance), a point on it
 * evenly. Met by the walk wherever they stand.
 */
export class GlowSampler implements LightSampler {
  readonly light: SceneLight;
  reach: ReachTables = {};
  readonly key: number;
  readonly alone: boolean;
  readonly far = false;
  readonly aims: boolean;
  readonly towards = makeTowards();
  readonly centre: [number, number, number] | undefined;
  private readonly geometry: SceneGeometry;
  private readonly triangles: number[] = [];
  /** Running sum of power, over its total at the end. */
  private readonly sums: Float64Array;
  private readonly total: number;
  private readonly glowing: Glowing;
  private readonly at = { x: 0, y: 0, z: 0, nx: 0, ny: 0, nz: 0, u: 0, v: 0, id: 0 };

  constructor(light: Extract<SceneLight, { kind: 'glow' | 'object' }>, geometry: SceneGeometry) {
    this.light = light;
    this.key = ownKey(light.id);
    this.alone = isAlone(light);
    this.geometry = geometry;
    this.glowing = light.kind === 'glow' ? byMaterial(geometry) : byObject(geometry, light.object);
    const { levels } = this.glowing;
    const sums: number[] = [];
    let total = 0;
    for (let id = 0; id < levels.length; id++) {
      if (levels[id] === 0) continue;
      const power = this.area(id) * levels[id]!;
      if (!(power > 0)) continue;
      total += power;
      this.triangles.push(id);
      sums.push(total);
    }
    this.total = total;
    this.sums = Float64Array.from(sums);
    this.aims = this.triangles.length > 0;
    if (this.aims) {
      this.choose(0.5, 0.5);
      this.centre = [this.at.x, this.at.y, this.at.z];
    }
  }

  private corner(id: number, c: number, k: number): number {
    const { positions, indices } = this.geometry.mesh;
    return positions[indices[id * 3 + c]! * 3 + k]!;
  }

  private area(id: number): number {
    const u = [0, 1, 2].map((k) => this.corner(id, 1, k) - this.corner(id, 0, k)),
      v = [0, 1, 2].map((k) => this.corner(id, 2, k) - this.corner(id, 0, k));
    return 0.5 * Math.hypot(u[1]! * v[2]! - u[2]! * v[1]!, u[2]! * v[0]! - u[0]! * v[2]!, u[0]! * v[1]! - u[1]! * v[0]!);
  }

  /** Leaves a point of the glowing surfaces in `at`. */
  private choose(u: number, v: number): void {
    const { sums, at } = this;
    const target = u * this.total;
    let low = 0,
      high = sums.length - 1;
    while (low < high) {
      const middle = (low + high) >> 1;
      if (sums[middle]! > target) high = middle;
      else low = middle + 1;
    }
    const before = low ? sums[low - 1]! : 0;
    const id = this.triangles[low]!;
    // what is left of u within its triangle is as good as new; the square root spreads points evenly
    const rest = Math.min(1, Math.max(0, (target - before) / (sums[low]! - before)));
    const s = Math.sqrt(rest),
      b1 = s * (1 - v),
      b2 = s * v,
      b0 = 1 - s;
    const c = (corner: number, k: number) => this.corner(id, corner, k);
    at.x = b0 * c(0, 0) + b1 * c(1, 0) + b2 * c(2, 0);
    at.y = b0 * c(0, 1) + b1 * c(1, 1) + b2 * c(2, 1);
    at.z = b0 * c(0, 2) + b1 * c(1, 2) + b2 * c(2, 2);
    const ux = c(1, 0) - c(0, 0),
      uy = c(1, 1) - c(0, 1),
      uz = c(1, 2) - c(0, 2),
      wx = c(2, 0) - c(0, 0),
      wy = c(2, 1) - c(0, 1),
      wz = c(2, 2) - c(0, 2);
    const nx = uy * wz - uz * wy,
      ny = uz * wx - ux * wz,
      nz = ux * wy - uy * wx,
      l = 1 / Math.sqrt(nx * nx + ny * ny + nz * nz);
    at.nx = nx * l;
    at.ny = ny * l;
    at.nz = nz * l;
    at.u = b1;
    at.v = b2;
    at.id = id;
  }

  /** Density by area of a point on a triangle. */
  private density(id: number): number {
    return this.glowing.levels[id]! / this.total;
  }

  fromPoint(x: number, y: number, z: number, u: number, v: number): number {
    this.choose(u, v);
    const { at, towards } = this;
    const dx = at.x - x,
      dy = at.y - y,
      dz = at.z - z,
      d2 = dx * dx + dy * dy + dz * dz,
      d = Math.sqrt(d2);
    if (!(d > 1e-6)) return 0;
    towards.x = dx / d;
    towards.y = dy / d;
    towards.z = dz / d;
    towards.distance = d * 0.9995;
    this.glowing.radiance(at.id, at.u, at.v, radiance);
    towards.r = radiance[0]!;
    towards.g = radiance[1]!;
    towards.b = radiance[2]!;
    const cos = Math.abs(towards.x * at.nx + towards.y * at.ny + towards.z * at.nz);
    return cos / (d2 * this.density(at.id));
  }

  aim(job: SamplerJob, count: number, sample: number, step: number): void {
    aimByPoints(this, job, count, sample, step, true);
  }

  meet({ batch, kernel, limits, bounces }: SamplerJob, film: Float32Array, second: number, count: number): void {
    const { hits, hitIds, rays } = kernel;
    const { density, label, pixel, depth, tr, tg, tb } = batch.fields;
    const { levels } = this.glowing;
    for (let i = 0; i < count; i++) {
      const id = hitIds[i * 4 + 3]!;
      if (id < 0 || levels[id] === 0) continue;
      let weight = 1;
      if (label[i] === UNSCATTERED) {
        if (!this.light.camera) continue;
      } else {
        // beyond the last vertex its light sample carried all; before, the two share
        if (this.alone || density[i] === 0 || depth[i]! > bounces) continue;
        const r = i * 8,
          t = hits[i * 4]!;
        const u = [0, 1, 2].map((a) => this.corner(id, 1, a) - this.corner(id, 0, a)),
          v = [0, 1, 2].map((a) => this.corner(id, 2, a) - this.corner(id, 0, a));
        const n = [u[1]! * v[2]! - u[2]! * v[1]!, u[2]! * v[0]! - u[0]! * v[2]!, u[0]! * v[1]! - u[1]! * v[0]!];
        const cos = Math.abs(n[0]! * rays[r + 4]! + n[1]! * rays[r + 5]! + n[2]! * rays[r + 6]!) / Math.hypot(n[0]!, n[1]!, n[2]!);
        weight = walkWeight(density[i]!, Math.max(1e-9, cos) / (this.density(id) * t * t));
      }
      if (limits.haze > 0) weight *= Math.exp(-limits.haze * hits[i * 4]!);
      this.glowing.radiance(id, hits[i * 4 + 1]!, hits[i * 4 + 2]!, radiance);
      const f = pixel[i]! * 3 + (label[i] === UNSCATTERED ? 0 : label[i]! * second);
      film[f] = film[f]! + tr[i]! * weight * radiance[0]!;
      film[f + 1] = film[f + 1]! + tg[i]! * weight * radiance[1]!;
      film[f + 2] = film[f + 2]! + tb[i]! * weight * radiance[2]!;
    }
  }
}
