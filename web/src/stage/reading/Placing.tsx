import { orderOf, patternName, PATTERNS, type PatternWish } from '@plinket/core';
import { useState } from 'react';
import { toast } from 'sonner';
import type { PlaceWish } from '../../engine/messages.ts';
import { letterOf } from '../../parts/identity.ts';
import { useDoc, useStage, useView } from '../context.ts';

const WISHES = PATTERNS.filter((p): p is PatternWish['pattern'] => p !== 'clamshell');
const RATIOS = [2, 3, 4, 8];

/** Asks the light in hand to draw a pattern, or the face for a ratio. Each is one step of undo, and says what it could not reach. */
export function Placing() {
  const { engine, doc } = useStage();
  const selected = useView((v) => v.selected);
  const lights = useDoc((d) => d.setup.lights);
  const [pattern, setPattern] = useState<PatternWish['pattern']>('loop');
  const [from, setFrom] = useState<'left' | 'right'>('left');
  const [busy, setBusy] = useState(false);
  const light = selected === undefined ? undefined : lights.items[selected];
  const letter = light && selected ? letterOf(orderOf(lights).indexOf(selected)) : '';
  const ask = (wish: PlaceWish) => {
    if (!selected) return;
    setBusy(true);
    engine
      .place(selected, wish)
      .then(({ patch, reached, text }) => {
        doc.getState().change(patch);
        (reached ? toast : toast.warning)(text, { action: { label: 'Undo', onClick: () => doc.getState().undo() } });
      })
      .catch((error: Error) => toast.error(`Nothing was placed: ${error.message}`))
      .finally(() => setBusy(false));
  };
  const off = !light || busy;
  return (
    <div className="flex items-center gap-1 whitespace-nowrap" data-testid="placing">
      <select
        className="select select-xs w-32"
        aria-label="Pattern"
        value={pattern}
        onChange={(e) => setPattern(e.target.value as PatternWish['pattern'])}
      >
        {WISHES.map((p) => (
          <option key={p} value={p}>
            {patternName(p)}
          </option>
        ))}
      </select>
      <select
        className="select select-xs w-20 pr-6"
        aria-label="From the figure’s"
        value={from}
        onChange={(e) => setFrom(e.target.value as 'left' | 'right')}
      >
        <option value="left">left</option>
        <option value="right">right</option>
      </select>
      <button className="btn btn-xs" disabled={off} onClick={() => ask({ kind: 'pattern', pattern, from })}>
        Place {letter}
      </button>
      <span className="quiet pl-0.5">ratio</span>
      {RATIOS.map((value) => (
        <button
          key={value}
          className="btn btn-xs px-1.5"
          disabled={off}
          aria-label={`Ratio ${value} to 1 by ${letter}`}
          onClick={() => ask({ kind: 'ratio', value })}
        >
          {value}:1
        </button>
      ))}
    </div>
  );
}
