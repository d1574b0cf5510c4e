import type { SceneGeometry, SceneLight } from '../../scene/index.ts';
import { DomeSampler } from './dome.ts';
import { GlowSampler } from './glow.ts';
import { RectangleSampler } from './rectangle.ts';
import type { LightSampler } from './sampler.ts';

export type { LightSampler, SamplerJob } from './sampler.ts';

/** The sampler of a light; nothing for what is not a light. */
export function samplerOf(light: SceneLight, geometry: SceneGeometry): LightSampler | undefined {
  switch (light.kind) {
    case 'rectangle':
      return new RectangleSampler(light);
    case 'dome':
      return new DomeSampler(light);
    case 'glow':
      return new GlowSampler(light, geometry);
    case 'openness':
      return undefined;
  }
}
