// The order of things is a rank in each of them (a fractional index), never a list beside them: so two people's additions, and a change
// made to what another has changed, merge without knowing of each other.
import { generateKeyBetween, generateNKeysBetween } from 'fractional-indexing';

export interface Ranked {
  rank: string;
}
/** Items by id, in the order of their ranks. */
export interface Collection<T extends Ranked = Ranked> {
  items: Record<string, T>;
}

/** The rank of something that nobody has given a place yet. */
export const FIRST_RANK = 'a0';

/** Whether a text can be a rank, and others can be found before and after it. */
export function isRank(text: string): boolean {
  if (!/^[A-Za-z][0-9A-Za-z]+$/.test(text)) return false;
  try {
    generateKeyBetween(text, null);
    generateKeyBetween(null, text);
    return true;
  } catch {
    return false;
  }
}

const orders = new WeakMap<object, string[]>();

/**
 * Ids of a collection in order: by rank, and by id where two were given the same rank in two windows. The same array for the same items.
 * @example orderOf(setup.lights) // ['key', 'fill', 'rim']
 */
export function orderOf({ items }: Collection): string[] {
  let order = orders.get(items);
  if (!order) {
    order = Object.keys(items).sort((a, b) => compare(items[a]!.rank, items[b]!.rank) || compare(a, b));
    orders.set(items, order);
  }
  return order;
}

/** By code units, as ranks are made; never by a language's rules. */
const compare = (a: string, b: string): number => (a < b ? -1 : a > b ? 1 : 0);

/** The items of a collection in order. */
export const inOrder = <T extends Ranked>(collection: Collection<T>): T[] => orderOf(collection).map((id) => collection.items[id]!);

/** So many ranks for what is put at a place (0: first; by default the end). */
export function ranksAt(collection: Collection, count: number, place = Infinity): string[] {
  const ranks = inOrder(collection).map((item) => item.rank);
  const before = place > 0 ? (ranks[Math.min(place, ranks.length) - 1] ?? null) : null;
  // several may have one rank: the next that is larger
  const after = ranks.slice(place > 0 ? Math.min(place, ranks.length) : 0).find((r) => before === null || r > before) ?? null;
  return generateNKeysBetween(before, after, count);
}

/**
 * New items with ranks for a place in a collection, to be put into a patch.
 * @example { lights: { items: withRanks(setup.lights, { 'rim-2': rectangle() }) } }
 */
export function withRanks<T extends object>(collection: Collection, items: Record<string, T>, place?: number): Record<string, T & Ranked> {
  const ids = Object.keys(items),
    ranks = ranksAt(collection, ids.length, place);
  return Object.fromEntries(ids.map((id, i) => [id, { ...items[id]!, rank: ranks[i]! }]));
}

/** A collection of items in the order in which they are given. */
export const collected = <T extends object>(items: Record<string, T>): Collection<T & Ranked> => ({
  items: withRanks({ items: {} }, items),
});

/** What must change so that a collection is in the order of these ids, which are all of its own. */
export function orderChange(collection: Collection, ids: readonly string[]): Record<string, Ranked> {
  const ranks = generateNKeysBetween(null, null, ids.length);
  return Object.fromEntries(ids.flatMap((id, i) => (collection.items[id]!.rank === ranks[i] ? [] : [[id, { rank: ranks[i]! }]])));
}

/** A free id: what it is, a number for a person, and letters that no other window chose at the same moment. */
export function freeId(taken: Record<string, unknown>, stem: string, letters = ''): string {
  for (let n = 1; ; n++) {
    const id = `${stem}-${n}${letters}`.slice(0, 41);
    if (!Object.hasOwn(taken, id)) return id;
  }
}
