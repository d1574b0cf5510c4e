import type { Json, Patch } from './patch.ts';
import { keptCameraSchema, propSchema, subjectSchema, type Setup } from './schema.ts';
import { flagSchema, lightSchema } from './light-schema.ts';

/** Collections of a setup, and what their items are. */
const ITEMS = { subjects: subjectSchema, cameras: keptCameraSchema, props: propSchema, lights: lightSchema, flags: flagSchema } as const;

const isObject = (v: Json | undefined): v is { [key: string]: Json } => typeof v === 'object' && v !== null && !Array.isArray(v);

/**
 * What a change still means for a document that others have changed: where they took a thing away, a change of it is left out, since a
 * part of a thing is none. A change that brings the whole thing brings it back. All else stands.
 */
export function rebased(patch: Patch, onto: Setup): Patch {
  const out: Patch = { ...patch };
  for (const [name, schema] of Object.entries(ITEMS)) {
    const collection = out[name];
    if (!isObject(collection) || !isObject(collection['items'])) continue;
    const there = onto[name as keyof typeof ITEMS].items;
    const items = Object.entries(collection['items']).filter(
      ([id, change]) => change === null || Object.hasOwn(there, id) || schema.safeParse(change).success,
    );
    const kept: Patch = { ...collection, items: Object.fromEntries(items) };
    if (items.length) out[name] = kept;
    else {
      delete kept['items'];
      if (Object.keys(kept).length) out[name] = kept;
      else delete out[name];
    }
  }
  return out;
}
