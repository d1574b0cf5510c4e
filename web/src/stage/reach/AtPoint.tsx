import { objectName, orderOf, readRef, refCovers, RELATIONS } from '@plinket/core';
import { X } from 'lucide-react';
import { colourOf, letterOf } from '../../parts/identity.ts';
import { useDoc, useStage, useView, type ViewState } from '../context.ts';
import { AtSpot } from '../reading/AtSpot.tsx';
import { Mark } from './Mark.tsx';
import { useRows } from './marks.ts';

/** What the object under a right click is lit and shadowed by, light by light, each a switch; of a part also of the whole character. */
function Switches({ met }: { met: NonNullable<ViewState['met']> }) {
  const { view } = useStage();
  const setup = useDoc((d) => d.setup);
  const { all } = useRows();
  const named = readRef(met.object);
  const whole = named?.of === 'subject' ? `subjects/${named.id}` : named?.of === 'stage' ? 'stage' : undefined;
  const order = orderOf(setup.lights);
  const row = {
    rule: met.object,
    name: objectName(setup, met.object),
    covers: all.covers.filter((o) => refCovers(met.object, o)),
    parts: [],
  };
  return (
    <AtSpot at={met.at} label={`Reach at ${row.name}`} testId="reach-at">
      <p className="flex items-baseline gap-2 font-semibold">
        <span className="min-w-0 flex-1 truncate">{row.name}</span>
        {whole !== undefined && whole !== met.object && all.covers.some((o) => o !== met.object && refCovers(whole, o)) && (
          <button className="btn btn-xs" onClick={() => view.setState({ met: { ...met, object: whole } })}>
            All of it
          </button>
        )}
        <button aria-label="Close" className="self-center" onClick={() => view.setState({ met: undefined })}>
          <X size={12} />
        </button>
      </p>
      <p className="quiet flex justify-end gap-3 text-2xs">
        <span>lit by</span>
        <span>shadowed by</span>
      </p>
      <ul className="max-h-64 overflow-y-auto" tabIndex={-1}>
        {order.map((id, index) => (
          <li key={id} className="flex h-6 items-center gap-1.5">
            <i className="size-2 shrink-0 rounded-full" style={{ background: colourOf(index) }} />
            <span className="w-3 font-semibold">{letterOf(index)}</span>
            <span className="min-w-0 flex-1 truncate">{setup.lights.items[id]!.name}</span>
            {RELATIONS.map((relation) => (
              <span key={relation} className={`flex justify-center ${relation === 'lights' ? 'w-8' : 'w-15'}`}>
                <Mark row={row} relation={relation} id={id} light={setup.lights.items[id]!} together={false} />
              </span>
            ))}
          </li>
        ))}
      </ul>
    </AtSpot>
  );
}

/** The switches of what was met, while something is: closed it hears nothing of a hand that changes the setup. */
export function AtPoint() {
  const met = useView((v) => v.met);
  return met ? <Switches met={met} /> : null;
}
