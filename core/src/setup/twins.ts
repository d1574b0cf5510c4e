import type { Light } from './light-schema.ts';
import type { Json, Patch } from './patch.ts';
import { orderOf } from './rank.ts';
import type { Setup } from './schema.ts';

/** What twins never share. */
const NEVER = new Set(['rank', 'name', 'role', 'notes', 'place', 'twin', 'locked', 'group', 'kind']);

/** Properties that a light shares with its twin, as far as both have them. */
export function sharedProperties(light: Light): string[] {
  return Object.keys(light).filter((key) => !NEVER.has(key) && !light.twin?.own.includes(key));
}

const isObject = (v: Json | undefined): v is { [key: string]: Json } => typeof v === 'object' && v !== null && !Array.isArray(v);

/**
 * A patch that says of one light of a pair what it changes, said of the other as well, as far as both share it. Patches
 * that remove a light or say something of both are left as they are.
 */
export function spreadToTwins(setup: Setup, patch: Patch): Patch {
  const lights = patch['lights'];
  const items = isObject(lights) ? lights['items'] : undefined;
  if (!isObject(items)) return patch;
  const more: { [key: string]: Json } = {};
  for (const [id, change] of Object.entries(items)) {
    const light = setup.lights.items[id];
    if (!light?.twin || !isObject(change)) continue;
    for (const other of orderOf(setup.lights)) {
      const twin = setup.lights.items[other]!;
      if (other === id || other in items || twin.twin?.pair !== light.twin.pair || twin.kind !== light.kind) continue;
      const shared = Object.entries(change).filter(
        ([key]) => !NEVER.has(key) && !light.twin!.own.includes(key) && !twin.twin!.own.includes(key),
      );
      if (shared.length) more[other] = Object.fromEntries(shared);
    }
  }
  return Object.keys(more).length ? { ...patch, lights: { ...(lights as Patch), items: { ...items, ...more } } } : patch;
}
