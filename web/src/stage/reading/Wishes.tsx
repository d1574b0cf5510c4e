import { BRIEFS, orderOf, patternName, PATTERNS, type PatternWish } from '@plinket/core';
import { useState, type ReactNode } from 'react';
import { letterOf } from '../../parts/identity.ts';
import { useDoc, useStage, useView } from '../context.ts';
import { usePlacing } from './placing.ts';

const PATTERN_WISHES = PATTERNS.filter((p): p is PatternWish['pattern'] => p !== 'clamshell');
const RATIOS = [2, 3, 4, 8];
const HOURS = [10, 11, 12, 1, 2, 3, 6, 9];
const SELECT = 'select select-xs h-6 min-h-0 shrink-0 py-0';

function Row({ label, children }: { label: string; children: ReactNode }) {
  return (
    <div className="flex min-h-6.5 items-center gap-1 whitespace-nowrap">
      <span className="quiet w-16 shrink-0">{label}</span>
      {children}
    </div>
  );
}

interface ChoiceProps<T> {
  label: string;
  value: T;
  of: readonly (readonly [T, string])[];
  choose: (v: T) => void;
  /** Width that the longest of them needs. */
  wide: string;
}

function Choice<T extends string | number>({ label, value, of, choose, wide }: ChoiceProps<T>) {
  return (
    <select
      className={`${SELECT} ${wide}`}
      aria-label={label}
      value={value}
      onChange={(e) => choose(of.find(([v]) => String(v) === e.target.value)![0])}
    >
      {of.map(([v, words]) => (
        <option key={v} value={v}>
          {words}
        </option>
      ))}
    </select>
  );
}

/** Everything that may be wished of the light in hand, or of all. Each is shown first, is one step of undo, and says what it could not reach. */
export function Wishes() {
  const { view } = useStage();
  const selected = useView((v) => v.selected);
  const picking = useView((v) => v.picking);
  const spots = useView((v) => v.spots);
  const lights = useDoc((d) => d.setup.lights);
  const { ask, busy } = usePlacing();
  const [brief, setBrief] = useState(BRIEFS[0]!.id);
  const [pattern, setPattern] = useState<PatternWish['pattern']>('loop');
  const [from, setFrom] = useState<'left' | 'right'>('left');
  const [clock, setClock] = useState(10);
  const [eyes, setEyes] = useState<'left' | 'right' | 'both'>('both');
  const order = orderOf(lights),
    light = selected === undefined ? undefined : lights.items[selected],
    letter = light && selected ? letterOf(order.indexOf(selected)) : '';
  const others = order.filter((id) => id !== selected);
  const [other, setOther] = useState('');
  const second = others.includes(other) ? other : (others[0] ?? '');
  const off = !light || busy;
  const point = (what: 'highlight' | 'shadow' | 'rim', keep = false) =>
    view.setState({ picking: picking === what ? undefined : what, spots: keep ? spots : [], asked: undefined });
  const small = 'btn btn-xs h-6 px-1.5';
  return (
    <div className="min-h-0 flex-1 overflow-y-auto" data-testid="wishes">
      <Row label="begin">
        <Choice label="Intention" wide="w-28" value={brief} of={BRIEFS.map((b) => [b.id, b.name] as const)} choose={setBrief} />
        <button className={small} disabled={busy} onClick={() => ask({ kind: 'brief', brief }, '')}>
          Begin
        </button>
        <span className="quiet min-w-0 truncate" title={BRIEFS.find((b) => b.id === brief)!.words}>
          {BRIEFS.find((b) => b.id === brief)!.words}
        </span>
      </Row>
      <Row label="pattern">
        <Choice
          label="Pattern"
          wide="w-33"
          value={pattern}
          of={PATTERN_WISHES.map((p) => [p, patternName(p)] as const)}
          choose={setPattern}
        />
        <Choice
          label="From the figure’s"
          wide="w-29"
          value={from}
          of={[
            ['left', 'from its left'],
            ['right', 'from its right'],
          ]}
          choose={setFrom}
        />
        <button className={small} disabled={off} onClick={() => ask({ kind: 'pattern', pattern, from })}>
          Place {letter}
        </button>
      </Row>
      <Row label="ratio">
        {RATIOS.map((value) => (
          <button
            key={value}
            className={small}
            disabled={off}
            aria-label={`Ratio ${value} to 1 by ${letter}`}
            onClick={() => ask({ kind: 'ratio', value })}
          >
            {value}:1
          </button>
        ))}
        <span className="quiet">by the level of {letter || '…'}</span>
      </Row>
      <Row label="catchlight">
        <Choice label="Catchlight at" wide="w-25" value={clock} of={HOURS.map((h) => [h, `${h} o’clock`] as const)} choose={setClock} />
        <Choice
          label="In"
          wide="w-27"
          value={eyes}
          of={[
            ['both', 'both eyes'],
            ['left', 'its left eye'],
            ['right', 'its right eye'],
          ]}
          choose={setEyes}
        />
        <button
          className={small}
          disabled={off}
          aria-label={`Catchlight of ${letter}`}
          onClick={() => ask({ kind: 'catchlight', clock, eyes })}
        >
          Place {letter}
        </button>
      </Row>
      <Row label="point">
        <button className={small} disabled={off} aria-pressed={picking === 'highlight'} onClick={() => point('highlight')}>
          Highlight here
        </button>
        <button className={small} disabled={off} aria-pressed={picking === 'shadow'} onClick={() => point('shadow', spots.length === 2)}>
          {spots.length === 2 && picking === undefined ? 'Second pair' : 'Light of a shadow'}
        </button>
        <button className={small} disabled={off} aria-pressed={picking === 'rim'} onClick={() => point('rim')}>
          Rim along an edge
        </button>
      </Row>
      {picking && picking !== 'ask' && (
        <p className="pl-17 text-primary" role="status">
          {picking === 'highlight'
            ? `Click where ${letter} shall be mirrored.`
            : picking === 'rim'
              ? 'Draw along the silhouette where it shall glow.'
              : picking === 'shadow'
                ? spots.length % 2 === 0
                  ? 'Click a point of a shadow’s edge …'
                  : '… and the point of the edge that casts it.'
                : ''}
        </p>
      )}
      <Row label="place">
        <button className={small} disabled={off} onClick={() => ask({ kind: 'out of frame' })}>
          Out of the picture
        </button>
        {second !== '' && (
          <>
            <Choice
              label="The other of the pair"
              wide="w-13"
              value={second}
              of={others.map((id) => [id, letterOf(order.indexOf(id))] as const)}
              choose={setOther}
            />
            <button className={small} disabled={off} onClick={() => ask({ kind: 'pair', other: second, across: 'sides' })}>
              its pair, other side
            </button>
            <button className={small} disabled={off} onClick={() => ask({ kind: 'pair', other: second, across: 'heights' })}>
              below
            </button>
          </>
        )}
      </Row>
    </div>
  );
}
