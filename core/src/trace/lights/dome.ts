import { ownKey } from '../dimensions.ts';
import { FAR } from '../../light/index.ts';
import type { SceneLight } from '../../scene/index.ts';
import { UNSCATTERED } from '../batch.ts';
import { HAZE_DEPTH } from '../limits.ts';
import type { ReachTables } from '../reach.ts';
import { makeTowards, type LightSampler, type SamplerJob } from './sampler.ts';

/** A dome that is the same from everywhere: met by every walk ray that meets nothing else. */
export class DomeSampler implements LightSampler {
  readonly light: SceneLight;
  reach: ReachTables = {};
  readonly key: number;
  readonly alone = false;
  readonly far = true;
  readonly aims = false;
  readonly towards = makeTowards(FAR);
  readonly centre = undefined;

  constructor(light: Extract<SceneLight, { kind: 'dome' }>) {
    this.light = light;
    this.key = ownKey(light.id);
  }

  aim(): void {}

  meet({ batch, kernel, limits }: SamplerJob, film: Float32Array, second: number, count: number): void {
    const { hitIds } = kernel;
    const { density, label, pixel, tr, tg, tb } = batch.fields;
    const k = limits.haze > 0 ? Math.exp(-limits.haze * HAZE_DEPTH) : 1;
    for (let i = 0; i < count; i++) {
      if (hitIds[i * 4 + 3]! >= 0) continue;
      const seen = label[i] === UNSCATTERED;
      if (seen ? !this.light.camera : density[i] === 0) continue;
      const f = pixel[i]! * 3 + (seen ? 0 : label[i]! * second);
      film[f] = film[f]! + tr[i]! * k;
      film[f + 1] = film[f + 1]! + tg[i]! * k;
      film[f + 2] = film[f + 2]! + tb[i]! * k;
    }
  }

  fromPoint(_x: number, _y: number, _z: number, u: number, v: number): number {
    const z = 1 - 2 * u,
      r = Math.sqrt(Math.max(0, 1 - z * z));
    this.towards.x = r * Math.cos(2 * Math.PI * v);
    this.towards.y = z;
    this.towards.z = r * Math.sin(2 * Math.PI * v);
    return 4 * Math.PI;
  }
}
