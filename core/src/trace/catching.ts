// Shadow catchers: what arrives at them, with everything that stands there and without.
import type { RayKernel } from '@plinket/kernel';
import type { SceneGeometry } from '../scene/index.ts';
import { refCovers, type ObjectRef } from '../setup/index.ts';
import { glows } from '../surface/index.ts';
import { OPAQUE, UNSCATTERED, type Batch } from './batch.ts';
import { HiddenPaths } from './hidden.ts';
import { aimByPoints, type LightSampler, type SamplerJob } from './lights/index.ts';
import { meetShadows } from './shadows.ts';
import type { WantedFilms } from './wanted.ts';

/** Whether all that stays is one plane, or a part of it. */
function isFlat({ mesh: { positions, indices }, normals, triangleObject }: SceneGeometry, stays: Uint8Array): boolean {
  let first = -1;
  for (let t = 0; t < triangleObject.length; t++) {
    if (stays[triangleObject[t]!] === 0) continue;
    for (let k = t * 3; k < t * 3 + 3; k++) {
      const v = indices[k]! * 3;
      if (first < 0) first = v;
      const [x, y, z] = [normals[first]!, normals[first + 1]!, normals[first + 2]!];
      const off =
        (positions[v]! - positions[first]!) * x +
        (positions[v + 1]! - positions[first + 1]!) * y +
        (positions[v + 2]! - positions[first + 2]!) * z;
      if (Math.abs(off) > 1e-5 || normals[v]! * x + normals[v + 1]! * y + normals[v + 2]! * z < 0.99999) return false;
    }
  }
  return true;
}

/** Bounces of a path that goes no further: more than any may have. */
const ENDED = 0x7fff;

/**
 * Turns the paths that meet a catcher first from the picture to the catcher's own layers: their pixel is moved on by so many planes that what they
 * bring later falls on `bounce` and `mirror` instead of `diffuse` and `specular`, or they end there where nobody wishes for that. What lights send them directly is measured twice (with all that
 * casts their shadows, and with nothing but stage and catchers) by one and the same samples, so that both are equal but for shadows.
 */
export class Catching {
  /** Samples of each pixel that met a catcher first. */
  caught = new Float32Array(0);
  private readonly batch: Batch;
  private readonly geometry: SceneGeometry;
  /** By object: whether it catches, and whether it would stand there still without what casts shadows. */
  private readonly catches: Uint8Array;
  private readonly stays: Uint8Array;
  /** Nothing that stays can stand between a light and another part of it: then what would arrive needs no ray. */
  private readonly bare: boolean;
  /** Some of it gives light of its own. */
  private readonly glows: boolean;
  /** Pixels by which a path is moved on. */
  private shift = 0;
  private follow = true;
  /** Paths of this sample have been moved on. */
  private any = false;
  private readonly points: Int32Array;
  private count = 0;
  private readonly hidden: HiddenPaths;
  private readonly light: Float32Array;
  private readonly pixels: Int32Array;

  constructor(batch: Batch, geometry: SceneGeometry, refs: readonly ObjectRef[]) {
    const { objects, materials, triangleObject, triangleMaterial } = geometry,
      { capacity } = batch;
    this.batch = batch;
    this.geometry = geometry;
    this.catches = Uint8Array.from(objects, (o) => (refs.includes(o) ? 1 : 0));
    this.stays = Uint8Array.from(objects, (o, i) => (this.catches[i] || refCovers('stage', o) ? 1 : 0));
    this.bare = isFlat(geometry, this.stays);
    const glow = materials.map(glows);
    this.glows = triangleObject.some((o, t) => this.catches[o] === 1 && glow[triangleMaterial[t]!]!);
    this.points = new Int32Array(capacity);
    this.hidden = new HiddenPaths(batch);
    this.light = new Float32Array(capacity * 3);
    this.pixels = new Int32Array(capacity);
  }

  /** Begins a job over so many pixels; unless it is to `follow` them, paths end at catchers. */
  begin(wanted: WantedFilms, pixels: number, follow: boolean): this {
    this.caught = new Float32Array(pixels);
    this.follow = follow;
    this.shift = pixels * wanted.layers.indexOf(follow ? 'bounce' : 'arrives');
    return this;
  }

  /** Begins a sample of it. */
  next(): void {
    this.any = false;
  }

  /** Hides the paths that see a catcher glow, and those from a catcher that meet a light (that is its direct light), until `show`. */
  hide({ hitIds }: RayKernel, count: number): void {
    if (!this.any && !this.glows) return;
    const { label, depth, pixel } = this.batch.fields;
    const { geometry, catches, shift, hidden } = this;
    for (let i = 0; i < count; i++) {
      const hit = hitIds[i * 4 + 3]!;
      const own = label[i] === UNSCATTERED && hit >= 0 && catches[geometry.triangleObject[hit]!] === 1;
      if (own || (pixel[i]! >= shift && depth[i] === 1)) hidden.hide(i);
    }
  }

  show(): void {
    this.hidden.show();
  }

  /** Takes the paths over that stand on a catcher first of all. */
  take(count: number): void {
    const { label, pixel, pass, triangle, depth } = this.batch.fields;
    const { catches, geometry, shift, caught, follow } = this;
    for (let i = 0; i < count; i++) {
      const p = pixel[i]!;
      if (label[i] !== UNSCATTERED || pass[i] !== OPAQUE || p >= shift || catches[geometry.triangleObject[triangle[i]!]!] === 0) continue;
      caught[p] = caught[p]! + 1;
      pixel[i] = p + shift;
      if (!follow) depth[i] = ENDED;
      this.any = true;
    }
  }

  /** Finds the surface points of such paths among those of the batch; answers whether there are any. */
  find(count: number): boolean {
    const { pixel, depth } = this.batch.fields;
    this.count = 0;
    if (this.any)
      for (let i = 0; i < count; i++) if (pixel[i]! >= this.shift && (depth[i] === 0 || depth[i] === ENDED)) this.points[this.count++] = i;
    return this.count > 0;
  }

  /** Aims at a light that the walk alone meets, which a catcher's points must be told of; answers whether it is one. */
  aim(job: SamplerJob, sampler: LightSampler, count: number, sample: number, step: number): boolean {
    if (sampler.light.kind !== 'dome') return false;
    aimByPoints(sampler, job, count, sample, step);
    return true;
  }

  /** What would still stop a light: of what casts its shadow, what stays. */
  private standing(casts: Uint8Array | undefined): Uint8Array {
    return casts ? this.stays.map((v, o) => v & casts[o]!) : this.stays;
  }

  /**
   * Adds the light sample that stands at each of the points found to what arrives there and to what would arrive without shadows, as irradiance,
   * and takes it back: it is no light of the picture. Answers the number of shadow rays.
   */
  shade({ kernel, limits }: SamplerJob, sampler: LightSampler, arrives: Float32Array, open: Float32Array): number {
    const { light, pixels, shift, batch, bare } = this;
    const { shadowRays, blocked } = kernel;
    const { nx, ny, nz, ox, oy, oz, tr, tg, tb, lx, ly, lz, ld, lw, lr, lg, lb, pixel } = batch.fields;
    let w = 0;
    for (let k = 0; k < this.count; k++) {
      const i = this.points[k]!;
      const x = lx[i]!,
        y = ly[i]!,
        z = lz[i]!;
      const S = lw[i]! * (nx[i]! * x + ny[i]! * y + nz[i]! * z);
      lw[i] = 0;
      if (!(S > 0)) continue;
      const q = w * 3,
        p = pixel[i]! - shift;
      light[q] = tr[i]! * lr[i]! * S;
      light[q + 1] = tg[i]! * lg[i]! * S;
      light[q + 2] = tb[i]! * lb[i]! * S;
      pixels[w] = p;
      if (bare) {
        // of what was kept, in its precision: what arrives later is the same number
        for (let c = 0; c < 3; c++) open[p * 3 + c] = open[p * 3 + c]! + light[q + c]!;
      }
      const r = w * 8;
      shadowRays[r] = ox[i]!;
      shadowRays[r + 1] = oy[i]!;
      shadowRays[r + 2] = oz[i]!;
      shadowRays[r + 3] = 0;
      shadowRays[r + 4] = x;
      shadowRays[r + 5] = y;
      shadowRays[r + 6] = z;
      shadowRays[r + 7] = ld[i]! * 0.9999;
      w++;
    }
    if (!bare) {
      kernel.occluded(w, this.standing(sampler.reach.casts));
      addOpen(light, pixels, blocked, w, open);
    }
    meetShadows(kernel, sampler, light, 3, w);
    if (!sampler.light.bent) limits.dimThrough(kernel, light, 3, w, sampler.reach.casts);
    addOpen(light, pixels, blocked, w, arrives);
    return bare ? w : w * 2;
  }
}

/** Adds what is not blocked to its pixels. */
function addOpen(light: Float32Array, pixels: Int32Array, blocked: Uint8Array, count: number, to: Float32Array): void {
  for (let k = 0; k < count; k++) {
    if (blocked[k]) continue;
    const p = pixels[k]! * 3,
      q = k * 3;
    to[p] = to[p]! + light[q]!;
    to[p + 1] = to[p + 1]! + light[q + 1]!;
    to[p + 2] = to[p + 2]! + light[q + 2]!;
  }
}
