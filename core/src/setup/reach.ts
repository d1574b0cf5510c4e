// What a light reaches: which objects it lights, and which cast its shadow. The meaning is that of light linking and shadow linking in
// UsdLux (openusd.org, "UsdLuxLightAPI: lightLink, shadowLink" and "UsdCollectionAPI"; from memory): two collections of paths that are
// included or excluded, and the nearest path above an object decides.
import { z } from 'zod';
import { partName, readRef, refCovers, type ObjectRef } from './object-ref.ts';
import { LIMITS } from './limits.ts';
import { diff, type Patch } from './patch.ts';
import { colour, within } from './values.ts';

/** Everything. */
export const ALL = '*';
/** Rules that hold for whatever comes. */
const GENERAL: readonly string[] = [ALL, 'subjects', 'props', 'stage'];
/** Parts of every character that are called so. */
const ANYONES = /^subjects\/\*\/(?<part>.+)$/s;
/** Most rules of one collection. */
const MOST = 400;

const isRule = (rule: string): boolean =>
  GENERAL.includes(rule) || readRef(rule) !== undefined || partName.safeParse(anyonesPart(rule)).success;

/** The name of the part, where a rule means that part of every character. */
export const anyonesPart = (rule: ReachRule): string | undefined => ANYONES.exec(rule)?.groups?.['part'];

/**
 * A rule of a collection: everything (`*`), all characters (`subjects`), all things (`props`), the stage (`stage`) or a piece of it, one of them by
 * its id, a part of a character, or the part of that name of every character (`subjects/` `*` `/Eyes`). What nothing is called waits.
 */
export const reachRule = z
  .string()
  .max(200)
  .refine(isRule, 'a rule names everything (“*”), “subjects”, “props”, “stage”, an object, or “subjects/*/Part”');
export type ReachRule = z.infer<typeof reachRule>;

/** Rules with whether what they cover is in: each a member of its own, so that two people who say something of two objects are both heard. Without a rule all is in. */
export const reachCollection = z.record(reachRule, z.boolean()).refine((c) => Object.keys(c).length <= MOST, `at most ${MOST} rules`);
export type ReachCollection = z.infer<typeof reachCollection>;

export const RELATIONS = ['lights', 'casts'] as const;
export type Relation = (typeof RELATIONS)[number];

/** What a shadow of some objects takes of a light, and the colour that stays in it: as a light's own shadow, but by what casts it. */
export const pairShadow = z.strictObject({ density: within(LIMITS.unit), colour });
export type PairShadow = z.infer<typeof pairShadow>;

/** What a light lights, whose shadow it casts, and how much of a shadow that is where it is less than whole. */
export const reachSchema = z.strictObject({
  lights: reachCollection,
  casts: reachCollection,
  shadows: z
    .record(reachRule, pairShadow)
    .refine((c) => Object.keys(c).length <= MOST, `at most ${MOST} rules`)
    .optional(),
});
export type Reach = z.infer<typeof reachSchema>;

/** Only what these rules cover. */
export const only = (...rules: ReachRule[]): ReachCollection => Object.fromEntries([[ALL, false], ...rules.map((r) => [r, true] as const)]);

/** How near a rule is to an object that it covers: more is nearer; −1 where it does not. */
function nearness(rule: ReachRule, object: ObjectRef): number {
  if (rule === ALL) return 0;
  const part = anyonesPart(rule);
  // a part by name is nearer than its character, and less near than that very part
  if (part !== undefined) return /^subjects\/[^/]+\/(?<part>.+)$/s.exec(object)?.groups?.['part'] === part ? 2.5 : -1;
  // a part's own name may have slashes: it is one step all the same
  return refCovers(rule, object) ? Math.min(3, rule.split('/').length) : -1;
}

/** Whether an object is in a collection. */
export function isReached(collection: ReachCollection | undefined, object: ObjectRef): boolean {
  let nearest = -1,
    is = true;
  for (const [rule, within] of Object.entries(collection ?? {})) {
    const n = nearness(rule, object);
    if (n <= nearest) continue;
    nearest = n;
    is = within;
  }
  return is;
}

/** The whole shadow of an object. */
const WHOLE: PairShadow = { density: 1, colour: [0, 0, 0] };

/** How much of a shadow an object casts of a light: the nearest rule decides, and without one it is whole. */
export function pairShadowOf(shadows: Reach['shadows'], object: ObjectRef): PairShadow {
  let nearest = -1,
    found = WHOLE;
  for (const [rule, shadow] of Object.entries(shadows ?? {})) {
    const n = nearness(rule, object);
    if (n <= nearest) continue;
    nearest = n;
    found = shadow;
  }
  return found;
}

/** Says how much of a shadow what a rule covers casts of lights; what was said of its parts goes. A whole one is said only where a wider rule says less. */
export function pairShadowPatch(
  lights: { items: Record<string, { reach?: Reach | undefined }> },
  ids: readonly string[],
  rule: ReachRule,
  shadow: PairShadow,
): Patch {
  const items: Patch = {};
  for (const light of ids) {
    const now = lights.items[light];
    if (!now) continue;
    const { reach } = now,
      was = reach?.shadows ?? {};
    const left = Object.fromEntries(Object.entries(was).filter(([r]) => r !== rule && !isWithin(r, rule)));
    const whole = shadow.density === 1 && shadow.colour.every((v) => v === 0);
    const same = whole && JSON.stringify(pairShadowOf(left, sampleOf(rule))) === JSON.stringify(WHOLE);
    const made = same ? left : { ...left, [rule]: shadow };
    const shadows = Object.keys(made).length ? diff(was, made) : null;
    items[light] = { reach: { ...(reach ? {} : { lights: {}, casts: {} }), shadows } };
  }
  return { lights: { items } };
}

/** Whether every object of a list is in a collection, or none, or some. */
export function reachOver(collection: ReachCollection | undefined, objects: readonly ObjectRef[]): 'all' | 'some' | 'none' {
  const n = objects.filter((o) => isReached(collection, o)).length;
  return n === objects.length ? 'all' : n === 0 ? 'none' : 'some';
}

/** Whether what one rule covers the other one covers too, and more. */
function isWithin(inner: ReachRule, outer: ReachRule): boolean {
  if (inner === outer) return false;
  if (outer === ALL) return true;
  return anyonesPart(outer) === undefined ? refCovers(outer, inner) : nearness(outer, inner) > 0;
}

/** The collection with what a rule covers put in or taken out: rules below it go, and it is named only where that changes anything. */
export function withRule(collection: ReachCollection | undefined, rule: ReachRule, within: boolean): ReachCollection {
  const left = Object.fromEntries(Object.entries(collection ?? {}).filter(([r]) => r !== rule && !isWithin(r, rule)));
  // a part of everyone may be of someone for whom another rule holds
  const someones = anyonesPart(rule) !== undefined && Object.keys(left).some((r) => r.startsWith('subjects/'));
  return !someones && isReached(left, sampleOf(rule)) === within ? left : { ...left, [rule]: within };
}

/** An object that a rule covers and no other rule names: to ask what holds for the rule as a whole. */
const sampleOf = (rule: ReachRule): ObjectRef => (GENERAL.includes(rule) ? `${rule}/ ` : rule.replace('/*/', '/ /'));

/** A patch that makes a light's collection this one. */
export function collectionPatch(reach: Reach | undefined, relation: Relation, made: ReachCollection): Patch {
  return { reach: { ...(reach ? {} : { lights: {}, casts: {} }), [relation]: diff(reach?.[relation] ?? {}, made) } };
}

/**
 * Puts what a rule covers into what lights light or cast, or takes it out; `covers`: objects that are meant by it, for which nearer rules (the part of
 * that name of every character) may hold: these are named themselves then.
 */
export function reachPatch(
  lights: { items: Record<string, { reach?: Reach | undefined }> },
  ids: readonly string[],
  relation: Relation,
  rule: ReachRule,
  within: boolean,
  covers: readonly ObjectRef[] = [],
): Patch {
  const items: Patch = {};
  for (const light of ids) {
    const now = lights.items[light];
    if (!now) continue;
    let made = withRule(now.reach?.[relation], rule, within);
    for (const object of covers) if (isReached(made, object) !== within) made = withRule(made, object, within);
    items[light] = collectionPatch(now.reach, relation, made);
  }
  return { lights: { items } };
}

/** Rules that name nothing of what stands there: a part that a newer version of a character has no more. They wait. */
export const waitingRules = (collection: Record<ReachRule, unknown> | undefined, objects: readonly ObjectRef[]): ReachRule[] =>
  Object.keys(collection ?? {}).filter((r) => !GENERAL.includes(r) && !r.startsWith('stage/') && !objects.some((o) => nearness(r, o) > 0));

/** A patch of a light that forgets a rule wherever it stands. */
export const forgetRule = (reach: Reach, rule: ReachRule): Patch => ({
  reach: Object.fromEntries(
    ([...RELATIONS, 'shadows'] as const).filter((r) => Object.hasOwn(reach[r] ?? {}, rule)).map((r) => [r, { [rule]: null }]),
  ),
});
