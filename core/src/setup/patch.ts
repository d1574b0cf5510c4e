// JSON Merge Patch (RFC 7396): the only change format of Plinket.

export type Json = null | boolean | number | string | Json[] | { [key: string]: Json };
/** A merge patch; null removes a member. */
export type Patch = { [key: string]: Json };

const isObject = (v: unknown): v is { [key: string]: Json } => typeof v === 'object' && v !== null && !Array.isArray(v);

/**
 * Applies a patch; neither argument is changed, and unchanged branches stay the same objects.
 * RFC 7396, section 2.
 */
export function applyPatch<T>(target: T, patch: unknown): T {
  if (!isObject(patch)) return patch as T;
  const out: { [key: string]: Json } = isObject(target) ? { ...target } : {};
  for (const key of Object.keys(patch)) {
    if (key === '__proto__') continue;
    const value = patch[key]!;
    if (value === null) delete out[key];
    else out[key] = applyPatch(Object.hasOwn(out, key) ? out[key]! : null, value) as Json;
  }
  return out as T;
}

/**
 * The patch that takes `target` back after `patch` was applied to it.
 * @example invertPatch({ a: 1 }, { a: 2, b: 3 }) // { a: 1, b: null }
 */
export function invertPatch(target: unknown, patch: Patch): Patch {
  const out: Patch = {};
  const from = isObject(target) ? target : {};
  for (const key of Object.keys(patch)) {
    const next = patch[key]!;
    if (!Object.hasOwn(from, key)) {
      if (next !== null) out[key] = null;
    } else if (isObject(next) && isObject(from[key])) {
      const inner = invertPatch(from[key], next);
      if (Object.keys(inner).length) out[key] = inner;
    } else out[key] = replacing(from[key]!, next);
  }
  return out;
}

/** The patch value that leaves exactly `value` where `current` stands. */
function replacing(value: Json, current: Json): Json {
  if (!isObject(value) || !isObject(current)) return value;
  return diff(current, value);
}

/** The smallest merge patch from one document to another; both must be free of null members. */
export function diff(from: unknown, to: unknown): Patch {
  const out: Patch = {};
  if (!isObject(from) || !isObject(to)) return out;
  for (const key of Object.keys(from)) if (!Object.hasOwn(to, key)) out[key] = null;
  for (const key of Object.keys(to)) {
    const a = from[key],
      b = to[key]!;
    if (isObject(a) && isObject(b)) {
      const inner = diff(a, b);
      if (Object.keys(inner).length) out[key] = inner;
    } else if (!equal(a, b)) out[key] = b;
  }
  return out;
}

function equal(a: Json | undefined, b: Json): boolean {
  if (a === b) return true;
  if (Array.isArray(a) && Array.isArray(b)) return a.length === b.length && a.every((v, i) => equal(v, b[i]!));
  if (isObject(a) && isObject(b)) return Object.keys(diff(a, b)).length === 0;
  return false;
}

/** One patch that does what `first` and then `second` do. */
export function joinPatches(first: Patch, second: Patch): Patch {
  const out: Patch = { ...first };
  for (const key of Object.keys(second)) {
    const a = out[key],
      b = second[key]!;
    out[key] = isObject(a) && isObject(b) ? joinPatches(a, b) : b;
  }
  return out;
}

export const isEmptyPatch = (patch: Patch): boolean => Object.keys(patch).length === 0;
