// The lights of a finished picture, as groups have them and one by one: on and off, alone, level, colour.
import { BALANCE_LIMITS, letterOf, orderOf, warmer, type Balance, type Setup } from '@plinket/core';
import { useMemo } from 'react';
import { colourOf } from '../../parts/identity.ts';
import { NumberField } from '../../parts/NumberField.tsx';
import { groupsOf } from './groups.ts';
import { withLights } from './history.ts';
import { StopsField } from './StopsField.tsx';

interface Props {
  setup: Setup;
  balance: Balance;
  solo: readonly string[];
  change(make: (now: Balance) => Balance, gesture?: string): void;
  hear(solo: readonly string[]): void;
}

/** Level and warmth of some lights, moved together: each keeps what it is more or less than the others. */
function Levels({ ids, name, balance, change }: { ids: readonly string[]; name: string } & Pick<Props, 'balance' | 'change'>) {
  const first = balance.lights[ids[0]!] ?? {};
  const move = (key: 'stops' | 'mired', to: number, gesture?: string) =>
    change((now) => {
      const by = to - (now.lights[ids[0]!]?.[key] ?? 0);
      const [least, most] = BALANCE_LIMITS[key];
      return withLights(now, ids, (was) => ({ ...was, [key]: Math.min(most, Math.max(least, (was[key] ?? 0) + by)) }));
    }, gesture);
  return (
    <div className="mt-1.5 grid grid-cols-2 gap-x-4" role="group" aria-label={name}>
      <StopsField
        label="level"
        value={first.stops ?? 0}
        limits={BALANCE_LIMITS.stops}
        onChange={(v, gesture) => move('stops', v, gesture)}
      />
      <NumberField
        label="warmer"
        value={first.mired ?? 0}
        unit="mired"
        step={5}
        limits={BALANCE_LIMITS.mired}
        onChange={(v, gesture) => move('mired', v, gesture)}
      />
    </div>
  );
}

export function Voices({ setup, balance, solo, change, hear }: Props) {
  const order = orderOf(setup.lights),
    groups = useMemo(() => groupsOf(setup), [setup]),
    grouped = groups.some((g) => g.name !== '');
  return (
    <div className="flex flex-col gap-3">
      {groups.map(({ name, lights }) => (
        <section key={name} aria-label={name || 'the rest'}>
          {(grouped || lights.length > 1) && (
            <div className="mb-2 rounded-sm bg-base-300 px-2 py-1">
              <h3 className="caps">{name || (grouped ? 'the rest' : 'all lights')}</h3>
              <Levels ids={lights} name={`${name || (grouped ? 'the rest' : 'all lights')} together`} balance={balance} change={change} />
            </div>
          )}
          {lights.map((id) => {
            const light = setup.lights.items[id]!,
              of = balance.lights[id] ?? {},
              at = order.indexOf(id);
            const on = of.on ?? light.on;
            return (
              <div key={id} className="mb-2 border-l-2 pl-2" style={{ borderColor: colourOf(at) }} data-testid={`voice-${id}`}>
                <div className="flex h-6 items-center gap-2">
                  <b>{letterOf(at)}</b>
                  <span className={`min-w-0 flex-1 truncate ${on ? '' : 'quiet line-through'}`}>{light.name}</span>
                  <span className="quiet text-2xs">{of.mired ? `${warmer(light.kelvin, of.mired)} K` : `${light.kelvin} K`}</span>
                  <button
                    className={`btn btn-xs ${solo.includes(id) ? 'btn-primary' : ''}`}
                    aria-pressed={solo.includes(id)}
                    aria-label={`${light.name} alone`}
                    title="Only this light"
                    onClick={() => hear(solo.includes(id) ? solo.filter((s) => s !== id) : [...solo, id])}
                  >
                    solo
                  </button>
                  <button
                    className={`btn btn-xs ${on ? '' : 'btn-primary'}`}
                    aria-pressed={!on}
                    aria-label={`${light.name} off`}
                    title={on ? 'Turn it off' : 'Turn it on'}
                    onClick={() => change((now) => withLights(now, [id], (was) => ({ ...was, on: !on === light.on ? undefined : !on })))}
                  >
                    off
                  </button>
                </div>
                <Levels ids={[id]} name={light.name} balance={balance} change={change} />
              </div>
            );
          })}
        </section>
      ))}
    </div>
  );
}
