// The reading through the turn: which pattern the key draws, the ratio, and what is clipped, by frame.
import { framesOf, patternName } from '@plinket/core';
import { area, curveStep, line, scaleLinear } from 'd3';
import { useSize } from '../parts/size.ts';
import { useDoc, useRoom, useTurn } from './state.ts';
import { planOf } from './work.ts';

const HEIGHT = 74,
  /** Heights of the band of patterns, and of what lies below it, px. */
  BAND = 18,
  /** Most stops of a ratio that are drawn. */
  MOST = 5;

interface Run {
  from: number;
  to: number;
  name: string;
}

/** Neighbours of one pattern together. */
function runsOf(moments: readonly { frame: number; pattern?: string }[], all: number): Run[] {
  const runs: Run[] = [];
  moments.forEach(({ frame, pattern }, i) => {
    const to = moments[i + 1]?.frame ?? all + 1,
      name = pattern ?? '';
    const last = runs.at(-1);
    if (last?.name === name) last.to = to;
    else runs.push({ from: frame, to, name });
  });
  return runs;
}

export function Strip() {
  const { turn } = useRoom();
  const plan = useDoc((d) => planOf(d.setup));
  const { moments, unread, at, frames } = useTurn((t) => t);
  const [ref, { width }] = useSize<HTMLDivElement>();
  const all = framesOf(plan);
  const x = scaleLinear([1, all + 1], [0, width]),
    y = scaleLinear([0, MOST], [HEIGHT - 4, BAND + 6]).clamp(true);
  const ratio = line<(typeof moments)[number]>()
    .defined((m) => m.stops !== undefined)
    .x((m) => x(m.frame))
    .y((m) => y(m.stops!));
  const clipped = area<{ frame: number; clipped: number }>()
    .x((f) => x(f.frame))
    .y0(HEIGHT)
    .y1((f) => HEIGHT - Math.min(1, f.clipped * 10) * 20)
    .curve(curveStep);
  const seek = (clientX: number, box: DOMRect) =>
    turn.setState({ at: Math.min(all, Math.max(1, Math.round(x.invert(clientX - box.left)))), playing: false });
  return (
    <div ref={ref} className="relative border-t hairline bg-base-100" style={{ height: HEIGHT }}>
      {unread ? (
        <p className="quiet px-3 py-2 text-2xs" role="status">
          The face is not read: {unread}.
        </p>
      ) : (
        <svg
          width={width}
          height={HEIGHT}
          role="img"
          aria-label={`Reading through the turn: ${runsOf(moments, all)
            .map((r) => r.name && patternName(r.name as never))
            .filter(Boolean)
            .join(', ')}`}
          data-testid="strip"
          data-moments={moments.length}
          className="block cursor-pointer"
          onClick={(e) => seek(e.clientX, e.currentTarget.getBoundingClientRect())}
        >
          <path d={clipped([...frames.values()].sort((a, b) => a.frame - b.frame)) ?? ''} className="fill-warning/60">
            <title>Share of the picture that is clipped; the strip is full at a tenth</title>
          </path>
          {runsOf(moments, all).map(({ from, to, name }) => (
            <g key={from}>
              <rect
                x={x(from)}
                width={Math.max(0, x(to) - x(from) - 1)}
                y={2}
                height={BAND - 2}
                className={name ? 'fill-base-300' : 'fill-base-200'}
              />
              {name && x(to) - x(from) > 44 && (
                <text x={x(from) + 4} y={14} className="fill-base-content text-2xs">
                  {patternName(name as never)}
                </text>
              )}
              <title>{name ? patternName(name as never) : 'no name for it'}</title>
            </g>
          ))}
          {[1, 3, 5].map((stops) => (
            <g key={stops}>
              <line x1={0} x2={width} y1={y(stops)} y2={y(stops)} className="stroke-base-content/15" />
              <text x={width - 4} y={y(stops) - 2} textAnchor="end" className="fill-base-content/70 text-[9px]">
                {2 ** stops} : 1
              </text>
            </g>
          ))}
          <path d={ratio(moments) ?? ''} className="fill-none stroke-base-content" strokeWidth={1.5} />
          <line
            x1={x(Math.min(at, all) + 0.5)}
            x2={x(Math.min(at, all) + 0.5)}
            y1={0}
            y2={HEIGHT}
            className="stroke-accent"
            strokeWidth={1.5}
          />
        </svg>
      )}
    </div>
  );
}
