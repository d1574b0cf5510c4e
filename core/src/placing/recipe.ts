// Intentions of one's own: what a rig is, said as an intention says it, so that it begins the same light on another face.
import { z } from 'zod';
import { named } from '../face/index.ts';
import { clamp, round } from '../math/index.ts';
import { isAbout, isPlaced, LIMITS, orderOf, wrapDegrees, type Light, type PlacedLight } from '../setup/index.ts';
import { headScale, skinWanted, spotOnBackdrop } from '../staging/index.ts';
import { beginningSchema, KEY_PATTERNS, type Beginning, type Brief } from './briefs.ts';
import { irradianceAtHead } from './geometry.ts';
import type { Stand } from './stand.ts';

export const RECIPE_VERSION = 1;
export const recipeSchema = z.strictObject({
  schemaVersion: z.literal(RECIPE_VERSION),
  name: z.string().trim().min(1).max(120),
  /** Why it begins so. */
  brief: z.string().max(240),
  light: beginningSchema,
});
export type Recipe = z.infer<typeof recipeSchema>;

/** A recipe as an intention that a rig is begun from. */
export const briefOf = (id: string, { name, brief, light }: Recipe): Brief => ({ id, name, words: brief, ...light });

/** What was taken from a setup, and the names of lights that an intention cannot say. */
export interface Taken {
  light: Beginning;
  left: string[];
}

/** Across a source: its own measures, or those of a small one. */
function measures(light: Light): { width: number; height: number } {
  const of = light as { width?: number; height?: number; diameter?: number; length?: number };
  const width = of.width ?? of.diameter ?? 0.2;
  return { width, height: of.height ?? of.length ?? width };
}
const kelvinOf = (light: Light): number => ('kelvin' in light ? light.kelvin : 5600);

/**
 * What the lights of a setup are, by the roles that they have, in the words of an intention: pattern and ratio as they were read, sizes and distances in
 * those of a grown person's head, levels as shares of the light that brings skin to where the camera shows it well.
 * @throws Error that says what is missing
 */
export function recipeOf(stand: Stand): Taken {
  const { setup, reading, map } = stand;
  const k = headScale(setup),
    left: string[] = [];
  let fill: string | undefined;
  const lights = orderOf(setup.lights)
    .map((id) => ({ id, light: setup.lights.items[id]! }))
    .filter(({ light }) => light.on);
  const stands = (light: Light): light is PlacedLight => isPlaced(light) && isAbout(setup, light, stand.subject);
  const key = lights.find((l) => l.id === reading?.key?.id);
  if (!key || !stands(key.light)) throw new Error('No key light stands about the head: an intention begins with one.');
  const drawn = named(reading!.byKey)?.pattern,
    pattern = KEY_PATTERNS.find((p) => p === drawn);
  if (!pattern) throw new Error('The key draws no pattern that has a name: an intention begins with one.');
  const size = (v: number) => clamp(round(v / k, 3), LIMITS.size);
  const sourceOf = (id: string, light: Light) => {
    const { width, height } = measures(light);
    const given = stand.at(setup, id),
      level = stand.lights.find((l) => l.light.id === id)?.level ?? 0;
    const share = given ? (irradianceAtHead(map.face.frame, given) * level) / skinWanted(setup) : 0;
    return { width: size(width), height: size(height), kelvin: kelvinOf(light), share: clamp(round(share, 3), [0, 1000]) };
  };
  const far = ({ place }: PlacedLight) => clamp(round(place.distance / k, 3), LIMITS.distance);
  const out: Beginning = { key: { ...sourceOf(key.id, key.light), pattern, distance: far(key.light) } };
  // places beyond the figure are said for a key from its left, from where the camera stands
  const sign = key.light.place.azimuth < 0 ? -1 : 1;
  for (const { id, light } of lights) {
    if (id === key.id) continue;
    const { role } = light;
    if (role === 'fill' && !out.fill && stands(light)) {
      fill = id;
      out.fill = { ...sourceOf(id, light), elevation: round(light.place.elevation, 1) };
    } else if ((role === 'rim' || role === 'kick') && !out[role] && stands(light)) {
      const { azimuth, elevation } = light.place;
      const beyond = round(wrapDegrees(sign * (azimuth - stand.cameraAzimuth)), 1);
      out[role] = { ...sourceOf(id, light), azimuth: beyond, elevation: round(elevation, 1), distance: far(light) };
    } else if (role === 'background' && !out.backdrop && light.kind === 'spot') {
      const share = (light.output.value * 2 ** light.stops) / spotOnBackdrop(setup).output.value;
      out.backdrop = { share: clamp(round(share, 3), [0, 1000]), kelvin: light.kelvin };
    } else {
      const seen = role === 'eye' && !out.eye ? reading!.catchlights.find((c) => c.light === id && c.seen) : undefined;
      if (seen) out.eye = { clock: round(seen.clock, 1), kelvin: kelvinOf(light) };
      else left.push(light.name);
    }
  }
  // an intention's ratio is that of key and fill: what stands beyond the figure comes to it
  if (fill !== undefined) {
    const two = stand.lights.filter((l) => l.light.id === key.id || l.light.id === fill);
    const ratio = stand.meter.read(two, stand.camera).ratio?.value;
    if (ratio !== undefined && ratio >= 1.05 && Number.isFinite(ratio)) out.ratio = clamp(round(ratio, 1), [1, 64]);
  }
  return { light: out, left };
}
