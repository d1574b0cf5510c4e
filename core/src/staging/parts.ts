// Parts of one setup brought back into another: a proof whole, or “only the rim from this one”.
import { diff, isEmptyPatch, orderOf, type Light, type Patch, type Setup } from '../setup/index.ts';

/** What can be taken by itself, besides single lights (`light/<id>`). */
export const SETUP_PARTS = ['lights', 'characters', 'stage', 'camera', 'look', 'turntable'] as const;
export type SetupPart = (typeof SETUP_PARTS)[number] | `light/${string}`;

/** The fields of a setup that belong to a part. Exposure belongs to the camera here: a proof's picture is that of its exposure. */
const FIELDS = {
  lights: ['lights', 'flags', 'targets'],
  characters: ['subjects'],
  stage: ['stage', 'plate', 'haze', 'props', 'catcher'],
  camera: ['camera', 'cameras'],
  look: ['look'],
  turntable: ['turntable'],
} as const satisfies { [part in (typeof SETUP_PARTS)[number]]: readonly (keyof Setup)[] };

const differ = (a: unknown, b: unknown): boolean => !isEmptyPatch(diff({ v: a ?? null }, { v: b ?? null }));

/** Parts in which two setups differ: whole parts first, then each light of the second that is not as in the first. */
export function partsThatDiffer(now: Setup, then: Setup): SetupPart[] {
  const whole = SETUP_PARTS.filter((part) => FIELDS[part].some((field) => differ(now[field], then[field])));
  const lights = orderOf(then.lights).filter((id) => differ(now.lights.items[id], then.lights.items[id]));
  return [...whole, ...lights.map((id): SetupPart => `light/${id}`)];
}

/**
 * What brings parts of an earlier setup back, as one patch; without parts, all of it. Name and brief stay what they are: they are the setup's, not
 * the picture's. A light alone keeps its place among the others where it is still there; flags before it come along.
 */
export function restorePatch(now: Setup, then: Setup, parts?: readonly SetupPart[]): Patch {
  const back: Setup = parts ? { ...now } : { ...then, name: now.name, brief: now.brief };
  for (const part of parts ?? []) {
    if (!part.startsWith('light/')) {
      for (const field of FIELDS[part as (typeof SETUP_PARTS)[number]]) {
        if (then[field] === undefined) delete (back as Partial<Setup>)[field];
        else Object.assign(back, { [field]: then[field] });
      }
      continue;
    }
    const id = part.slice('light/'.length),
      light = then.lights.items[id];
    if (!light) continue;
    const rank = back.lights.items[id]?.rank ?? light.rank;
    back.lights = { items: { ...back.lights.items, [id]: { ...light, rank } as Light } };
    const flags = Object.entries(then.flags.items).filter(([, flag]) => flag.lights.includes(id));
    back.flags = {
      items: {
        ...back.flags.items,
        // others that it stood before keep what they have now
        ...Object.fromEntries(
          flags.map(([f, flag]) => [f, { ...flag, lights: [...new Set([id, ...(back.flags.items[f]?.lights ?? [])])] }]),
        ),
      },
    };
  }
  return diff(now, back);
}
