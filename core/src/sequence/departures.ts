// What a shot changes against its sequence, value by value, in words.
import { describePatch, diff, type Json, type Patch, type Setup } from '../setup/index.ts';

/** One value in which a shot differs from its sequence. */
export interface Change {
  /** Where it stands: names of members from the document on. */
  path: string[];
  /** The sequence's value and the shot's; nothing where it has none. */
  there?: Json;
  here?: Json;
  /** The change that makes the sequence's the shot's. */
  patch: Patch;
}
/** The same in words. */
export interface Departure extends Change {
  words: string;
}

/** Collections of things that have ids and names. */
const COLLECTIONS = ['lights', 'flags', 'subjects', 'props', 'cameras'] as const;
/** Members that say what kind of thing something is: where they differ it is another thing as a whole. */
const KINDS = ['kind', 'unit', 'held'];

const isObject = (v: unknown): v is { [key: string]: Json } => typeof v === 'object' && v !== null && !Array.isArray(v);

const nested = (path: readonly string[], value: Json): Patch => path.reduceRight<Json>((inner, key) => ({ [key]: inner }), value) as Patch;

/** Whether what changes inside must be taken as one. */
const asOne = (there: { [key: string]: Json }, here: { [key: string]: Json }, patch: { [key: string]: Json }): boolean =>
  KINDS.some((k) => k in patch && (k in there || k in here));

function* walk(there: Json | undefined, here: Json | undefined, patch: Json, path: string[]): Generator<Change> {
  const whole = !isObject(patch) || !isObject(there) || !isObject(here) || (path.length > 0 && asOne(there, here, patch));
  if (!whole) {
    for (const key of Object.keys(patch)) yield* walk(there[key], here[key], patch[key]!, [...path, key]);
    return;
  }
  yield {
    path,
    ...(there === undefined ? {} : { there }),
    ...(here === undefined ? {} : { here }),
    patch: nested(path, patch),
  };
}

/** Names of things by the id that stands at a path, “key: place azimuth”. */
export function pathWords(setup: Setup, path: readonly string[]): string {
  const [collection, , id, ...rest] = path;
  const items = COLLECTIONS.find((c) => c === collection);
  if (!items || id === undefined) return path.join(' ');
  const name = setup[items].items[id]?.name;
  return [name?.toLowerCase() ?? id, ...(rest.length ? [rest.join(' ')] : [])].join(': ');
}

/** What each setup says of itself alone: name, brief, what it follows, findings that were left, kits that it is tied to. */
export const OWN = ['name', 'brief', 'follows', 'accepted', 'ties'] as const;

/** Where a shot says something else than its sequence, without words. */
export function changesOf(base: Setup, shot: Setup): Change[] {
  return changesIn(sharedPatch(base, shot), base, shot);
}

/** What a patch from one setup to another changes, value by value. */
export const changesIn = (patch: Patch, base: Setup, shot: Setup): Change[] => [
  ...walk(base as unknown as Json, shot as unknown as Json, patch, []),
];

/** The change from one setup to another in what is their sequence's matter: all but what each says of itself alone. */
export function sharedPatch(base: Setup, shot: Setup): Patch {
  const patch = diff(base, shot);
  for (const key of OWN) delete patch[key];
  return patch;
}

/** All departures of a shot, in the order of its setup; empty where it says the same as its sequence. */
export function departuresOf(base: Setup, shot: Setup): Departure[] {
  const told = changesOf(base, shot).map((d) => ({ ...d, words: describePatch(base, d.patch) || pathWords(shot, d.path) }));
  // two that the history tells alike are told apart by where they stand
  const times = new Map<string, number>();
  for (const { words } of told) times.set(words, (times.get(words) ?? 0) + 1);
  return told.map((d) => (times.get(d.words)! > 1 ? { ...d, words: `${d.words} (${d.path.at(-1)!})` } : d));
}
