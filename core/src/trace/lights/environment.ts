import { ownKey } from '../dimensions.ts';
import { EnvironmentView, FAR, OpticsView } from '../../light/index.ts';
import type { Vec3 } from '../../math/index.ts';
import type { SceneLight } from '../../scene/index.ts';
import { UNSCATTERED } from '../batch.ts';
import { isAlone, type ReachTables } from '../reach.ts';
import { HAZE_DEPTH } from '../limits.ts';
import { aimByPoints, makeTowards, walkWeight, type LightSampler, type SamplerJob } from './sampler.ts';

/** A picture of light from all around, sampled by luminance. */
export class EnvironmentSampler implements LightSampler {
  readonly light: SceneLight;
  reach: ReachTables = {};
  readonly key: number;
  readonly alone: boolean;
  readonly far = false;
  readonly aims = true;
  readonly towards = makeTowards(FAR);
  readonly centre = undefined;
  private readonly view: EnvironmentView;
  private readonly axes: [Vec3, Vec3, Vec3];
  private readonly optics: OpticsView | undefined;

  constructor(light: Extract<SceneLight, { kind: 'environment' }>) {
    this.light = light;
    this.key = ownKey(light.id);
    this.alone = isAlone(light);
    this.view = new EnvironmentView(light.environment);
    this.axes = light.axes;
    this.optics = light.optics && new OpticsView(light.optics);
  }

  fromPoint(x: number, y: number, z: number, u: number, v: number): number {
    const { view, towards, optics } = this,
      [ax, ay, az] = this.axes;
    const S = view.sample(u, v);
    towards.x = ax[0] * view.x + ay[0] * view.y + az[0] * view.z;
    towards.y = ax[1] * view.x + ay[1] * view.y + az[1] * view.z;
    towards.z = ax[2] * view.x + ay[2] * view.y + az[2] * view.z;
    let r = view.r,
      g = view.g,
      b = view.b;
    if (optics) {
      if (!optics.at(x, y, z, towards.x, towards.y, towards.z, FAR)) return 0;
      r *= optics.r;
      g *= optics.g;
      b *= optics.b;
    }
    towards.r = r;
    towards.g = g;
    towards.b = b;
    return S;
  }

  aim(job: SamplerJob, count: number, sample: number, step: number): void {
    aimByPoints(this, job, count, sample, step);
  }

  meet({ batch, kernel, bounces, limits }: SamplerJob, film: Float32Array, second: number, count: number): void {
    const { rays, hitIds } = kernel;
    const { density, label, depth, pixel, tr, tg, tb } = batch.fields;
    const { view, optics } = this,
      [ax, ay, az] = this.axes;
    const camera = this.light.camera === true;
    const dimmed = limits.haze > 0 ? Math.exp(-limits.haze * HAZE_DEPTH) : 1;
    for (let i = 0; i < count; i++) {
      if (hitIds[i * 4 + 3]! >= 0) continue;
      const seen = label[i] === UNSCATTERED;
      if (seen ? !camera : this.alone || density[i] === 0 || depth[i]! > bounces) continue;
      const r = i * 8,
        dx = rays[r + 4]!,
        dy = rays[r + 5]!,
        dz = rays[r + 6]!;
      const S = view.towards(
        dx * ax[0] + dy * ax[1] + dz * ax[2],
        dx * ay[0] + dy * ay[1] + dz * ay[2],
        dx * az[0] + dy * az[1] + dz * az[2],
      );
      if (optics && !optics.at(rays[r]!, rays[r + 1]!, rays[r + 2]!, dx, dy, dz, FAR)) continue;
      const weight = (seen ? 1 : walkWeight(density[i]!, S)) * dimmed;
      const f = pixel[i]! * 3 + (seen ? 0 : label[i]! * second);
      film[f] = film[f]! + tr[i]! * weight * view.r * (optics ? optics.r : 1);
      film[f + 1] = film[f + 1]! + tg[i]! * weight * view.g * (optics ? optics.g : 1);
      film[f + 2] = film[f + 2]! + tb[i]! * weight * view.b * (optics ? optics.b : 1);
    }
  }
}
