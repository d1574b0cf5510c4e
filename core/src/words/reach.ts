// What a light reaches, in a sentence.
import {
  ALL,
  anyonesPart,
  isReached,
  objectName,
  type CalledObjects,
  type ObjectRef,
  type Reach,
  type ReachCollection,
  type ReachRule,
} from '../setup/index.ts';

const GROUPS: Record<string, string> = { [ALL]: 'everything', subjects: 'the characters', props: 'the things', stage: 'the stage' };

/** What a rule is called: “the stage”, “Drum”, “everyone’s iris L”. */
export function ruleWords(setup: CalledObjects, rule: ReachRule): string {
  const part = anyonesPart(rule);
  if (part !== undefined) return `everyone’s ${part}`;
  return GROUPS[rule] ?? (rule.startsWith('stage/') ? `the ${objectName(setup, rule)}` : objectName(setup, rule));
}

function listed(names: string[]): string {
  const few = names.length > 4 ? [...names.slice(0, 3), `${names.length - 3} more`] : names;
  return few.length > 1 ? `${few.slice(0, -1).join(', ')} and ${few.at(-1)}` : (few[0] ?? '');
}

/** “everything but the stage”, “only the characters”, “nothing”. */
export function collectionWords(setup: CalledObjects, collection: ReachCollection = {}): string {
  const { [ALL]: base = true, ...rest } = collection;
  const rules = (within: boolean) => Object.keys(rest).filter((r) => rest[r] === within);
  // parts of everyone are named together
  const named = (of: ReachRule[]) => {
    const parts = of.flatMap((r) => anyonesPart(r) ?? []);
    return [
      listed(of.filter((r) => anyonesPart(r) === undefined).map((r) => ruleWords(setup, r))),
      parts.length ? `everyone’s ${listed(parts)}` : '',
    ]
      .filter((words) => words !== '')
      .join(', ');
  };
  const into = named(rules(true)),
    out = named(rules(false));
  if (!base) return into === '' ? 'nothing' : `only ${into}${out && ` without ${out}`}`;
  if (!out) return 'everything';
  return `everything but ${out}${into && `, though ${into}`}`;
}

/** What a light lights and whose shadow it casts. */
export const reachWords = (setup: CalledObjects, reach: Reach | undefined): string =>
  `Lights ${collectionWords(setup, reach?.lights)}; casts the shadow of ${collectionWords(setup, reach?.casts)}${shadowWords(setup, reach?.shadows)}.`;

/** “, that of Drum at 50 %”. */
function shadowWords(setup: CalledObjects, shadows: Reach['shadows'] = {}): string {
  const said = Object.entries(shadows).map(([rule, { density, colour }]) => {
    const tint = colour.some((v) => v > 0) ? ', tinted' : '';
    return `${ruleWords(setup, rule)} at ${Math.round(density * 100)} %${tint}`;
  });
  return said.length ? `, that of ${listed(said)}` : '';
}

/** Whether a light reaches nothing at all of what stands there. */
export const lightsNothing = (reach: Reach | undefined, objects: readonly ObjectRef[]): boolean =>
  objects.length > 0 && !objects.some((o) => isReached(reach?.lights, o));

/** Whether anything is said of what a light reaches. */
export const isBounded = (reach: Reach | undefined): boolean =>
  reach !== undefined && Object.keys(reach.lights).length + Object.keys(reach.casts).length + Object.keys(reach.shadows ?? {}).length > 0;
