// A shot list: which shots a cut has, in their order, and their frames. Read from CSV, EDL and OpenTimelineIO, and compared with what a sequence has.
import { MOST_FRAME, MOST_SHOTS, orderOf, shotFrames, shotSchema, type FieldProblem, type Sequence, type Shot } from '../../setup/index.ts';

/** A shot as a list has it. What a list does not say is not there. */
export interface ListedShot {
  code: string;
  /** Frames from and to, both shown; of a cut that knows only how long it is, `frames`. */
  first?: number;
  last?: number;
  frames?: number;
  brief?: string;
  notes?: string;
  state?: Shot['state'];
}

/** A list that was read, with what was left out or is odd in it. */
export interface ShotList {
  shots: ListedShot[];
  notes: string[];
}

/** A list that cannot be read: which file, where in it, and why. */
export class ShotListError extends Error {
  readonly problems: FieldProblem[];
  constructor(file: string, problems: FieldProblem[]) {
    super(`${file} cannot be read: ${problems.map((p) => (p.field ? `${p.field}: ${p.reason}` : p.reason)).join('; ')}`);
    this.name = 'ShotListError';
    this.problems = problems;
  }
}

/** Where shots of a list begin that says only how long they are. Common practice, no source. */
export const FIRST_FRAME = 1001;

/** What a list changes in a sequence. */
export interface ShotReport {
  /** Shots that are new, with the frames that they get. */
  added: (Pick<Shot, 'code' | 'first' | 'last' | 'brief' | 'notes' | 'state'> & { at: number })[];
  /** Shots whose frames, words or place change. */
  changed: { id: string; code: string; words: string[]; to: Partial<Shot> }[];
  /** Shots that the list has not. */
  missing: { id: string; code: string }[];
  same: number;
  /** All shots in the order of the list: ids of those that are there, codes of those that are new; those that are missing keep their places. */
  order: ({ id: string } | { code: string })[];
}

/** Frames of a listed shot, where nothing or only its length is said beside those that it has. */
function framesFor(listed: ListedShot, has?: Pick<Shot, 'first' | 'last'>): Pick<Shot, 'first' | 'last'> {
  const first = listed.first ?? has?.first ?? FIRST_FRAME;
  const length = listed.frames ?? (has ? shotFrames(has) : 1);
  return { first, last: listed.last ?? first + length - 1 };
}

/** Compares a list with a sequence, by the codes of the shots. */
export function compareShots({ shots }: Pick<Sequence, 'shots'>, list: readonly ListedShot[]): ShotReport {
  const byCode = new Map(Object.entries(shots.items).map(([id, shot]) => [shot.code.toLowerCase(), id]));
  const report: ShotReport = { added: [], changed: [], missing: [], same: 0, order: [] };
  const seen = new Set<string>();
  list.forEach((listed, at) => {
    const id = byCode.get(listed.code.toLowerCase());
    if (id === undefined) {
      const { code, brief = '', notes = '', state = 'to light' } = listed;
      report.added.push({ code, ...framesFor(listed), brief, notes, state, at });
      report.order.push({ code });
      return;
    }
    seen.add(id);
    report.order.push({ id });
    const has = shots.items[id]!,
      wish = {
        ...framesFor(listed, has),
        brief: listed.brief ?? has.brief,
        notes: listed.notes ?? has.notes,
        state: listed.state ?? has.state,
      };
    const words: string[] = [],
      to: Partial<Shot> = {};
    if (wish.first !== has.first || wish.last !== has.last) {
      words.push(`frames ${has.first}–${has.last} become ${wish.first}–${wish.last}`);
      Object.assign(to, { first: wish.first, last: wish.last });
    }
    for (const key of ['state', 'brief', 'notes'] as const)
      if (wish[key] !== has[key]) {
        words.push(key === 'state' ? `${has.state} becomes ${wish.state}` : key);
        Object.assign(to, { [key]: wish[key] });
      }
    if (words.length) report.changed.push({ id, code: has.code, words, to });
    else report.same++;
  });
  const before = orderOf(shots);
  for (const id of before)
    if (!seen.has(id)) {
      report.missing.push({ id, code: shots.items[id]!.code });
      // it stays behind the one that it stood behind
      const previous = before[before.indexOf(id) - 1],
        place = previous === undefined ? 0 : report.order.findIndex((o) => 'id' in o && o.id === previous) + 1;
      report.order.splice(place, 0, { id });
    }
  return report;
}

/**
 * Checks what a reader found: codes that are there once, frames in order.
 * @param where what the reader calls the place of a shot, “line 4”
 * @throws ShotListError that names each
 */
export function checkedShots(file: string, found: readonly (ListedShot & { where: string })[], notes: string[] = []): ShotList {
  const problems: FieldProblem[] = [],
    seen = new Map<string, string>();
  if (found.length === 0) problems.push({ field: '', reason: 'it has no shots' });
  if (found.length > MOST_SHOTS) problems.push({ field: '', reason: `it has ${found.length} shots; ${MOST_SHOTS} are the most` });
  const shots = found.slice(0, MOST_SHOTS).map(({ where, ...shot }): ListedShot => {
    const key = shot.code.toLowerCase();
    if (seen.has(key)) problems.push({ field: where, reason: `${shot.code} is there twice, first in ${seen.get(key)!}` });
    seen.set(key, where);
    const { first, last } = framesFor(shot);
    const read = shotSchema.safeParse({
      rank: 'a0',
      code: shot.code,
      first,
      last,
      state: shot.state ?? 'to light',
      brief: shot.brief ?? '',
      notes: shot.notes ?? '',
    });
    if (first > last) problems.push({ field: where, reason: `${shot.code} ends at ${last}, before it begins at ${first}` });
    else if (first < 0 || last > MOST_FRAME) problems.push({ field: where, reason: `frames of ${shot.code} go from 0 to ${MOST_FRAME}` });
    else if (!read.success)
      for (const i of read.error.issues)
        problems.push({ field: where, reason: `${i.path.join('.')} of ${shot.code || 'a shot without a code'}: ${i.message}` });
    return shot;
  });
  if (problems.length) throw new ShotListError(file, problems);
  return { shots, notes };
}
