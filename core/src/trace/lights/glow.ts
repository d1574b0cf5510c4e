import { dimension, maskWords, openDimension, shiftedA, shiftedB, textKey } from '../../math/index.ts';
import { luminance } from '../../photometry/index.ts';
import type { SceneGeometry, SceneLight } from '../../scene/index.ts';
import { glows } from '../../surface/index.ts';
import { THROUGH, UNSCATTERED } from '../batch.ts';
import { lightKey } from '../dimensions.ts';
import { emissionAt, UNLIT_LUMINANCE } from '../surface.ts';
import { makeTowards, type LightSampler, type SamplerJob } from './sampler.ts';

const place = dimension();
const radiance = new Float64Array(3);

/**
 * All surfaces that give light of their own: a triangle is chosen by its power (area × the material's luminance), a point
 * on it evenly. Seen by the camera and met by the walk wherever they stand.
 */
export class GlowSampler implements LightSampler {
  readonly light: SceneLight;
  readonly key: number;
  readonly alone = false;
  readonly far = false;
  readonly aims: boolean;
  readonly towards = makeTowards();
  readonly centre: [number, number, number] | undefined;
  private readonly geometry: SceneGeometry;
  private readonly triangles: number[] = [];
  /** Running sum of power, over its total at the end. */
  private readonly sums: Float64Array;
  private readonly total: number;
  private readonly glowing: boolean[];
  private readonly levels: number[];
  private readonly at = { x: 0, y: 0, z: 0, nx: 0, ny: 0, nz: 0, u: 0, v: 0, id: 0 };

  constructor(light: Extract<SceneLight, { kind: 'glow' }>, geometry: SceneGeometry) {
    this.light = light;
    this.key = textKey(light.id);
    this.geometry = geometry;
    this.glowing = geometry.materials.map(glows);
    this.levels = geometry.materials.map((m) => (m.unlit ? luminance(...m.base) * UNLIT_LUMINANCE : luminance(...m.emission)));
    const sums: number[] = [];
    let total = 0;
    for (let id = 0; id < geometry.triangleMaterial.length; id++) {
      const k = geometry.triangleMaterial[id]!;
      if (!this.glowing[k]) continue;
      const power = this.area(id) * this.levels[k]!;
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

  /** Density by area of a point on a triangle of material `k`. */
  private density(k: number): number {
    return this.levels[k]! / this.total;
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
    emissionAt(this.geometry, at.id, at.u, at.v, radiance);
    towards.r = radiance[0]!;
    towards.g = radiance[1]!;
    towards.b = radiance[2]!;
    const cos = Math.abs(towards.x * at.nx + towards.y * at.ny + towards.z * at.nz);
    return cos / (d2 * this.density(this.geometry.triangleMaterial[at.id]!));
  }

  aim({ batch, seed }: SamplerJob, count: number, sample: number, step: number): void {
    const { px, py, pz, pass, cell, lx, ly, lz, ld, lw, lr, lg, lb } = batch.fields;
    const mask = maskWords();
    openDimension(place, sample, lightKey(seed, this.key, step));
    for (let i = 0; i < count; i++) {
      lw[i] = 0;
      if (pass[i] === THROUGH) continue;
      const S = this.fromPoint(px[i]!, py[i]!, pz[i]!, shiftedA(place, mask, cell[i]!), shiftedB(place, mask, cell[i]!));
      if (!(S > 0)) continue;
      lx[i] = this.towards.x;
      ly[i] = this.towards.y;
      lz[i] = this.towards.z;
      ld[i] = this.towards.distance;
      lw[i] = S;
      lr[i] = this.towards.r;
      lg[i] = this.towards.g;
      lb[i] = this.towards.b;
    }
  }

  meet({ batch, kernel, limits, bounces }: SamplerJob, film: Float32Array, second: number, count: number): void {
    const { hits, hitIds, rays } = kernel;
    const { density, label, pixel, depth, tr, tg, tb } = batch.fields;
    const { geometry } = this;
    for (let i = 0; i < count; i++) {
      const id = hitIds[i * 4 + 3]!;
      if (id < 0) continue;
      const k = geometry.triangleMaterial[id]!;
      if (!this.glowing[k]) continue;
      let weight = 1;
      if (depth[i]! > 0) {
        // the last vertex took no light sample beyond `bounces`; all others share with theirs
        if (depth[i]! > bounces) continue;
        const r = i * 8,
          t = hits[i * 4]!;
        const u = [0, 1, 2].map((a) => this.corner(id, 1, a) - this.corner(id, 0, a)),
          v = [0, 1, 2].map((a) => this.corner(id, 2, a) - this.corner(id, 0, a));
        const n = [u[1]! * v[2]! - u[2]! * v[1]!, u[2]! * v[0]! - u[0]! * v[2]!, u[0]! * v[1]! - u[1]! * v[0]!];
        const cos = Math.abs(n[0]! * rays[r + 4]! + n[1]! * rays[r + 5]! + n[2]! * rays[r + 6]!) / Math.hypot(n[0]!, n[1]!, n[2]!);
        const light = (this.density(k) * t * t) / Math.max(1e-9, cos),
          walk = density[i]!;
        weight = (walk * walk) / (walk * walk + light * light);
      }
      if (limits.haze > 0) weight *= Math.exp(-limits.haze * hits[i * 4]!);
      emissionAt(geometry, id, hits[i * 4 + 1]!, hits[i * 4 + 2]!, radiance);
      const f = pixel[i]! * 3 + (label[i] === UNSCATTERED ? 0 : label[i]! * second);
      film[f] = film[f]! + tr[i]! * weight * radiance[0]!;
      film[f + 1] = film[f + 1]! + tg[i]! * weight * radiance[1]!;
      film[f + 2] = film[f + 2]! + tb[i]! * weight * radiance[2]!;
    }
  }
}
