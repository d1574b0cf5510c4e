// Exposure and look of a finished picture.
import { BALANCE_LIMITS, LIMITS, type Balance, type Look, type Setup } from '@plinket/core';
import { NumberField } from '../../parts/NumberField.tsx';
import { StopsField } from './StopsField.tsx';

export function LookFields({
  setup,
  balance,
  change,
}: {
  setup: Setup;
  balance: Balance;
  change(make: (now: Balance) => Balance, gesture?: string): void;
}) {
  const look = { ...setup.look, ...balance.look };
  const set = (key: 'contrast' | 'white' | 'vignette', v: number, gesture?: string) =>
    change((now) => {
      const next: Partial<Look> = { ...now.look, [key]: v };
      if (v === setup.look[key]) delete next[key];
      const { look: _, ...rest } = now;
      return Object.keys(next).length ? { ...rest, look: next } : rest;
    }, gesture);
  return (
    <section aria-label="Picture">
      <h3 className="caps mb-1">Picture</h3>
      <StopsField
        label="exposure"
        value={balance.exposure ?? 0}
        limits={BALANCE_LIMITS.exposure}
        onChange={(v, gesture) =>
          change((now) => {
            const { exposure: _, ...rest } = now;
            return v === 0 ? rest : { ...rest, exposure: v };
          }, gesture)
        }
      />
      <NumberField label="white" value={look.white} unit="K" step={50} limits={LIMITS.white} onChange={(v, g) => set('white', v, g)} />
      <NumberField
        label="contrast"
        value={look.contrast}
        unit=""
        step={0.05}
        limits={LIMITS.contrast}
        digits={2}
        onChange={(v, g) => set('contrast', v, g)}
      />
      <NumberField
        label="vignette"
        value={look.vignette}
        unit=""
        step={0.05}
        limits={LIMITS.unit}
        digits={2}
        onChange={(v, g) => set('vignette', v, g)}
      />
    </section>
  );
}
