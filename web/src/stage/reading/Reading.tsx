import {
  hourOf,
  moveWords,
  named,
  nearMiss,
  orderOf,
  patternName,
  readingWords,
  reasonWords,
  type Reading as FaceReading,
} from '@plinket/core';
import { useDeferredValue, useState } from 'react';
import type { FaceReport } from '../../engine/messages.ts';
import { colourOf, letterOf } from '../../parts/identity.ts';
import { useDoc, useStage, useView } from '../context.ts';
import { ASKED } from '../landmarks/marking.ts';
import type { Box } from '../room.ts';
import { DirectionPaper } from './DirectionPaper.tsx';
import { FacePaper } from './FacePaper.tsx';
import { Findings, useOpenFindings } from './Findings.tsx';
import { Motion } from './Motion.tsx';
import { Targets } from './Targets.tsx';
import { Wishes } from './Wishes.tsx';

/** From this height and width on reasons and wishes have room. */
const TALL = 170,
  WIDE = 390;

/** Why nothing was read, and what helps. */
function NotRead({ why, subject }: Pick<FaceReport, 'why' | 'subject'>) {
  const { view } = useStage();
  if (why?.kind === 'landmarks')
    return (
      <div className="flex flex-col items-start gap-1 pt-1" role="status">
        <p>Not measured: landmarks are missing.</p>
        <p className="quiet">{why.missing.map((n) => ASKED[n].words).join('; ')}</p>
        <button className="btn btn-xs" onClick={() => view.setState({ marking: subject })}>
          Mark landmarks
        </button>
      </div>
    );
  return (
    <p className="quiet pt-1" role="status">
      {why?.kind === 'failed' ? `Not measured: ${why.message}` : why?.kind === 'looking' ? 'Looking at the face …' : 'No face is in sight.'}
    </p>
  );
}

/** Where a light's catchlights stand in both eyes, as on a clock. */
const clocks = (of: readonly { clock: number }[]): string => `${[...new Set(of.map((c) => hourOf(c.clock)))].join('–')} h`;

/** The figures that are always there. */
function Figures({ reading, nameOf }: { reading: FaceReading; nameOf: (id: string) => string }) {
  const { key, ratio, features, side, catchlights } = reading;
  const alone = named(reading.byKey),
    all = named(reading.byAll);
  const seen = catchlights.filter((c) => c.seen);
  return (
    <>
      <p className="truncate font-semibold" data-testid="pattern">
        {!key ? 'No light on the face' : alone ? patternName(alone.pattern) : 'No name for it'}
      </p>
      {key && (
        <p className="quiet truncate">
          by {nameOf(key.id)}
          {all?.pattern !== alone?.pattern && ` · all: ${all ? patternName(all.pattern).toLowerCase() : 'none'}`}
          {side && ` · ${side}`}
        </p>
      )}
      {ratio && (
        <p className="truncate tabular-nums">
          <span data-testid="ratio">{ratio.value < 20 ? ratio.value.toFixed(1) : '> 20'} : 1</span>
          <span className="quiet"> · {ratio.value < 20 ? `${ratio.stops.toFixed(1)} st` : 'unlit side'}</span>
        </p>
      )}
      {features && <p className="truncate tabular-nums">{Math.round(features.lit * 100)} % lit</p>}
      {key && (
        <p className="quiet truncate" data-testid="catchlights">
          {seen.length
            ? [...new Set(seen.map((c) => c.light))].map((id) => `${nameOf(id)} ${clocks(seen.filter((c) => c.light === id))}`).join(' · ')
            : 'no catchlight'}
        </p>
      )}
    </>
  );
}

/** Why it is this pattern, and what is nearest; places are pointed at on the face. */
function Reasons(props: {
  reading: FaceReading;
  nearest: FaceReport['nearest'];
  nameOf: (id: string) => string;
  point: (cells: readonly number[] | undefined) => void;
}) {
  const { reading, nearest, nameOf, point } = props;
  const best = named(reading.byKey),
    miss = nearMiss(reading.byKey);
  return (
    <ul className="min-h-0 flex-1 overflow-y-auto pt-1" tabIndex={0} aria-label="Reasons" data-testid="reasons">
      {best?.reasons.map((r) => (
        <li
          key={r.claim}
          className={`leading-snug ${r.cells ? 'hover:text-primary' : ''}`}
          onMouseEnter={() => point(r.cells)}
          onMouseLeave={() => point(undefined)}
        >
          <span aria-hidden>{r.holds ? '✓' : '–'} </span>
          {reasonWords(r)}
        </li>
      ))}
      {miss && (
        <li className="quiet leading-snug">
          nearest: {patternName(miss.pattern).toLowerCase()}; {reasonWords(miss.lacks)}
          {nearest?.pattern === miss.pattern && reading.key && `; ${moveWords(nameOf(reading.key.id), reading.key, nearest)}`}
        </li>
      )}
    </ul>
  );
}

/** Room that headings take, pixels. */
const HEAD = 30;

const PAGES = ['face', 'directions', 'wishes', 'targets', 'findings', 'motion'] as const;
type Page = (typeof PAGES)[number];

/**
 * What the face meter reads: the face unrolled, pattern, ratio, catchlights; with room also why, all directions, and what may be wished.
 * `top` pixels belong to others.
 */
export function Reading({ width, height, top = 0 }: Box & { top?: number }) {
  // a hand and its picture go first
  const report = useDeferredValue(useView((v) => v.reading));
  const lights = useDoc((d) => d.setup.lights);
  const [marked, setMarked] = useState<readonly number[]>();
  const { view } = useStage();
  const [page, setPage] = useState<Page>('face');
  const open = useOpenFindings();
  const order = orderOf(lights);
  const nameOf = (id: string): string => (order.includes(id) ? letterOf(order.indexOf(id)) : '?');
  const reading = report?.reading;
  const tall = height > TALL && width > WIDE,
    inside = height - HEAD - top;
  /** A reason is outlined on the face's paper and in the picture itself. */
  const point = (cells: readonly number[] | undefined) => {
    setMarked(cells);
    view.setState({ pointed: cells });
  };
  const tab = (name: Page, label: string) => (
    <button
      key={name}
      className={`${page === name ? 'text-base-content' : 'quiet'}`}
      aria-pressed={page === name}
      onClick={() => setPage(name)}
    >
      {label}
    </button>
  );
  return (
    <section
      aria-label="Reading"
      className="relative overflow-hidden bg-base-100 px-3 pt-1.5 pb-1 text-xs"
      style={{ width, height, ...(top ? { paddingTop: top } : {}) }}
      data-testid="reading"
    >
      <div className={tall ? 'flex gap-2.5 text-2xs' : 'flex gap-3'}>
        <h2 className={tall ? 'sr-only' : 'caps quiet'}>reading</h2>
        {tall && <>{PAGES.map((name) => tab(name, name === 'findings' && open.length ? `findings ${open.length}` : name))}</>}
        {reading && !report.exact && <span title="Looked up; made exact when the hand rests">≈</span>}
      </div>
      {!report || !reading ? (
        <NotRead {...(report ?? { why: { kind: 'looking' } })} />
      ) : (
        <>
          <div className="flex gap-2.5 pt-1" style={{ height: inside }}>
            {tall && page === 'directions' ? (
              <DirectionPaper width={width - 24} height={inside - 6} />
            ) : tall && page === 'wishes' ? (
              <Wishes />
            ) : tall && page === 'targets' ? (
              <Targets />
            ) : tall && page === 'motion' ? (
              <Motion width={width - 24} height={inside - 6} nameOf={nameOf} />
            ) : tall && page === 'findings' ? (
              <Findings nameOf={nameOf} />
            ) : (
              <>
                <div style={{ height: inside - 4 }}>
                  <FacePaper report={report} colour={colourOf(reading.key ? order.indexOf(reading.key.id) : 0)} marked={marked} />
                </div>
                <div className="flex min-w-0 flex-1 flex-col leading-[1.32]">
                  <Figures reading={reading} nameOf={nameOf} />
                  {tall && <Reasons reading={reading} nearest={report.nearest} nameOf={nameOf} point={point} />}
                </div>
              </>
            )}
          </div>
        </>
      )}
      {reading && (
        <p className="sr-only" data-testid="reading-words">
          {readingWords(reading, nameOf).join(' ')}
        </p>
      )}
    </section>
  );
}
