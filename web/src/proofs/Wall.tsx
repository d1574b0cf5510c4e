// The proofs that are on the wall, side by side or over each other.
import type { Proof } from '@plinket/contract';
import { useEffect, useState } from 'react';
import { useSize } from '../parts/size.ts';
import { WipeLine } from '../parts/WipeLine.tsx';
import { Difference } from './Difference.tsx';
import { Cropped, Pane } from './Pane.tsx';
import { Shares } from './Shares.tsx';
import { columnsFor } from './wall.ts';
import { useWall, useWallState } from './context.ts';

/** Room between pictures, and height of the words below one, px. */
const GAP = 10,
  CAPTION = 20;
/** How long each is seen while they take turns, ms. */
const TURN_MS = 800;

/** The number of the proof whose turn it is; `still` stops it. */
function useTurns(count: number, still: boolean): [number, (to: number) => void] {
  const [turn, setTurn] = useState(0);
  useEffect(() => {
    if (still || count < 2) return;
    const timer = setInterval(() => setTurn((t) => (t + 1) % count), TURN_MS);
    return () => clearInterval(timer);
  }, [count, still]);
  return [turn % Math.max(1, count), setTurn];
}

interface Sizes {
  width: number;
  height: number;
}

function Blink({ proofs, onPin, ...size }: WallProps & Sizes) {
  const [still, setStill] = useState(() => matchMedia('(prefers-reduced-motion: reduce)').matches);
  const [turn, setTurn] = useTurns(proofs.length, still);
  const proof = proofs[turn]!;
  return (
    <div className="flex flex-col gap-1">
      <Pane proof={proof} number={turn + 1} {...size} onPin={(at) => onPin(proof, at)}>
        {/* all are there, so that a turn shows no gap */}
        {proofs.map((p, i) => (
          <Cropped key={p.id} picture={p.picture} name={p.name} style={{ visibility: i === turn ? 'visible' : 'hidden' }} />
        ))}
      </Pane>
      <div className="flex items-center gap-1">
        <button className="btn btn-xs" onClick={() => setStill(!still)}>
          {still ? 'Go on' : 'Hold'}
        </button>
        {proofs.map((p, i) => (
          <button
            key={p.id}
            className={`btn btn-xs btn-square ${i === turn ? 'btn-primary' : ''}`}
            aria-label={`Show ${p.name}`}
            aria-pressed={i === turn}
            onClick={() => {
              setStill(true);
              setTurn(i);
            }}
          >
            {i + 1}
          </button>
        ))}
      </div>
    </div>
  );
}

/** The first proof left of a line, another right of it. */
function Wipe({ first, other, number, onPin, ...size }: { first: Proof; other: Proof; number: number } & Pick<WallProps, 'onPin'> & Sizes) {
  const wall = useWall();
  const line = useWallState((w) => w.line);
  const onAt = (at: number) => wall.setState({ line: at });
  return (
    <Pane proof={other} number={number} {...size} onPin={(at) => onPin(other, at)}>
      <Cropped picture={other.picture} name={other.name} />
      <div className="absolute inset-0" style={{ clipPath: `inset(0 ${(1 - line) * 100}% 0 0)` }}>
        <Cropped picture={first.picture} name={first.name} />
      </div>
      <WipeLine at={line} onAt={onAt} label="Line between the first and the other" />
      <div
        className="absolute inset-y-0 w-6 -translate-x-1/2 cursor-ew-resize touch-none"
        style={{ left: `${line * 100}%` }}
        data-testid="wipe-line"
        onPointerDown={(e) => {
          e.stopPropagation();
          e.currentTarget.setPointerCapture(e.pointerId);
        }}
        onPointerMove={(e) => {
          if (!e.currentTarget.hasPointerCapture(e.pointerId)) return;
          const box = e.currentTarget.parentElement!.getBoundingClientRect();
          onAt(Math.min(1, Math.max(0, (e.clientX - box.left) / box.width)));
        }}
      />
      <span className="absolute bottom-1 left-1 rounded-sm bg-black/60 px-1 text-2xs text-white">1 {first.name}</span>
      <span className="absolute right-1 bottom-1 rounded-sm bg-black/60 px-1 text-2xs text-white">
        {number} {other.name}
      </span>
    </Pane>
  );
}

export interface WallProps {
  proofs: readonly Proof[];
  onPin(proof: Proof, at: [number, number]): void;
}

export function Wall({ proofs, onPin }: WallProps) {
  const [ref, room] = useSize<HTMLDivElement>();
  const { looking, inHand } = useWallState((w) => w);
  const shape = Math.max(...proofs.map((p) => p.width / p.height));
  const side = looking === 'side' || proofs.length < 2;
  const columns = side ? columnsFor(proofs.length, shape, room.width, room.height) : 1,
    rows = side ? Math.ceil(proofs.length / columns) : 1;
  const buttons = looking === 'blink' ? 28 : looking === 'difference' ? 24 : 0;
  // all frames have one shape, so that one crop means one part of every picture
  const height = Math.max(
    40,
    Math.min((room.height - GAP * (rows - 1)) / rows - CAPTION - buttons, (room.width - GAP * (columns - 1)) / columns / shape),
  );
  const sizeOf = (p: Proof) => ({ width: height * (p.width / p.height), height });
  const other = proofs.find((p, i) => i > 0 && p.id === inHand) ?? proofs[1],
    number = proofs.indexOf(other!) + 1;
  if (looking === 'shares') return <Shares proofs={proofs} />;
  return (
    <div ref={ref} className="grid min-h-0 min-w-0 flex-1 place-content-center overflow-hidden bg-[oklch(37%_0_0)]" data-testid="wall">
      {room.width > 0 &&
        (side ? (
          <div
            className="grid justify-items-center"
            style={{ gridTemplateColumns: `repeat(${columns}, ${height * shape}px)`, gap: GAP, rowGap: GAP }}
          >
            {proofs.map((p, i) => (
              <Pane key={p.id} proof={p} number={i + 1} {...sizeOf(p)} onPin={(at) => onPin(p, at)}>
                <Cropped picture={p.picture} name={p.name} />
              </Pane>
            ))}
          </div>
        ) : looking === 'wipe' ? (
          <Wipe first={proofs[0]!} other={other!} number={number} {...sizeOf(other!)} onPin={onPin} />
        ) : looking === 'blink' ? (
          <Blink proofs={proofs} {...sizeOf(proofs[0]!)} onPin={onPin} />
        ) : (
          <Difference first={proofs[0]!} other={other!} number={number} {...sizeOf(other!)} onPin={onPin} />
        ))}
    </div>
  );
}
