// What a light reaches: which objects it lights, and which cast its shadow. The meaning is that of light linking and shadow linking in
// UsdLux (openusd.org, "UsdLuxLightAPI: lightLink, shadowLink" and "UsdCollectionAPI"; from memory): two collections of paths; the
// nearest path above an object decides, and at the same path what is excluded is out.
import { z } from 'zod';
import { partName, readRef, refCovers, STAGE_PIECES, type ObjectRef } from './object-ref.ts';
import type { Patch } from './patch.ts';

/** Parts of every character that are called so. */
const ANYONES = /^subjects\/\*\/(?<part>.+)$/s;

const isRule = (rule: string): boolean =>
  rule === '' ||
  rule === 'subjects' ||
  rule === 'props' ||
  readRef(rule) !== undefined ||
  partName.safeParse(ANYONES.exec(rule)?.groups?.['part']).success;

/**
 * A rule of a collection: everything (``), all characters (`subjects`), all things (`props`), the stage (`stage`) or a piece of it, one of them by its
 * id, a part of a character, or the part of that name of every character (`subjects/*` + `/Eyes`). What nothing is called waits.
 */
export const reachRule = z
  .string()
  .max(200)
  .refine(isRule, 'a rule names everything (“”), “subjects”, “props”, “stage”, an object, or “subjects/*/Part”');
export type ReachRule = z.infer<typeof reachRule>;

const rules = z.array(reachRule).max(400);
export const reachCollection = z.strictObject({ includes: rules, excludes: rules });
export type ReachCollection = z.infer<typeof reachCollection>;

export const RELATIONS = ['lights', 'casts'] as const;
export type Relation = (typeof RELATIONS)[number];

/** What a light lights, and whose shadow it casts; what is not said is everything. */
export const reachSchema = z.strictObject({ lights: reachCollection.optional(), casts: reachCollection.optional() });
export type Reach = z.infer<typeof reachSchema>;

export const EVERYTHING: ReachCollection = { includes: [''], excludes: [] };

/** How near a rule is to an object that it covers: more is nearer; −1 where it does not. */
function nearness(rule: ReachRule, object: ObjectRef): number {
  if (rule === '') return 0;
  const anyones = ANYONES.exec(rule)?.groups?.['part'];
  // a part by name is nearer than its character, and less near than that very part
  if (anyones !== undefined) return /^subjects\/[^/]+\/(?<part>.+)$/s.exec(object)?.groups?.['part'] === anyones ? 2.5 : -1;
  // a part's own name may have slashes: it is one step all the same
  return refCovers(rule, object) ? Math.min(3, rule.split('/').length) : -1;
}

/** Whether an object is in a collection. */
export function isReached(collection: ReachCollection | undefined, object: ObjectRef): boolean {
  if (!collection) return true;
  const nearest = (of: readonly ReachRule[]) => of.reduce((best, rule) => Math.max(best, nearness(rule, object)), -1);
  return nearest(collection.includes) > nearest(collection.excludes);
}

/** Whether every object of a list is in a collection, or none, or some. */
export function reachOver(collection: ReachCollection | undefined, objects: readonly ObjectRef[]): 'all' | 'some' | 'none' {
  const n = objects.filter((o) => isReached(collection, o)).length;
  return n === objects.length ? 'all' : n === 0 ? 'none' : 'some';
}

/** Whether what one rule covers the other one covers too, and more. */
function isWithin(inner: ReachRule, outer: ReachRule): boolean {
  if (inner === outer) return false;
  if (outer === '') return true;
  const part = ANYONES.exec(outer)?.groups?.['part'];
  if (part !== undefined) return inner.startsWith('subjects/') && nearness(outer, inner) > 0;
  return refCovers(outer, inner);
}

/** The collection with what a rule covers put in or taken out: rules below it go, and it is named only where that changes anything. */
export function withRule(collection: ReachCollection | undefined, rule: ReachRule, within: boolean): ReachCollection | undefined {
  const { includes, excludes } = collection ?? EVERYTHING;
  const rest = (of: readonly ReachRule[]) => of.filter((r) => r !== rule && !isWithin(r, rule));
  const left = { includes: rest(includes), excludes: rest(excludes) };
  // a part of everyone may be of someone for whom another rule holds
  const someones = ANYONES.test(rule) && [...left.includes, ...left.excludes].some((r) => r.startsWith('subjects/'));
  const asItIs = rule !== '' && !someones && isReached(left, sampleOf(rule)) === within;
  const made = asItIs
    ? left
    : within
      ? { ...left, includes: [...left.includes, rule] }
      : rule === ''
        ? left
        : { ...left, excludes: [...left.excludes, rule] };
  return saysSomething(made) ? made : undefined;
}

/** Whether a collection leaves anything out. */
const saysSomething = ({ includes, excludes }: ReachCollection): boolean => excludes.length > 0 || !includes.includes('');

/** An object that a rule covers and no other rule names: to ask what holds for the rule as a whole. */
function sampleOf(rule: ReachRule): ObjectRef {
  if (rule === 'subjects' || rule === 'props') return `${rule}/ `;
  return rule.replace('/*/', '/ /');
}

const written = (collection: ReachCollection | undefined): Patch | null => (collection ? { ...collection } : null);

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
    items[light] = { reach: { [relation]: written(made) } };
  }
  return { lights: { items } };
}

/** Rules that name nothing of what stands there: a part that a newer version of a character has no more. They wait. */
export function waitingRules(collection: ReachCollection | undefined, objects: readonly ObjectRef[]): ReachRule[] {
  if (!collection) return [];
  const general = new Set(['', 'subjects', 'props', 'stage', ...STAGE_PIECES.map((p) => `stage/${p}`)]);
  return [...collection.includes, ...collection.excludes].filter((r) => !general.has(r) && !objects.some((o) => nearness(r, o) > 0));
}

/** A patch of a light's reach that forgets a rule wherever it stands. */
export function withoutRule(reach: Reach | undefined, rule: ReachRule): Patch {
  const left = (of: ReachCollection | undefined): Patch | null => {
    if (!of) return null;
    const rest = { includes: of.includes.filter((r) => r !== rule), excludes: of.excludes.filter((r) => r !== rule) };
    return saysSomething(rest) ? rest : null;
  };
  return { lights: left(reach?.lights), casts: left(reach?.casts) };
}
