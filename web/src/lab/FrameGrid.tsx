// The frames of a job as a contact sheet; only those in sight are there.
import type { JobFrame } from '@plinket/contract';
import { useVirtualizer } from '@tanstack/react-virtual';
import { useRef, type CSSProperties } from 'react';
import { useSize } from '../parts/size.ts';
import { frameWords } from './words.ts';

/** A frame's least width, the room between two, and what stands below its picture, px. */
const CELL = 148,
  GAP = { x: 14, y: 10 },
  BELOW = 34;

function Cell({ frame, at, chosen, choose }: { frame: JobFrame; at: CSSProperties; chosen: boolean; choose(): void }) {
  return (
    <li style={at}>
      <button
        className={`block w-full rounded-sm text-left ${chosen ? 'outline-2 outline-offset-2 outline-accent' : ''}`}
        aria-pressed={chosen}
        data-testid="frame"
        data-state={frame.state}
        onClick={choose}
      >
        <span className="relative grid aspect-video w-full place-items-center overflow-hidden bg-neutral">
          {frame.picture ? (
            <img src={`/api/blobs/${frame.picture}`} alt="" loading="lazy" className="h-full w-full object-contain" />
          ) : (
            <span className="text-2xs text-neutral-content">
              {frame.state === 'running' ? `${Math.round(frame.progress * 100)} %` : '·'}
            </span>
          )}
          {frame.state === 'running' && (
            <span className="absolute bottom-0 left-0 h-0.5 bg-base-content" style={{ width: `${frame.progress * 100}%` }} />
          )}
        </span>
        <span className="mt-1 flex gap-2 text-2xs">
          <b className="min-w-0 flex-1 truncate">{frame.label}</b>
          <span className="quiet">{frame.frame}</span>
        </span>
        <span className={`block truncate text-2xs ${frame.state === 'dead' ? 'text-warning' : 'quiet'}`}>{frameWords(frame)}</span>
      </button>
    </li>
  );
}

export function FrameGrid({
  frames,
  chosen,
  choose,
}: {
  frames: readonly JobFrame[];
  chosen: number | undefined;
  choose(n: number): void;
}) {
  'use no memo'; // the virtualizer is one object that changes within
  const scroller = useRef<HTMLDivElement>(null);
  const [ref, { width }] = useSize<HTMLUListElement>({ width: 880, height: 0 });
  const columns = Math.max(1, Math.floor((width + GAP.x) / (CELL + GAP.x))),
    wide = (width - GAP.x * (columns - 1)) / columns,
    row = Math.round((wide * 9) / 16 + BELOW + 4 + GAP.y);
  const rows = useVirtualizer({
    count: Math.ceil(frames.length / columns),
    getScrollElement: () => scroller.current,
    estimateSize: () => row,
    getItemKey: (index) => `${index} ${row}`,
    overscan: 3,
  });
  return (
    <div ref={scroller} className="min-h-0 min-w-0 flex-1 overflow-y-auto px-6 py-4" tabIndex={0}>
      <ul ref={ref} className="relative" style={{ height: rows.getTotalSize() }} aria-label="Frames">
        {rows
          .getVirtualItems()
          .flatMap(({ index, start }) =>
            frames
              .slice(index * columns, (index + 1) * columns)
              .map((frame, i) => (
                <Cell
                  key={frame.n}
                  frame={frame}
                  chosen={frame.n === chosen}
                  choose={() => choose(frame.n)}
                  at={{ position: 'absolute', top: start, left: i * (wide + GAP.x), width: wide }}
                />
              )),
          )}
      </ul>
    </div>
  );
}
