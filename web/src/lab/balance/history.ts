// A balance in work: every change can be taken back, and a reload loses none.
import { balanceSchema, type Balance, type LightBalance } from '@plinket/core';
import { useCallback, useState } from 'react';

export interface Steps {
  past: readonly Balance[];
  now: Balance;
  future: readonly Balance[];
  /** What the last change belonged to: a drag is one step. */
  gesture: string | undefined;
}

export const UNCHANGED: Balance = { lights: {} };
/** Steps that can be taken back. */
const MOST = 500;

export const begin = (now: Balance = UNCHANGED): Steps => ({ past: [], now, future: [], gesture: undefined });

/** The next step; changes of one gesture are one. */
export function stepTo({ past, now, gesture: last }: Steps, next: Balance, gesture?: string): Steps {
  const same = gesture !== undefined && gesture === last;
  return { past: same ? past : [...past, now].slice(-MOST), now: next, future: [], gesture };
}
export const undone = (steps: Steps): Steps =>
  steps.past.length
    ? { past: steps.past.slice(0, -1), now: steps.past.at(-1)!, future: [steps.now, ...steps.future], gesture: undefined }
    : steps;
export const redone = (steps: Steps): Steps =>
  steps.future.length
    ? { past: [...steps.past, steps.now], now: steps.future[0]!, future: steps.future.slice(1), gesture: undefined }
    : steps;

/** A balance with some lights changed; what is as it was rendered is not said. */
export function withLights(balance: Balance, ids: readonly string[], change: (was: LightBalance) => LightBalance): Balance {
  const lights = { ...balance.lights };
  for (const id of ids) {
    const next = Object.fromEntries(Object.entries(change(lights[id] ?? {})).filter(([, v]) => v !== undefined && v !== 0));
    if (Object.keys(next).length) lights[id] = next;
    else delete lights[id];
  }
  return { ...balance, lights };
}

/** Whether a balance changes anything. */
export const isUnchanged = ({ lights, look, exposure }: Balance): boolean =>
  Object.keys(lights).length === 0 && !exposure && Object.keys(look ?? {}).length === 0;

function kept(key: string): Balance {
  try {
    return balanceSchema.parse(JSON.parse(localStorage.getItem(key) ?? '{}'));
  } catch {
    return UNCHANGED;
  }
}

/** The balance of one job, kept in this browser under a key until it is used. */
export function useBalance(key: string) {
  const [steps, setSteps] = useState(() => begin(kept(key)));
  const take = useCallback(
    (make: (steps: Steps) => Steps) =>
      setSteps((was) => {
        const next = make(was);
        try {
          localStorage.setItem(key, JSON.stringify(next.now));
        } catch {
          // a full or forbidden store keeps nobody from balancing
        }
        return next;
      }),
    [key],
  );
  return {
    steps,
    change: useCallback((make: (now: Balance) => Balance, gesture?: string) => take((s) => stepTo(s, make(s.now), gesture)), [take]),
    undo: useCallback(() => take(undone), [take]),
    redo: useCallback(() => take(redone), [take]),
  };
}
