import { KEY_PATTERNS, orderOf, patternName, type KeyPattern } from '@plinket/core';
import { useState } from 'react';
import { letterOf } from '../../parts/identity.ts';
import { useDoc, useStage, useView } from '../context.ts';
import { Beginnings } from './Beginnings.tsx';
import { Choice, Row } from './Choice.tsx';
import { usePlacing } from './placing.ts';

const RATIOS = [2, 3, 4, 8];
/** Degrees by which light or head may turn, and the pattern shall hold. */
const MARGINS = [0, 6, 10, 15];
const HOURS = [10, 11, 12, 1, 2, 3, 6, 9];

/** Everything that may be wished of the light in hand, or of all. Each is shown first, is one step of undo, and says what it could not reach. */
export function Wishes() {
  const { view } = useStage();
  const selected = useView((v) => v.selected);
  const picking = useView((v) => v.picking);
  const spots = useView((v) => v.spots);
  const lights = useDoc((d) => d.setup.lights);
  const { ask, busy } = usePlacing();
  const [pattern, setPattern] = useState<KeyPattern>('loop');
  const [from, setFrom] = useState<'left' | 'right'>('left');
  const [margin, setMargin] = useState(0);
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
      <Beginnings />
      <Row label="pattern">
        <Choice
          label="Pattern"
          wide="w-27"
          value={pattern}
          of={KEY_PATTERNS.map((p) => [p, patternName(p)] as const)}
          choose={setPattern}
        />
        <Choice
          label="From the figure’s"
          wide="w-20"
          value={from}
          of={[
            ['left', 'its left'],
            ['right', 'its right'],
          ]}
          choose={setFrom}
        />
        <Choice label="Margin" wide="w-17" value={margin} of={MARGINS.map((m) => [m, m ? `± ${m}°` : 'any'] as const)} choose={setMargin} />
        <button className={small} disabled={off} onClick={() => ask({ kind: 'pattern', pattern, from, ...(margin ? { margin } : {}) })}>
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
