import type { SceneGeometry, SceneLight } from '../../scene/index.ts';
import { DomeSampler } from './dome.ts';
import { EnvironmentSampler } from './environment.ts';
import { GlowSampler } from './glow.ts';
import { RectangleSampler } from './rectangle.ts';
import { SourceSampler } from './source.ts';
import type { LightSampler } from './sampler.ts';
import { reachTables } from '../reach.ts';

export { aimByPoints, type LightSampler, type SamplerJob } from './sampler.ts';

/** The sampler of a light; nothing for what is not a light. */
export function samplerOf(light: SceneLight, geometry: SceneGeometry): LightSampler | undefined {
  const sampler = samplerFor(light, geometry);
  if (sampler) sampler.reach = reachTables(light, geometry);
  return sampler;
}

function samplerFor(light: SceneLight, geometry: SceneGeometry): LightSampler | undefined {
  switch (light.kind) {
    case 'rectangle':
      return new RectangleSampler(light);
    case 'source':
      return new SourceSampler(light);
    case 'dome':
      return new DomeSampler(light);
    case 'environment':
      return new EnvironmentSampler(light);
    case 'glow':
    case 'object':
      return new GlowSampler(light, geometry);
    case 'openness':
      return undefined;
  }
}
