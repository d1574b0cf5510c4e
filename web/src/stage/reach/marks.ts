// What the leaf, the table and the card at a point of the picture share: what stands there, and setting a mark.
import { reachOver, reachPatch, ruleWords, type Light, type ReachRule, type Relation } from '@plinket/core';
import { useMemo } from 'react';
import { inHand, useDoc, type Stage } from '../context.ts';
import { useObjects } from '../light/GlowingObject.tsx';
import { rowOfAll, type Row } from './rows.ts';

/** Everything that stands there, as one row with all others below it, and what rules are called. */
export function useRows(): { all: Row; nameOf: (rule: ReachRule) => string } {
  const subjects = useDoc((d) => d.setup.subjects),
    props = useDoc((d) => d.setup.props);
  const objects = useObjects();
  return useMemo(() => {
    const nameOf = (rule: ReachRule) => ruleWords({ subjects, props }, rule);
    return { all: rowOfAll(objects, nameOf), nameOf };
  }, [objects, subjects, props]);
}

/** Whether all that a row stands for is in, some or nothing. */
export const markOf = (light: Light, relation: Relation, row: Row) => reachOver(light.reach?.[relation], row.covers);

/** What a mark says, in words. */
export const markWords = (light: Light, relation: Relation, row: Row): string =>
  relation === 'lights' ? `${light.name} lights ${row.name}` : `${row.name} casts a shadow of ${light.name}`;

/** Makes a mark all, or nothing where it was all; of every light in hand if this one is among them and `together`. */
export function turnMark({ doc, view }: Pick<Stage, 'doc' | 'view'>, id: string, relation: Relation, row: Row, together: boolean): void {
  const { change, setup } = doc.getState(),
    hand = inHand(view.getState());
  const light = setup.lights.items[id];
  if (!light) return;
  const within = markOf(light, relation, row) !== 'all';
  change(reachPatch(setup.lights, together && hand.includes(id) ? hand : [id], relation, row.rule, within, row.covers));
}
