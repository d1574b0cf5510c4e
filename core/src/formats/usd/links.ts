// Reach as collections of UsdLux (openusd.org, "UsdCollectionAPI" and "UsdLuxLightAPI: collection:lightLink, collection:shadowLink"; from memory): a
// collection names paths that it includes and paths that it excludes; of an object the nearest that names it or what it lies in decides, and
// where none does, `includeRoot`, which for links of light is true unless something says otherwise.
import { ALL, anyonesPart, isReached, reachRule, type ObjectRef, type ReachCollection, type ReachRule } from '../../setup/index.ts';
import { nameOfPrim, primName } from './text.ts';

/** Where everything stands in the file. */
export const ROOT = '/Plinket';

/** The prim of an object, or of a group of them. */
export function primOf(rule: ReachRule): string {
  const [group, ...names] = rule.split('/');
  const [id, ...part] = names;
  const below = group === 'subjects' && part.length ? [id!, part.join('/')] : names;
  const top = { subjects: 'Subjects', props: 'Props', stage: 'Stage' }[group!] ?? group!;
  return [ROOT, top, ...below.map(primName)].join('/');
}

const GROUPS: Record<string, string> = { Subjects: 'subjects', Props: 'props', Stage: 'stage' };

/** The rule for a prim of a file of ours; nothing for paths elsewhere. */
export function ruleOfPrim(path: string): ReachRule | undefined {
  if (path === ROOT) return ALL;
  const [group, ...names] = path.startsWith(`${ROOT}/`) ? path.slice(ROOT.length + 1).split('/') : [''];
  const top = GROUPS[group!];
  if (top === undefined) return undefined;
  const rule = [top, ...names.map(nameOfPrim)].join('/');
  return reachRule.safeParse(rule).success ? rule : undefined;
}

/** A collection as USD has it. */
export interface UsdCollection {
  includeRoot: boolean;
  includes: string[];
  excludes: string[];
}

/** What USD has for a collection: rules for everybody's parts are said of each that is there. */
export function collectionOf(collection: ReachCollection, objects: readonly ObjectRef[]): UsdCollection {
  const { [ALL]: includeRoot = true, ...rules } = collection;
  const includes: string[] = [],
    excludes: string[] = [];
  const named = Object.entries(rules).flatMap(([rule, within]): [ReachRule, boolean][] => {
    const part = anyonesPart(rule);
    if (part === undefined) return [[rule, within]];
    return objects
      .filter((o) => o.startsWith('subjects/') && o.endsWith(`/${part}`) && rules[o] === undefined)
      .map((o) => [o, isReached(collection, o)]);
  });
  for (const [rule, within] of named) (within ? includes : excludes).push(primOf(rule));
  return { includeRoot, includes, excludes };
}

/** Rules for a collection of a file; paths that no object has are left out and told. */
export function rulesOf(
  { includeRoot, includes, excludes }: UsdCollection,
  ruleAt: (path: string) => ReachRule | undefined = ruleOfPrim,
): { rules: ReachCollection; left: string[] } {
  const rules: ReachCollection = includeRoot ? {} : { [ALL]: false };
  const left: string[] = [];
  const say = (paths: string[], within: boolean) => {
    for (const path of paths) {
      const rule = ruleAt(path);
      if (rule === undefined) left.push(path);
      else rules[rule] = within;
    }
  };
  say(includes, true);
  say(excludes, false);
  return { rules, left };
}
