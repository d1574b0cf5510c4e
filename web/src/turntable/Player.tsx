import { framesOf } from '@plinket/core';
import { Pause, Play } from 'lucide-react';
import { useEffect, useRef } from 'react';
import { useSize } from '../parts/size.ts';
import { Strip } from './Strip.tsx';
import { secondsWords } from '../parts/amounts.ts';
import { angleAt, nearestFrame, useDoc, useRoom, useTurn } from './state.ts';
import { planOf } from './work.ts';

/** Plays by the clock: a machine that is slow leaves frames out instead of slowing the turn. */
function usePlaying(): void {
  const { turn, doc } = useRoom();
  const playing = useTurn((t) => t.playing);
  useEffect(() => {
    if (!playing) return;
    let from: { at: number; time: number } | undefined, handle: number;
    const step = (time: number) => {
      const plan = planOf(doc.getState().setup);
      from ??= { at: turn.getState().at, time };
      const at = 1 + ((from.at - 1 + Math.floor(((time - from.time) / 1000) * plan.fps)) % framesOf(plan));
      if (at !== turn.getState().at) turn.setState({ at });
      handle = requestAnimationFrame(step);
    };
    handle = requestAnimationFrame(step);
    return () => cancelAnimationFrame(handle);
  }, [playing, turn, doc]);
}

/** What lies over the picture: the safe frame, and what touches it. */
function SafeFrame() {
  const margin = useDoc((d) => planOf(d.setup).margin),
    touches = useTurn((t) => t.measure?.touches);
  return (
    <>
      <div
        className="pointer-events-none absolute border border-white/50"
        style={{ inset: `${margin * 100}%` }}
        data-testid="safe-frame"
        aria-hidden
      />
      {touches?.map(({ side, at: [u, v], out }) => (
        <span
          key={side}
          className={`pointer-events-none absolute size-2.5 -translate-1/2 rounded-full border ${out > 0.002 ? 'border-warning bg-warning' : 'border-white'}`}
          style={{ left: `${Math.min(1, Math.max(0, u)) * 100}%`, top: `${Math.min(1, Math.max(0, v)) * 100}%` }}
          aria-hidden
        />
      ))}
    </>
  );
}

/** The turn as it plays, with its frames and its strip below. */
export function Player() {
  const { turn } = useRoom();
  const plan = useDoc((d) => planOf(d.setup)),
    aspect = useDoc((d) => d.setup.camera.aspect);
  const { at, playing, frames, stills, work, tookFirst } = useTurn((t) => t);
  const [ref, room] = useSize<HTMLDivElement>();
  const canvas = useRef<HTMLCanvasElement>(null);
  usePlaying();
  const all = framesOf(plan),
    now = Math.min(at, all);
  // a still that was traced better is shown while it rests
  const frame = (!playing && stills.get(now)) || nearestFrame(frames, now, all);
  useEffect(() => {
    const target = canvas.current;
    if (!target || !frame) return;
    const { width, height, rgba } = frame;
    if (target.width !== width || target.height !== height) Object.assign(target, { width, height });
    target.getContext('2d')!.putImageData(new ImageData(new Uint8ClampedArray(rgba), width, height), 0, 0);
  }, [frame]);
  const height = Math.max(0, Math.floor(Math.min(room.height, room.width / aspect))),
    width = Math.floor(height * aspect);
  return (
    <section aria-label="The turn" className="flex min-h-0 min-w-0 flex-1 flex-col bg-[oklch(37%_0_0)]">
      <div ref={ref} className="m-3 grid min-h-0 flex-1 place-items-center overflow-hidden">
        <div className="relative bg-black" style={{ width, height }}>
          <canvas
            ref={canvas}
            className="block h-full w-full"
            aria-label="The turn, frame by frame"
            data-testid="turn"
            data-frame={frame?.frame}
          />
          <SafeFrame />
          {!frame && <p className="absolute inset-0 grid place-items-center text-white/70">tracing the first frames …</p>}
        </div>
      </div>
      <div className="flex items-center gap-3 bg-base-100 px-3 py-1.5">
        <button
          className="btn btn-sm w-20"
          aria-label={playing ? 'Hold' : 'Play'}
          disabled={frames.size === 0}
          onClick={() => turn.setState({ playing: !playing })}
        >
          {playing ? <Pause size={14} /> : <Play size={14} />} {playing ? 'Hold' : 'Play'}
        </button>
        <input
          type="range"
          className="range range-xs min-w-0 flex-1"
          aria-label="Frame"
          min={1}
          max={all}
          value={now}
          onPointerDown={() => turn.setState({ playing: false })}
          onChange={(e) => turn.setState({ at: Number(e.target.value), playing: false })}
        />
        <span className="w-44 text-right" data-testid="frame-words">
          {now} of {all} · {Math.round(angleAt(plan, now))}° · {plan.fps} a second
        </span>
      </div>
      <Strip />
      <p className="flex h-6 items-center gap-2 bg-base-100 px-3 text-2xs" role="status" data-testid="turn-work" data-traced={frames.size}>
        {work ? (
          <>
            {work.what}: {work.done} of {work.of}
            <progress className="progress w-40" value={work.done} max={work.of} aria-label={work.what} />
            <button className="btn btn-xs" onClick={work.stop}>
              Stop
            </button>
          </>
        ) : (
          `${frames.size} of ${all} frames traced, with few samples and without depth in skin: it shows motion and light, not the finish`
        )}
        {tookFirst !== undefined && <span className="quiet">played after {secondsWords(tookFirst)}</span>}
      </p>
    </section>
  );
}
