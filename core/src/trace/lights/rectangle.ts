import type { Shader } from '@plinket/kernel';
import { SphericalRectangle, type Rectangle } from '../../light/index.ts';
import { cross, dimension, length, maskWords, openDimension, scale, shiftedA, shiftedB } from '../../math/index.ts';
import type { SceneLight } from '../../scene/index.ts';
import { THROUGH } from '../batch.ts';
import { lightKey, ownKey } from '../dimensions.ts';
import { isAlone, type ReachTables } from '../reach.ts';
import { makeTowards, type LightSampler, type SamplerJob } from './sampler.ts';

const place = dimension();

/** A one-sided rectangle, sampled by the solid angle that it takes (Ureña, Fajardo, King 2013) or, from afar, by its area. */
export class RectangleSampler implements LightSampler {
  readonly light: SceneLight;
  reach: ReachTables = {};
  readonly key: number;
  readonly alone: boolean;
  readonly far = false;
  readonly aims = true;
  readonly towards = makeTowards();
  readonly centre: [number, number, number];
  private readonly rectangle: Rectangle;
  private readonly rect: SphericalRectangle;
  /** Number under which the shader knows it. */
  private slot = 0;
  known = false;

  constructor(light: Extract<SceneLight, { kind: 'rectangle' }>) {
    this.light = light;
    this.key = ownKey(light.id);
    this.alone = isAlone(light);
    this.rectangle = light.rectangle;
    this.rect = new SphericalRectangle(light.rectangle);
    const { corner, ex, ey } = light.rectangle;
    this.centre = [0, 1, 2].map((k) => corner[k]! + (ex[k]! + ey[k]!) / 2) as [number, number, number];
  }

  introduce(shader: Shader, slot: number): void {
    this.slot = slot;
    const { corner, ex, ey } = this.rectangle;
    const w = length(ex),
      h = length(ey);
    const x = scale(ex, 1 / w),
      y = scale(ey, 1 / h);
    const lit = this.alone ? 'none' : (this.reach.lights ?? 'all');
    this.known = shader.setRectangle(slot, [...corner, ...x, ...y, ...cross(x, y), w, h], lit);
  }

  aim({ batch, seed, shader }: SamplerJob, count: number, sample: number, step: number): void {
    const { px, py, pz, pass, cell, lx, ly, lz, ld, lw, lr, lg, lb } = batch.fields;
    const { rect } = this;
    const mask = maskWords();
    openDimension(place, sample, lightKey(seed, this.key, step));
    if (shader) {
      shader.aimRectangle(this.slot, count, place);
      return;
    }
    for (let i = 0; i < count; i++) {
      lw[i] = 0;
      if (pass[i] === THROUGH) continue;
      if (!rect.look(px[i]!, py[i]!, pz[i]!)) continue;
      rect.sample(shiftedA(place, mask, cell[i]!), shiftedB(place, mask, cell[i]!));
      lx[i] = rect.wx;
      ly[i] = rect.wy;
      lz[i] = rect.wz;
      ld[i] = rect.d;
      lw[i] = rect.spread;
      lr[i] = lg[i] = lb[i] = 1;
    }
  }

  meet({ batch, kernel, bounces, limits, shader }: SamplerJob, film: Float32Array, second: number, count: number): void {
    // the shader has asked for all its rectangles at once
    if (this.alone || (shader && this.known)) return;
    const { rays, hits } = kernel;
    const { density, label, depth, pixel, tr, tg, tb } = batch.fields;
    const { rect } = this;
    for (let i = 0; i < count; i++) {
      const p = density[i]!;
      if (p === 0 || depth[i]! > bounces) continue;
      const r = i * 8;
      const t = rect.intersectFrom(rays[r]!, rays[r + 1]!, rays[r + 2]!, rays[r + 4]!, rays[r + 5]!, rays[r + 6]!);
      if (!(t < hits[i * 4]!)) continue;
      if (!rect.look(rays[r]!, rays[r + 1]!, rays[r + 2]!)) continue;
      const ps = p * rect.spreadAt(rect.facing(rays[r + 4]!, rays[r + 5]!, rays[r + 6]!), t);
      let weight = (ps * ps) / (1 + ps * ps);
      if (limits.haze > 0) weight *= Math.exp(-limits.haze * t);
      const f = pixel[i]! * 3 + label[i]! * second;
      film[f] = film[f]! + tr[i]! * weight;
      film[f + 1] = film[f + 1]! + tg[i]! * weight;
      film[f + 2] = film[f + 2]! + tb[i]! * weight;
    }
  }

  fromPoint(x: number, y: number, z: number, u: number, v: number): number {
    const { rect, towards } = this;
    if (!rect.look(x, y, z)) return 0;
    rect.sample(u, v);
    towards.x = rect.wx;
    towards.y = rect.wy;
    towards.z = rect.wz;
    towards.distance = rect.d;
    return rect.spread;
  }
}
