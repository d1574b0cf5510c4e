import {
  lightsNothing,
  reachOver,
  reachPatch,
  reachWish,
  reachWords,
  refCovers,
  ruleWords,
  waitingRules,
  withoutRule,
  type Light,
  type ObjectRef,
  type ReachRule,
  type ReachWish,
  type Relation,
} from '@plinket/core';
import { ChevronDown, ChevronRight, X } from 'lucide-react';
import { useState } from 'react';
import { toast } from 'sonner';
import { inHand, useDoc, useStage, useView } from '../context.ts';
import { letters } from '../../parts/letters.ts';
import { usePreview } from '../reading/placing.ts';
import { useObjects } from './GlowingObject.tsx';

const WISHES: [ReachWish, string, string][] = [
  ['no-stage', 'Off the stage', 'No hot spot and no spill of this light on the stage'],
  ['own-background', 'Own background light', 'This light leaves the stage to one that reaches nothing else'],
  ['shadow-back', 'Shadow back', 'A light in the same place that lights only the stage and casts only the figures’ shadows'],
  ['eyes', 'Eyes only', 'It is seen in the eyes and lights nothing else'],
];

/** One thing that may be lit, or cast a shadow, and what lies below it. */
interface Row {
  rule: ReachRule;
  name: string;
  covers: ObjectRef[];
  parts: Row[];
}

/** Everything as rows: groups, what is in them, and parts of characters. */
function rowsOf(objects: [ref: ObjectRef, name: string][], nameOf: (rule: ReachRule) => string): Row[] {
  const refs = objects.map(([ref]) => ref);
  const row = (rule: ReachRule, parts: Row[] = [], name = nameOf(rule)): Row => ({
    rule,
    name,
    covers: rule === '' ? refs : refs.filter((r) => refCovers(rule, r)),
    parts,
  });
  const subjects = [...new Set(refs.filter((r) => r.startsWith('subjects/')).map((r) => r.split('/').slice(0, 2).join('/')))];
  const below = (rule: ReachRule) => refs.filter((r) => r !== rule && refCovers(rule, r));
  const stage = below('stage');
  return [
    row(''),
    ...(stage.length ? [row('stage', stage.length > 1 ? stage.map((r) => row(r)) : [])] : []),
    ...below('props').map((r) => row(r)),
    ...subjects.map((s) =>
      row(
        s,
        below(s).map((r) => row(r, [], r.split('/').slice(2).join('/'))),
      ),
    ),
  ];
}

/** Whether all of it, some or nothing; a click makes it all, or nothing. */
function Mark({ row, relation, id, light }: { row: Row; relation: Relation; id: string; light: Light }) {
  const { doc, view } = useStage();
  const is = reachOver(light.reach?.[relation], row.covers);
  const label = relation === 'lights' ? `${light.name} lights ${row.name}` : `${row.name} casts a shadow of ${light.name}`;
  return (
    <input
      type="checkbox"
      className="checkbox checkbox-xs"
      aria-label={label}
      checked={is === 'all'}
      ref={(input) => {
        if (input) input.indeterminate = is === 'some';
      }}
      onChange={() => {
        const { change, setup } = doc.getState(),
          hand = inHand(view.getState());
        change(reachPatch(setup.lights, hand.includes(id) ? hand : [id], relation, row.rule, is !== 'all', row.covers));
      }}
    />
  );
}

function Rows({ rows, depth, id, light }: { rows: Row[]; depth: number; id: string; light: Light }) {
  const [open, setOpen] = useState<readonly string[]>([]);
  return rows.map((row) => {
    const unfolded = open.includes(row.rule);
    return (
      <div key={row.rule} role="none">
        <div className="flex h-6 items-center gap-1 hover:bg-base-200" data-testid={`reach-${row.rule}`}>
          <span className="flex min-w-0 flex-1 items-center gap-0.5" style={{ paddingLeft: depth * 14 }}>
            {row.parts.length > 0 ? (
              <button
                className="quiet grid size-6 place-items-center hover:text-base-content"
                aria-label={`${unfolded ? 'Fold' : 'Parts of'} ${row.name}`}
                aria-expanded={unfolded}
                onClick={() => setOpen(unfolded ? open.filter((r) => r !== row.rule) : [...open, row.rule])}
              >
                {unfolded ? <ChevronDown size={12} /> : <ChevronRight size={12} />}
              </button>
            ) : (
              <i className="w-6" />
            )}
            <span className="truncate">{row.name}</span>
            {row.covers.length > 1 && <span className="quiet text-2xs tabular-nums">{row.covers.length}</span>}
          </span>
          <span className="grid w-14 place-items-center">
            <Mark row={row} relation="lights" id={id} light={light} />
          </span>
          <span className="grid w-14 place-items-center">
            <Mark row={row} relation="casts" id={id} light={light} />
          </span>
        </div>
        {unfolded && <Rows rows={row.parts} depth={depth + 1} id={id} light={light} />}
      </div>
    );
  });
}

/** What a light lights and whose shadow it casts, and known wishes about it. */
export function ReachLeaf({ id, light }: { id: string; light: Light }) {
  const { doc } = useStage();
  const subjects = useDoc((d) => d.setup.subjects),
    props = useDoc((d) => d.setup.props);
  const objects = useObjects();
  const show = usePreview();
  const named = { subjects, props },
    refs = objects.map(([ref]) => ref);
  const also = useView((v) => v.also.length);
  const gone =
    refs.length === 0 ? [] : [...new Set([...waitingRules(light.reach?.lights, refs), ...waitingRules(light.reach?.casts, refs)])];
  const wish = (kind: ReachWish) => {
    try {
      show({ ...reachWish(doc.getState().setup, id, kind, refs, letters()), reached: true });
    } catch (error) {
      toast.error((error as Error).message);
    }
  };
  return (
    <div className="flex flex-col gap-1" data-testid="reach">
      <p className="leading-snug" data-testid="reach-words">
        {reachWords(named, light.reach)}
        {lightsNothing(light.reach, refs) && <span className="text-warning"> It lights nothing that is here.</span>}
        {also > 0 && <span className="quiet"> A mark is set for all lights in hand.</span>}
      </p>
      <div className="flex flex-wrap gap-1">
        {WISHES.map(([kind, label, title]) => (
          <button key={kind} className="btn btn-xs" title={title} onClick={() => wish(kind)}>
            {label}
          </button>
        ))}
      </div>
      <div role="group" aria-label={`Reach of ${light.name}`}>
        <div className="flex items-end gap-1 text-2xs">
          <span className="flex-1" />
          <span className="quiet w-14 text-center">lights</span>
          <span className="quiet w-14 text-center">shadow of</span>
        </div>
        <Rows rows={rowsOf(objects, (rule) => ruleWords(named, rule))} depth={0} id={id} light={light} />
      </div>
      {gone.map((rule) => (
        <p key={rule} className="quiet flex items-center gap-1 text-2xs" data-testid="reach-waiting">
          <span className="min-w-0 flex-1 truncate">{ruleWords(named, rule)}: nothing here is called so; the rule waits.</span>
          <button
            className="grid size-6 place-items-center"
            aria-label={`Forget the rule for ${ruleWords(named, rule)}`}
            onClick={() => doc.getState().change({ lights: { items: { [id]: { reach: withoutRule(light.reach, rule) } } } })}
          >
            <X size={12} />
          </button>
        </p>
      ))}
    </div>
  );
}
