import { CELLS, placesOf, surfacesOf, type CellLight, type FaceLight, type FaceMap, type ReadLight } from '../face/index.ts';
import { luminance } from '../photometry/index.ts';
import type { SceneGeometry, SceneLight } from '../scene/index.ts';
import { eyePart, headAround, lightRadiance, placeInWorld, type Setup } from '../setup/index.ts';
import { samplerOf } from './lights/index.ts';
import type { ReadJob, ReadResult } from './read.ts';

/** Samples to a side of a light that is in one place, and of one that is all round. */
const GRID = 2,
  ALL_ROUND = 8;

/** A light of a scene, luminance 1, as a face asks it; nothing for what is no light. */
export function faceLightOf(light: SceneLight, geometry: SceneGeometry): FaceLight | undefined {
  const ray = { x: 0, y: 0, z: 0, weight: 0 };
  if (light.kind === 'dome')
    return {
      id: light.id,
      ray,
      grid: ALL_ROUND,
      around: true,
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
  const { lights } = sampler.reach;
  return {
    id: light.id,
    ray,
    ...(lights ? { lights, blind: geometry.objects.some(eyePart) && !geometry.objects.some((o, k) => lights[k] === 1 && eyePart(o)) } : {}),
    ...(light.kind === 'environment' ? { grid: ALL_ROUND, around: true } : { grid: GRID }),
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

/** A light of a setup with what it sends to a face, as a reading wants it: at its level, and with its place where it has one. */
export function readLightOf(setup: Setup, light: FaceLight, cells: CellLight): ReadLight {
  const item = setup.lights.items[light.id]!;
  const level = item.on ? luminance(...lightRadiance(item)) * item.diffuse : 0;
  return { light, cells, level, ...('place' in item ? { centre: placeInWorld(headAround(setup, item), item.place) } : {}) };
}

/** Asks by rays what lights send to the places of a face. */
export function faceJob(map: FaceMap, lights: SceneLight[], samples: number, haze?: number): ReadJob {
  return { ...surfacesOf(map, placesOf(map)), lights, samples, seed: 1, object: map.skin, ...(haze ? { haze } : {}) };
}

/** What such a job found of its light number `l`; what is in the way is taken from what was `lookedUp`. */
export function cellsOfJob(map: FaceMap, { open, lit }: ReadResult, l: number, { shadedBy }: Pick<CellLight, 'shadedBy'>): CellLight {
  const out: CellLight = { shadedBy, open: new Float32Array(CELLS), lit: new Float32Array(CELLS) };
  const cells = placesOf(map);
  cells.forEach((c, i) => {
    const at = (l * cells.length + i) * 3;
    out.open[c] = luminance(open[at]!, open[at + 1]!, open[at + 2]!);
    out.lit[c] = luminance(lit[at]!, lit[at + 1]!, lit[at + 2]!);
  });
  return out;
}
