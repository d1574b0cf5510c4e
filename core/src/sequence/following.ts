// A shot's setup follows the setup of its sequence: all that differs from the revision that stands in it are its departures, a JSON Merge Patch
// (RFC 7396). They are found by comparing whole setups, so that they outlive versions of the schema, and no second form of them is kept.
import { applyPatch, diff, parseSetup, SetupError, type Follows, type Patch, type Setup } from '../setup/index.ts';
import { changesIn, changesOf, OWN, pathWords, sharedPatch, type Change } from './departures.ts';

/** What in a setup is its sequence's matter: all but its own. */
function shared(setup: Setup): Partial<Setup> {
  const out: Partial<Setup> = { ...setup };
  for (const key of OWN) delete out[key];
  return out;
}

/** What becomes of a shot when its sequence has changed. */
export interface Followed {
  setup: Setup;
  /** Departures that were left out since what they change is gone, or they make no setup any more. */
  lost: string[];
  /** What changed in the sequence and is not seen here, since the shot departs there. */
  hidden: string[];
}

const readable = (document: unknown): Setup | undefined => {
  try {
    return parseSetup(document);
  } catch (error) {
    if (error instanceof SetupError) return undefined;
    throw error;
  }
};

/** Departures that both have: what changed in a sequence where the shot has its own. */
function hiddenBy(changes: readonly Change[], own: readonly Change[]): Change[] {
  const covers = (a: readonly string[], b: readonly string[]) => a.length <= b.length && a.every((k, i) => k === b[i]);
  return changes.filter((c) => own.some((o) => covers(o.path, c.path) || covers(c.path, o.path)));
}

/**
 * A shot over a newer revision of the setup that it follows: its departures stand, all else becomes as there. The setups before and after are of today's
 * version of the schema.
 * @param then the followed setup as it stands in the shot
 * @param now as it is
 * @param changed what changed between both, where that is known already
 * @throws SetupError where not even the sequence's own setup can be read
 */
export function follow(shot: Setup, then: Setup, now: Setup, follows: Follows, changed = changesOf(then, now)): Followed {
  const wished = sharedPatch(then, shot),
    own = Object.fromEntries(OWN.flatMap((key) => (shot[key] === undefined ? [] : [[key, shot[key]]])));
  // of what a sequence says of itself nothing goes to its shots
  const base = { ...shared(now), ...own, follows } as Setup;
  const all = changesIn(wished, then, shot);
  const hidden = hiddenBy(changed, all).map(({ path }) => pathWords(now, path));
  const whole = readable(applyPatch(base, wished));
  if (whole) return { setup: whole, lost: [], hidden };
  // one by one: what makes no setup, as a part of a light that is gone, is left out, and the rest stands
  let setup = parseSetup(base);
  const lost: string[] = [];
  for (const { patch, path } of all) {
    const next = readable(applyPatch(setup, patch));
    if (next) setup = next;
    else lost.push(pathWords(shot, path));
  }
  return { setup, lost, hidden };
}

/** A setup of a shot that is new: all as in its sequence. */
export function newShot(base: Setup, follows: Follows, name: string, brief = ''): Setup & { follows: Follows } {
  return { ...(shared(base) as Setup), name, brief, follows };
}

/**
 * Widens a change that alone makes no setup, as the diameter of a light that is a panel there: to all of the thing that it belongs to.
 * @throws SetupError where even all of it makes none
 */
function fitted(onto: Setup, from: Setup, path: readonly string[]): Patch {
  for (let length = path.length; ; length--) {
    const patch = patchAt(from, onto, path.slice(0, length));
    if (readable(applyPatch(onto, patch))) return patch;
    if (length <= 1) parseSetup(applyPatch(onto, patch));
  }
}

/** The change of `onto` that makes it the same as `from` at a path. */
const patchAt = (from: Setup, onto: Setup, path: readonly string[]): Patch => diff(pick(onto, path), pick(from, path));

/** Of a document only what stands at a path. */
function pick(of: unknown, [key, ...rest]: readonly string[]): unknown {
  if (key === undefined) return of;
  if (typeof of !== 'object' || of === null || !Object.hasOwn(of, key)) return {};
  const inner = (of as Record<string, unknown>)[key];
  return { [key]: rest.length ? pick(inner, rest) : inner };
}

/** The change of a shot that gives a departure up: its value becomes the sequence's again. @throws SetupError */
export const returned = (base: Setup, shot: Setup, departure: Pick<Change, 'path'>): Patch => fitted(shot, base, departure.path);

/** The change of the sequence's setup that makes a departure of a shot everybody's. @throws SetupError */
export const pushedUp = (base: Setup, shot: Setup, departure: Pick<Change, 'path'>): Patch => fitted(base, shot, departure.path);

/** Whether a change of the sequence's setup is seen in a shot, or the shot's departures hide all of it; `then` is the setup as it stands in the shot. */
export function reaches(change: Patch, base: Setup, shot: Setup, then: Setup = base): boolean {
  const changes = changesOf(base, applyPatch(base, change));
  return changes.length > hiddenBy(changes, changesOf(then, shot)).length;
}
