import type { Vec3 } from '../math/index.ts';
import type { Scene } from '../scene/index.ts';
import { luminance } from '../photometry/index.ts';
import { lightRadiance, type Setup } from '../setup/index.ts';
import type { Tracer } from './tracer.ts';

/** Irradiance at a point, lux. */
export interface ProbeResult {
  lights: { id: string; name: string; on: boolean; direct: number; total: number }[];
  /** Of the lights that are on. */
  direct: number;
  total: number;
}

/** Measures the light that falls on a point of a setup's scene, by light: what a lux meter held there would show. */
export function probe(
  setup: Setup,
  scene: Scene,
  tracer: Tracer,
  at: Vec3,
  normal: Vec3,
  options: { samples?: number; seed?: number; bounces?: number } = {},
): ProbeResult {
  const { samples = 65536, seed = 1, bounces = 3 } = options;
  const unit = tracer.irradiance(at, normal, scene.lights, { samples, seed, bounces, haze: scene.haze });
  const lights = scene.lights.map(({ id }, i) => {
    const light = setup.lights.items[id]!;
    const [r, g, b] = lightRadiance(light);
    // by channel first: what a red wall sends on of a warm light is not its share of white
    const lux = ([x, y, z]: Vec3): number => luminance(x * r, y * g, z * b);
    return { id, name: light.name, on: light.on, direct: lux(unit[i]!.direct), total: lux(unit[i]!.total) };
  });
  const sum = (k: 'direct' | 'total') => lights.reduce((s, l) => s + (l.on ? l[k] : 0), 0);
  return { lights, direct: sum('direct'), total: sum('total') };
}
