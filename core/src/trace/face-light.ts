import type { FaceLight } from '../face/index.ts';
import { luminance } from '../photometry/index.ts';
import type { SceneGeometry, SceneLight } from '../scene/index.ts';
import { samplerOf } from './lights/index.ts';

/** Samples to a side of a light that is in one place, and of one that is all round. */
const GRID = 3,
  ALL_ROUND = 8;

/** A light of a scene, luminance 1, as a face asks it; nothing for what is no light. */
export function faceLightOf(light: SceneLight, geometry: SceneGeometry): FaceLight | undefined {
  const ray = { x: 0, y: 0, z: 0, weight: 0 };
  if (light.kind === 'dome')
    return {
      id: light.id,
      ray,
      grid: ALL_ROUND,
      sample: (_x, _y, _z, u, v) => {
        const h = 1 - 2 * u,
          r = Math.sqrt(Math.max(0, 1 - h * h));
        ray.x = r * Math.cos(2 * Math.PI * v);
        ray.y = h;
        ray.z = r * Math.sin(2 * Math.PI * v);
        ray.weight = 4 * Math.PI;
        return true;
      },
    };
  const sampler = samplerOf(light, geometry);
  if (!sampler?.aims) return undefined;
  return {
    id: light.id,
    ray,
    grid: light.kind === 'environment' ? ALL_ROUND : GRID,
    sample: (x, y, z, u, v) => {
      const S = sampler.fromPoint(x, y, z, u, v);
      if (!(S > 0)) return false;
      const { towards } = sampler;
      ray.x = towards.x;
      ray.y = towards.y;
      ray.z = towards.z;
      ray.weight = S * luminance(towards.r, towards.g, towards.b);
      return true;
    },
  };
}
