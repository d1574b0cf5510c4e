import { objectName, orderOf } from '@plinket/core';
import { useMemo, type PointerEvent } from 'react';
import { X } from 'lucide-react';
import { colourOf, letterOf } from '../../parts/identity.ts';
import type { Asked, Spot } from '../../engine/messages.ts';
import { useDoc, useStage, useView, type ViewState } from '../context.ts';
import { AtPoint } from '../reach/AtPoint.tsx';
import { AtSpot } from './AtSpot.tsx';
import { pictureOutline, WHOLE } from './in-picture.ts';
import { usePlacing } from './placing.ts';

const STATES: Record<Asked['lights'][number]['state'], string> = {
  lit: 'lit',
  half: 'in half shadow',
  shadow: 'in shadow',
  away: 'turned away',
  out: 'out of its reach',
};

/** What was asked at a point: light by light. */
function AskedCard({ asked: { at, what } }: { asked: NonNullable<ViewState['asked']> }) {
  const { view } = useStage();
  const setup = useDoc((d) => d.setup);
  const order = orderOf(setup.lights);
  return (
    <AtSpot at={at} label="Lights at this point" testId="asked">
      <p className="flex items-baseline gap-2 font-semibold">
        <span className="min-w-0 flex-1 truncate">{objectName(setup, what.object)}</span>
        <span className="tabular-nums">{`${what.tone < 0 ? '−' : '+'}${Math.abs(what.tone).toFixed(1)} st`}</span>
        <button aria-label="Close" onClick={() => view.setState({ asked: undefined, picking: undefined })}>
          <X size={12} />
        </button>
      </p>
      <ul>
        {what.lights.map(({ id, share, stops, state, by }) => (
          <li key={id} className="flex items-baseline gap-1.5">
            <i className="size-2 shrink-0 rounded-full" style={{ background: colourOf(order.indexOf(id)) }} />
            <span className="w-3 font-semibold">{letterOf(order.indexOf(id))}</span>
            <span className="w-9 text-right tabular-nums">{share >= 0.005 ? `${Math.round(share * 100)} %` : '0 %'}</span>
            <span className="quiet w-12 text-right tabular-nums">{share > 1e-4 ? `−${Math.abs(stops).toFixed(1)} st` : ''}</span>
            <span className="min-w-0 flex-1 truncate" title={by ? `behind ${objectName(setup, by)}` : STATES[state]}>
              {STATES[state]}
              {by && <span className="quiet"> · {objectName(setup, by)}</span>}
            </span>
          </li>
        ))}
      </ul>
    </AtSpot>
  );
}

/** The stroke along a silhouette that is being drawn. */
function Stroke() {
  const { view } = useStage();
  const picking = useView((v) => v.picking);
  const spots = useView((v) => v.spots);
  const { ask } = usePlacing();
  if (picking !== 'rim') return null;
  const spotOf = (e: PointerEvent): Spot => {
    const box = e.currentTarget.getBoundingClientRect();
    const within = (v: number) => Math.min(1, Math.max(0, v));
    return [within((e.clientX - box.left) / box.width), within((e.clientY - box.top) / box.height)];
  };
  const end = () => {
    const stroke = view.getState().spots;
    if (!stroke.length) return;
    view.setState({ picking: undefined, spots: [] });
    ask({ kind: 'rim', stroke: [...stroke] });
  };
  return (
    <svg
      viewBox={`0 0 ${WHOLE} ${WHOLE}`}
      preserveAspectRatio="none"
      className="absolute inset-0 h-full w-full cursor-crosshair touch-none"
      onPointerDown={(e) => {
        e.stopPropagation();
        e.currentTarget.setPointerCapture(e.pointerId);
        view.setState({ spots: [spotOf(e)] });
      }}
      onPointerMove={(e) => e.buttons === 1 && view.setState((v) => ({ spots: [...v.spots, spotOf(e)] }))}
      onPointerUp={end}
      onPointerCancel={end}
      data-testid="stroke"
    >
      <polyline
        points={spots.map(([x, y]) => `${x * WHOLE},${y * WHOLE}`).join(' ')}
        fill="none"
        stroke="white"
        strokeWidth={2.5}
        vectorEffect="non-scaling-stroke"
      />
    </svg>
  );
}

/** Over the picture: what a reason or a finding is about, what was asked, what is being pointed at. Nothing of it is in the picture itself. */
export function InPicture() {
  const pointed = useView((v) => v.pointed);
  const places = useView((v) => v.seen?.places);
  const spots = useView((v) => v.spots);
  const dots = useView((v) => v.dots);
  const asked = useView((v) => v.asked);
  const picking = useView((v) => v.picking);
  const path = useMemo(() => (pointed && places ? pictureOutline(pointed, places) : ''), [pointed, places]);
  return (
    <>
      {path && (
        <svg
          viewBox={`0 0 ${WHOLE} ${WHOLE}`}
          preserveAspectRatio="none"
          className="pointer-events-none absolute inset-0 h-full w-full"
          aria-hidden
          data-testid="pointed"
        >
          <path d={path} fill="none" stroke="black" strokeOpacity={0.5} strokeWidth={3} vectorEffect="non-scaling-stroke" />
          <path d={path} fill="none" stroke="white" strokeWidth={1.4} vectorEffect="non-scaling-stroke" />
        </svg>
      )}
      {dots && (
        <svg
          viewBox={`0 0 ${WHOLE} ${WHOLE}`}
          preserveAspectRatio="none"
          className="pointer-events-none absolute inset-0 h-full w-full"
          aria-hidden
          data-testid="dots"
        >
          {dots.map(([x, y], i) => (
            <path
              key={i}
              d={`M${x * WHOLE} ${y * WHOLE}h0`}
              stroke="black"
              strokeOpacity={0.5}
              strokeWidth={7}
              strokeLinecap="round"
              vectorEffect="non-scaling-stroke"
            />
          ))}
          {dots.map(([x, y], i) => (
            <path
              key={`w${i}`}
              d={`M${x * WHOLE} ${y * WHOLE}h0`}
              stroke="white"
              strokeWidth={4}
              strokeLinecap="round"
              vectorEffect="non-scaling-stroke"
            />
          ))}
        </svg>
      )}
      {picking === 'shadow' &&
        spots.map(([x, y], i) => (
          <i
            key={i}
            className="pointer-events-none absolute size-2.5 -translate-1/2 rounded-full border-2 border-white"
            style={{ left: `${x * 100}%`, top: `${y * 100}%` }}
          />
        ))}
      <Stroke />
      {asked && <AskedCard asked={asked} />}
      <AtPoint />
    </>
  );
}
