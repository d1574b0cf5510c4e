import { applyPatch, diff, type Json, type Patch } from './patch.ts';

const isObject = (v: Json | undefined): v is { [key: string]: Json } => typeof v === 'object' && v !== null && !Array.isArray(v);

/** A place in a document that two have changed at once, each to something else. Nothing as a value: taken away. */
export interface Conflict {
  path: string[];
  mine: Json | undefined;
  theirs: Json | undefined;
}

/** The value at a place of a document, or nothing where there is none. */
export function valueAt(document: unknown, path: readonly string[]): Json | undefined {
  let value = document as Json | undefined;
  for (const key of path) value = isObject(value) && Object.hasOwn(value, key) ? value[key] : undefined;
  return value;
}

/** The patch that puts a value at a place of a document, or takes away what is there. Where what should hold it is gone, nothing can be put. */
export function choicePatch(document: unknown, path: readonly string[], value: Json | undefined): Patch {
  if (path.length > 1 && !isObject(valueAt(document, path.slice(0, -1)))) return {};
  const last = path.at(-1)!;
  const holder = valueAt(document, path.slice(0, -1)) as { [key: string]: Json };
  const after = { ...holder, ...(value === undefined ? {} : { [last]: value }) };
  if (value === undefined) delete after[last];
  return path.slice(0, -1).reduceRight<Patch>((inner, key) => (Object.keys(inner).length ? { [key]: inner } : {}), diff(holder, after));
}

/**
 * Where two changes of one document are at odds: both changed the same value, each to another, or one took a thing away of which the other changed a part.
 * Changes of different values of one thing are none: they join.
 * @param base what both were made for
 * @example conflictsOf({ a: 1, b: 1 }, { a: 2, b: 2 }, { a: 3 }) // [{ path: ['a'], mine: 2, theirs: 3 }]
 */
export function conflictsOf(base: unknown, mine: Patch, theirs: Patch): Conflict[] {
  const found: Conflict[] = [];
  const withMine = applyPatch(base, mine),
    withTheirs = applyPatch(base, theirs);
  const walk = (a: Patch, b: Patch, path: string[]): void => {
    for (const key of Object.keys(a)) {
      if (!Object.hasOwn(b, key)) continue;
      const at = [...path, key],
        mineHere = a[key]!,
        theirsHere = b[key]!;
      // a part and a part of what was there: the parts decide
      if (isObject(mineHere) && isObject(theirsHere) && isObject(valueAt(base, at))) {
        walk(mineHere, theirsHere, at);
        continue;
      }
      const [m, t] = [valueAt(withMine, at), valueAt(withTheirs, at)];
      if (JSON.stringify(m) !== JSON.stringify(t)) found.push({ path: at, mine: m, theirs: t });
    }
  };
  walk(mine, theirs, []);
  return found;
}
