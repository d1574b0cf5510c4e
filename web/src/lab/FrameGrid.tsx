// The frames of a job as a contact sheet; only those in sight are there.
import type { JobFrame } from '@plinket/contract';
import type { CSSProperties } from 'react';
import { CardGrid } from '../parts/CardGrid.tsx';
import { frameWords } from './words.ts';

/** Room that a frame takes, px. */
const CELL = { least: 148, gap: { x: 14, y: 10 }, below: 38 };

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

export const FrameGrid = ({
  frames,
  chosen,
  choose,
}: {
  frames: readonly JobFrame[];
  chosen: number | undefined;
  choose(n: number): void;
}) => (
  <CardGrid
    items={frames}
    size={CELL}
    label="Frames"
    className="px-6 py-4"
    card={(frame, at) => <Cell key={frame.n} frame={frame} at={at} chosen={frame.n === chosen} choose={() => choose(frame.n)} />}
  />
);
