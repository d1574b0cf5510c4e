import { ownKey } from '../dimensions.ts';
import { centreOf, OpticsView, viewOf, type ShapeView } from '../../light/index.ts';
import type { SceneLight } from '../../scene/index.ts';
import { UNSCATTERED } from '../batch.ts';
import { isAlone, type ReachTables } from '../reach.ts';
import { HAZE_DEPTH } from '../limits.ts';
import { aimByPoints, makeTowards, walkWeight, type LightSampler, type SamplerJob } from './sampler.ts';

/** A source of any shape, with what shapes its light on the way. */
export class SourceSampler implements LightSampler {
  readonly light: SceneLight;
  reach: ReachTables = {};
  readonly key: number;
  readonly alone: boolean;
  readonly far = false;
  readonly aims = true;
  readonly towards = makeTowards();
  readonly centre: [number, number, number] | undefined;
  private readonly view: ShapeView;
  private readonly optics: OpticsView | undefined;

  constructor(light: Extract<SceneLight, { kind: 'source' }>) {
    this.light = light;
    this.key = ownKey(light.id);
    this.alone = isAlone(light);
    this.view = viewOf(light.shape);
    this.optics = light.optics && new OpticsView(light.optics);
    this.centre = centreOf(light.shape);
  }

  fromPoint(x: number, y: number, z: number, u: number, v: number): number {
    const { view, optics, towards } = this;
    const S = view.sample(x, y, z, u, v);
    if (!(S > 0)) return 0;
    towards.x = view.wx;
    towards.y = view.wy;
    towards.z = view.wz;
    towards.distance = view.d;
    if (optics) {
      if (!optics.at(x, y, z, view.wx, view.wy, view.wz, view.d)) return 0;
      towards.r = optics.r;
      towards.g = optics.g;
      towards.b = optics.b;
    }
    return S;
  }

  aim(job: SamplerJob, count: number, sample: number, step: number): void {
    aimByPoints(this, job, count, sample, step);
  }

  meet({ batch, kernel, bounces, limits }: SamplerJob, film: Float32Array, second: number, count: number): void {
    const { rays, hits } = kernel;
    const { density, label, depth, pixel, tr, tg, tb } = batch.fields;
    const { view, optics } = this;
    const camera = this.light.camera === true;
    for (let i = 0; i < count; i++) {
      const seen = label[i] === UNSCATTERED;
      if (seen ? !camera : this.alone || density[i] === 0 || depth[i]! > bounces) continue;
      const r = i * 8,
        ox = rays[r]!,
        oy = rays[r + 1]!,
        oz = rays[r + 2]!,
        dx = rays[r + 4]!,
        dy = rays[r + 5]!,
        dz = rays[r + 6]!;
      const t = view.meet(ox, oy, oz, dx, dy, dz);
      if (!(t < hits[i * 4]!)) continue;
      if (optics && !optics.at(ox, oy, oz, dx, dy, dz, t)) continue;
      let weight = seen ? 1 : walkWeight(density[i]!, view.met);
      if (limits.haze > 0) weight *= Math.exp(-limits.haze * Math.min(t, HAZE_DEPTH));
      const f = pixel[i]! * 3 + (seen ? 0 : label[i]! * second);
      film[f] = film[f]! + tr[i]! * weight * (optics ? optics.r : 1);
      film[f + 1] = film[f + 1]! + tg[i]! * weight * (optics ? optics.g : 1);
      film[f + 2] = film[f + 2]! + tb[i]! * weight * (optics ? optics.b : 1);
    }
  }
}
