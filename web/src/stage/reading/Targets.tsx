import { orderOf, TARGETS, type Target } from '@plinket/core';
import { colourOf, letterOf } from '../../parts/identity.ts';
import { useDoc, useStage, useView } from '../context.ts';
import { usePlacing } from './placing.ts';

/** Furthest that a target lies from middle grey, stops. */
const LOW = -8,
  HIGH = 6;

const said = (stops: number): string => stops.toFixed(1).replace('-', '−');

/** How bright parts of the picture shall be: kept in the setup, brought about by levels; and what each light gives to them. */
export function Targets() {
  const { doc } = useStage();
  const targets = useDoc((d) => d.setup.targets) ?? {};
  const lights = useDoc((d) => d.setup.lights);
  const seen = useView((v) => v.seen?.seen);
  const { ask, busy } = usePlacing();
  const order = orderOf(lights);
  const given = order.flatMap((id) => (lights.items[id]!.on ? (seen?.lights.filter((l) => l.id === id) ?? []) : []));
  const whole = (t: Target) => given.reduce((sum, l) => sum + (l.gives[t] ?? 0), 0);
  const set = (t: Target, text: string) => {
    const value = text.trim() === '' ? null : Number(text.replace(',', '.').replace('−', '-'));
    if (value === null || (value >= LOW && value <= HIGH)) doc.getState().change({ targets: { [t]: value } });
  };
  return (
    <div className="min-h-0 flex-1 overflow-y-auto" data-testid="targets">
      <table className="w-full table-fixed text-right tabular-nums" aria-label="Targets, and what each light gives to them">
        <thead>
          <tr className="align-bottom">
            <td className="w-24" />
            {TARGETS.map((t) => (
              <th key={t} className="quiet pr-1 text-2xs leading-tight font-normal">
                {t}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          <tr>
            <td className="quiet text-left">is, stops</td>
            {TARGETS.map((t) => (
              <td key={t} className="pr-1">
                {seen?.parts[t] === undefined ? '–' : said(seen.parts[t])}
              </td>
            ))}
          </tr>
          <tr>
            <td className="quiet text-left">shall be</td>
            {TARGETS.map((t) => (
              <td key={t} className="pl-1.5">
                <input
                  key={targets[t] ?? ''}
                  className="input input-xs h-6 w-full px-1 text-right"
                  aria-label={`Target ${t}, stops`}
                  defaultValue={targets[t] === undefined ? '' : said(targets[t])}
                  onBlur={(e) => set(t, e.target.value)}
                  onKeyDown={(e) => e.key === 'Enter' && e.currentTarget.blur()}
                />
              </td>
            ))}
          </tr>
          {given.map((l) => (
            <tr key={l.id}>
              <td className="flex items-center gap-1.5 text-left">
                <i className="size-2 shrink-0 rounded-full" style={{ background: colourOf(order.indexOf(l.id)) }} />
                <b>{letterOf(order.indexOf(l.id))}</b>
                <span className="quiet truncate">{lights.items[l.id]!.name}</span>
              </td>
              {TARGETS.map((t) => (
                <td key={t} className="quiet pr-1">
                  {l.gives[t] === undefined || !(whole(t) > 0) ? '' : `${Math.round((100 * l.gives[t]) / whole(t))} %`}
                </td>
              ))}
            </tr>
          ))}
        </tbody>
      </table>
      <div className="flex items-center gap-2 pt-1">
        <button
          className="btn btn-xs h-6"
          disabled={busy || Object.keys(targets).length === 0 || !seen}
          onClick={() => ask({ kind: 'targets', targets }, '')}
        >
          Balance the lights
        </button>
        <span className="quiet min-w-0 truncate">
          {seen ? 'stops from middle grey; locked lights stay' : 'measured once the picture is calm enough'}
        </span>
      </div>
    </div>
  );
}
