import {
  forgetRule,
  lightPatch,
  lightsNothing,
  pairShadowOf,
  pairShadowPatch,
  reachWish,
  reachWords,
  ruleWords,
  waitingRules,
  type Light,
  type ReachWish,
  type Relation,
} from '@plinket/core';
import { ChevronDown, ChevronRight, Grid3x3, X } from 'lucide-react';
import { Fragment, useState, type ReactNode } from 'react';
import { toast } from 'sonner';
import { fromHex, toHex } from '../../parts/colour.ts';
import { inHand, useDoc, useStage, useView } from '../context.ts';
import { letters } from '../../parts/letters.ts';
import { usePreview } from '../reading/placing.ts';
import { Mark } from './Mark.tsx';
import { useRows } from './marks.ts';
import type { Row } from './rows.ts';

const WISHES: [ReachWish, string, string][] = [
  ['no-stage', 'Off the stage', 'No hot spot and no spill of this light on the stage'],
  ['own-background', 'Own background light', 'This light leaves the stage to one that reaches nothing else'],
  ['shadow-back', 'Shadow back', 'A light in the same place that lights only the stage and casts only the figures’ shadows'],
  ['eyes', 'Eyes only', 'It is seen in the eyes and lights nothing else'],
  [
    'one-shadow',
    'One shadow',
    'Only this light’s shadows of the figures and things stand on the stage: the others light it through a second light that nothing stops',
  ],
];

/** How much of the light a thing's shadow takes, and what colour stays in it: percent, and a swatch once it is less than all. */
function Density({ row, id, light }: { row: Row; id: string; light: Light }) {
  const { doc, view } = useStage();
  const { density, colour } = pairShadowOf(light.reach?.shadows, row.rule);
  const said = `${Math.round(density * 100)}`;
  const set = (shadow: { density: number; colour: [number, number, number] }, gesture?: string) => {
    const { change, setup } = doc.getState(),
      hand = inHand(view.getState());
    change(pairShadowPatch(setup.lights, hand.includes(id) ? hand : [id], row.rule, shadow), gesture);
  };
  const take = (text: string): boolean => {
    const v = Number(text.replace(',', '.').replace('%', ''));
    if (text.trim() === '' || !(v >= 0 && v <= 100)) return false;
    if (v !== Math.round(density * 100)) set({ density: v / 100, colour: v === 100 ? [0, 0, 0] : colour });
    return true;
  };
  return (
    <span className="flex w-18 shrink-0 items-center justify-end gap-1" title="How much of the light its shadow takes">
      {density < 1 && (
        <input
          type="color"
          className="size-4 cursor-pointer rounded-sm border-0 bg-transparent p-0"
          aria-label={`Colour in the shadow of ${row.name}`}
          value={toHex(colour)}
          onChange={(e) => set({ density, colour: fromHex(e.target.value) }, `pair-shadow-${row.rule}`)}
        />
      )}
      <input
        key={said}
        className={`h-6 w-8 rounded-sm bg-transparent text-right tabular-nums hover:bg-base-300 focus:bg-base-300 ${density < 1 ? 'font-semibold' : 'quiet'}`}
        inputMode="decimal"
        aria-label={`Shadow of ${row.name}, percent`}
        defaultValue={said}
        onBlur={(e) => {
          if (!take(e.target.value)) e.target.value = said;
        }}
        onKeyDown={(e) => {
          if (e.key === 'Enter') e.currentTarget.blur();
          if (e.key !== 'Escape') return;
          e.currentTarget.value = said;
          e.currentTarget.blur();
        }}
      />
      <span className="quiet text-2xs">%</span>
    </span>
  );
}

/** A thing's name and its two marks; `labelled`: what the marks say stands before them. */
function Line({ row, id, light, labelled, children }: { row: Row; id: string; light: Light; labelled?: boolean; children?: ReactNode }) {
  const mark = (relation: Relation, width: string, words: string) => (
    <span className={`flex shrink-0 items-center justify-end gap-1.5 ${width}`}>
      {labelled && <span className="quiet text-2xs">{words}</span>}
      <Mark row={row} relation={relation} id={id} light={light} together />
    </span>
  );
  return (
    <div className="flex h-6 items-center hover:bg-base-200" data-testid={`reach-${row.rule}`}>
      <span className="flex min-w-0 flex-1 items-center gap-1">
        {children}
        <span className="truncate">{row.name}</span>
        {row.covers.length > 1 && <span className="quiet text-2xs tabular-nums">{row.covers.length}</span>}
      </span>
      {mark('lights', 'w-16', 'lights')}
      {mark('casts', 'w-22', 'shadow of')}
      <Density row={row} id={id} light={light} />
    </div>
  );
}

function Rows({ rows, depth, id, light }: { rows: Row[]; depth: number; id: string; light: Light }) {
  const [open, setOpen] = useState<readonly string[]>([]);
  return rows.map((row) => {
    const unfolded = open.includes(row.rule);
    return (
      <Fragment key={row.rule}>
        <Line row={row} id={id} light={light}>
          <i style={{ width: depth * 14 }} />
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
        </Line>
        {unfolded && <Rows rows={row.parts} depth={depth + 1} id={id} light={light} />}
      </Fragment>
    );
  });
}

/** What a light lights and whose shadow it casts, and known wishes about it. */
export function ReachLeaf({ id, light }: { id: string; light: Light }) {
  const { doc, view } = useStage();
  const subjects = useDoc((d) => d.setup.subjects),
    props = useDoc((d) => d.setup.props);
  const { all } = useRows();
  const show = usePreview();
  const named = { subjects, props },
    refs = all.covers;
  const also = useView((v) => v.also.length);
  const gone =
    refs.length === 0
      ? []
      : [
          ...new Set([
            ...waitingRules(light.reach?.lights, refs),
            ...waitingRules(light.reach?.casts, refs),
            ...waitingRules(light.reach?.shadows, refs),
          ]),
        ];
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
        <button
          className="btn btn-xs btn-square ml-auto"
          aria-label="Table of all lights"
          title="What every light reaches, in one table (T)"
          onClick={() => view.setState({ panel: 'reach' })}
        >
          <Grid3x3 size={13} />
        </button>
      </div>
      <div role="group" aria-label={`Reach of ${light.name}`}>
        <Line row={all} id={id} light={light} labelled />
        <Rows rows={all.parts} depth={0} id={id} light={light} />
      </div>
      {gone.map((rule) => (
        <p key={rule} className="quiet flex items-center gap-1 text-2xs" data-testid="reach-waiting">
          <span className="min-w-0 flex-1 truncate">{ruleWords(named, rule)}: nothing here is called so; the rule waits.</span>
          <button
            className="grid size-6 place-items-center"
            aria-label={`Forget the rule for ${ruleWords(named, rule)}`}
            onClick={() => doc.getState().change(lightPatch(id, forgetRule(light.reach!, rule)))}
          >
            <X size={12} />
          </button>
        </p>
      ))}
    </div>
  );
}
