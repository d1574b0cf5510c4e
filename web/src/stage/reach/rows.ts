// What may be lit or cast a shadow, as rows: everything, below it groups, what is in them, and parts of characters.
import { ALL, type ObjectRef, type ReachRule } from '@plinket/core';

/** One thing that may be lit, or cast a shadow, and what lies below it. */
export interface Row {
  rule: ReachRule;
  name: string;
  /** The objects that it stands for. */
  covers: ObjectRef[];
  parts: Row[];
}

/** A row as it stands in a list: how deep, and whether what lies below it is shown. */
export interface ShownRow {
  row: Row;
  depth: number;
  unfolded: boolean;
}

/** For each object itself and what lies below it: a part's own name may have slashes. */
function coveredBy(refs: readonly ObjectRef[]): (rule: ReachRule) => ObjectRef[] {
  const under = new Map<string, ObjectRef[]>();
  for (const ref of refs)
    for (let end = ref.indexOf('/'); ; end = ref.indexOf('/', end + 1)) {
      const at = end < 0 ? ref : ref.slice(0, end);
      const known = under.get(at);
      if (known) known.push(ref);
      else under.set(at, [ref]);
      if (end < 0) break;
    }
  return (rule) => under.get(rule) ?? [];
}

/** Everything that stands there, as one row with all others below it. */
export function rowOfAll(objects: readonly [ref: ObjectRef, name: string][], nameOf: (rule: ReachRule) => string): Row {
  const refs = objects.map(([ref]) => ref);
  const covered = coveredBy(refs);
  const row = (rule: ReachRule, parts: Row[] = [], name = nameOf(rule)): Row => ({
    rule,
    name,
    covers: rule === ALL ? refs : covered(rule),
    parts,
  });
  const subjects = [...new Set(refs.filter((r) => r.startsWith('subjects/')).map((r) => r.split('/').slice(0, 2).join('/')))];
  const below = (rule: ReachRule) => covered(rule).filter((r) => r !== rule);
  const stage = below('stage');
  return row(ALL, [
    ...(stage.length ? [row('stage', stage.length > 1 ? stage.map((r) => row(r)) : [])] : []),
    ...below('props').map((r) => row(r)),
    ...subjects.map((s) =>
      row(
        s,
        below(s).map((r) => row(r, [], r.split('/').slice(2).join('/'))),
      ),
    ),
  ]);
}

/** The rows that are shown, in order: what is unfolded, or with `find` what is called so and what it is in. */
export function shownRows(all: Row, unfolded: ReadonlySet<ReachRule>, find = ''): ShownRow[] {
  const wanted = find.trim().toLocaleLowerCase();
  const called = (row: Row) => row.name.toLocaleLowerCase().includes(wanted);
  const list = (rows: Row[], depth: number): ShownRow[] =>
    rows.flatMap((row) => {
      const below = wanted === '' && !unfolded.has(row.rule) ? [] : list(row.parts, depth + 1);
      return wanted === '' || called(row) || below.length > 0 ? [{ row, depth, unfolded: below.length > 0 }, ...below] : [];
    });
  return [{ row: all, depth: 0, unfolded: true }, ...list(all.parts, 1)];
}
