// What a light reaches, in a sentence.
import {
  isReached,
  objectName,
  type CalledObjects,
  type ObjectRef,
  type Reach,
  type ReachCollection,
  type ReachRule,
} from '../setup/index.ts';

const GROUPS: Record<string, string> = { '': 'everything', subjects: 'the characters', props: 'the things', stage: 'the stage' };

/** What a rule is called: “the stage”, “Drum”, “everyone’s iris L”. */
export function ruleWords(setup: CalledObjects, rule: ReachRule): string {
  const part = /^subjects\/\*\/(?<part>.+)$/s.exec(rule)?.groups?.['part'];
  if (part !== undefined) return `everyone’s ${part}`;
  return GROUPS[rule] ?? (rule.startsWith('stage/') ? `the ${objectName(setup, rule)}` : objectName(setup, rule));
}

function listed(names: string[]): string {
  const few = names.length > 4 ? [...names.slice(0, 3), `${names.length - 3} more`] : names;
  return few.length > 1 ? `${few.slice(0, -1).join(', ')} and ${few.at(-1)}` : (few[0] ?? '');
}

/** “everything but the stage”, “only the characters”, “nothing”. */
export function collectionWords(setup: CalledObjects, collection: ReachCollection | undefined): string {
  if (!collection) return 'everything';
  const named = (rules: readonly ReachRule[]) => listed(rules.map((r) => ruleWords(setup, r)));
  const wide = collection.includes.includes(''),
    again = collection.includes.filter((r) => r !== '');
  const out = collection.excludes.length ? named(collection.excludes) : '';
  if (!wide) return again.length === 0 ? 'nothing' : `only ${named(again)}${out && ` without ${out}`}`;
  if (!out) return 'everything';
  return `everything but ${out}${again.length ? `, though ${named(again)}` : ''}`;
}

/** What a light lights and whose shadow it casts. */
export const reachWords = (setup: CalledObjects, reach: Reach | undefined): string =>
  `Lights ${collectionWords(setup, reach?.lights)}; casts the shadow of ${collectionWords(setup, reach?.casts)}.`;

/** Whether a light reaches nothing at all of what stands there. */
export const lightsNothing = (reach: Reach | undefined, objects: readonly ObjectRef[]): boolean =>
  objects.length > 0 && !objects.some((o) => isReached(reach?.lights, o));
