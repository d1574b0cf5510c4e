import { COLUMNS, LIT, NOSE_CAST, ROWS } from '@plinket/core';
import { useEffect, useMemo, useRef } from 'react';
import type { FaceReport } from '../../engine/messages.ts';
import { faceTones, outline } from './face-paper.ts';

interface Props {
  report: FaceReport;
  colour: string;
  /** Places to be pointed at. */
  marked: readonly number[] | undefined;
}

/** The face unrolled, the figure's right on the left as the camera sees it: light in stops, the key's shadow outlined, the nose's above all. */
export function FacePaper({ report: { stops, reading }, colour, marked }: Props) {
  const canvas = useRef<HTMLCanvasElement>(null);
  useEffect(() => {
    const paint = canvas.current?.getContext('2d');
    if (paint && stops) paint.putImageData(new ImageData(faceTones(stops), COLUMNS, ROWS), 0, 0);
  }, [stops]);
  const shades = reading?.features?.shades;
  const shadow = useMemo(() => (shades ? outline((c) => shades[c]! > LIT) : ''), [shades]);
  const nose = useMemo(() => (shades ? outline((c) => shades[c] === NOSE_CAST) : ''), [shades]);
  const pointed = useMemo(() => {
    const of = new Set(marked);
    return marked ? outline((c) => of.has(c)) : '';
  }, [marked]);
  return (
    <div className="relative h-full" style={{ aspectRatio: `${COLUMNS} / ${ROWS}` }}>
      <canvas
        ref={canvas}
        width={COLUMNS}
        height={ROWS}
        className="h-full w-full"
        aria-label="The face unrolled: light in stops"
        role="img"
      />
      <svg
        viewBox={`0 0 ${COLUMNS} ${ROWS}`}
        className="absolute inset-0 h-full w-full"
        fill="none"
        aria-hidden
        data-testid="face-outlines"
      >
        <path d={shadow} stroke={colour} strokeWidth={0.5} strokeOpacity={0.55} />
        <path d={nose} stroke={colour} strokeWidth={1.3} data-testid="nose-outline" />
        <path d={pointed} stroke="white" strokeWidth={1.6} />
      </svg>
    </div>
  );
}
