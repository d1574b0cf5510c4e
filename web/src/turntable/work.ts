// What the page has its engine do, and keeps of it.
import { coarseToFine, firstStep, framesOf, framesRound, picturedOf, TURNTABLE_DEFAULTS, type Setup, type Turntable } from '@plinket/core';
import { useEffect, useRef } from 'react';
import type { TurnWork } from '../engine/turn-bridge.ts';
import type { TurnFrame } from '../engine/turn-messages.ts';
import { sizeFor, useDoc, useRoom, type Room } from './state.ts';

/** Pixels and samples of the play-through, and of the eight angles. */
const PLAY = { pixels: 11_000, samples: 2, shallow: true },
  STILL = { pixels: 60_000, samples: 16, shallow: false };
/** Angles that are looked at before anything long, and at which the face is read. */
export const EIGHT = 8;
const READ = 72;
/** A plan that is being changed is waited for, ms. */
const REST_MS = 500;
/** Frames that come together are shown together, ms. */
const SHOW_MS = 100;

export const planOf = (setup: Setup): Turntable => setup.turntable ?? TURNTABLE_DEFAULTS;

/** What of a plan its frames are made of: how fast they are shown, unless a clip plays by it, and what stays free around them, costs no ray. */
const turnOf = ({ fps, margin: _, ...turn }: Turntable): object => (turn.plays ? { ...turn, fps } : turn);

/** Has frames traced and shows how far that is; ends without an error when it is stopped. */
export async function traced(
  { engine, turn }: Room,
  what: string,
  setup: Setup,
  frames: readonly number[],
  quality: { pixels?: number; width?: number; height?: number; samples: number; shallow: boolean },
  told: (frame: TurnFrame) => void,
): Promise<boolean> {
  turn.getState().work?.stop();
  let done = 0,
    stopped = false;
  const began = performance.now();
  const { width, height } = quality.pixels ? sizeFor(setup, quality.pixels) : { width: quality.width!, height: quality.height! };
  const { samples, shallow } = quality;
  const ask = { setup, plan: planOf(setup), frames, quality: { width, height, samples, shallow } };
  const work: TurnWork = engine.frames(ask, (frame) => {
    done++;
    told(frame);
    turn.setState((t) => (t.work?.stop === stop ? { work: { ...t.work, done } } : {}));
  });
  const stop = () => {
    stopped = true;
    work.stop();
  };
  turn.setState({ work: { what, done, of: frames.length, stop }, failed: undefined });
  try {
    await work.done;
    if (!stopped && !shallow) turn.setState({ perSample: (performance.now() - began) / (frames.length * width * height * samples) });
  } catch (error) {
    turn.setState({ failed: (error as Error).message });
    return false;
  } finally {
    turn.setState((t) => (t.work?.stop === stop ? { work: undefined } : {}));
  }
  return !stopped;
}

/** Keeps frames as they come, and shows several at once. */
function gathering(
  had: ReadonlyMap<number, TurnFrame>,
  show: (some: ReadonlyMap<number, TurnFrame>) => void,
): { add(frame: TurnFrame): void; flush(): void; end(): void } {
  const all = new Map(had);
  let timer: ReturnType<typeof setTimeout> | undefined;
  const flush = () => {
    clearTimeout(timer);
    timer = undefined;
    show(new Map(all));
  };
  return {
    add(frame) {
      all.set(frame.frame, frame);
      timer ??= setTimeout(flush, SHOW_MS);
    },
    flush,
    end: () => clearTimeout(timer),
  };
}

/** The play-through: few samples, every eighth frame first, so that it plays soon; or what is missing of it, after something else was traced. */
export async function playThrough(room: Room, anew = true): Promise<void> {
  const { turn, doc } = room,
    { setup } = doc.getState();
  const all = framesOf(planOf(setup)),
    first = Math.ceil(all / firstStep(all)),
    began = performance.now();
  if (anew) turn.setState({ frames: new Map(), tookFirst: undefined });
  const { frames: had } = turn.getState(),
    wanted = coarseToFine(all).filter((n) => !had.has(n));
  if (!wanted.length) return;
  const kept = gathering(had, (frames) => turn.setState({ frames }));
  let count = 0;
  await traced(room, 'play-through', setup, wanted, PLAY, (frame) => {
    kept.add(frame);
    if (anew && ++count === first) {
      kept.flush();
      turn.setState({ tookFirst: (performance.now() - began) / 1000 });
    }
  });
  // who took its place may show another camera: nothing of this one must come after
  if (turn.getState().work) kept.end();
  else kept.flush();
}

/** Eight angles in the light as it is. */
export async function eightAngles(room: Room): Promise<void> {
  const { turn, doc } = room,
    { setup } = doc.getState();
  turn.setState({ stills: new Map() });
  const whole = await traced(room, 'eight angles', setup, framesRound(planOf(setup), EIGHT), STILL, (frame) =>
    turn.setState((t) => ({ stills: new Map(t.stills).set(frame.frame, frame) })),
  );
  if (whole) void playThrough(room, false);
}

/** Begins work once what it is made of (a key) has rested, and ends what of it still goes on when that changes. */
function useRested(key: string, begin: (room: Room) => TurnWork[]): void {
  const room = useRoom();
  const latest = useRef(begin);
  latest.current = begin;
  useEffect(() => {
    let begun: TurnWork[] = [];
    const timer = setTimeout(() => (begun = latest.current(room)), REST_MS);
    return () => {
      clearTimeout(timer);
      for (const work of begun) work.stop();
    };
  }, [room, key]);
}

/** Measures the sweep, reads the face round the turn and begins the play-through, each whenever what it is made of has changed and rests. */
export function useTurning(): void {
  const pictured = useDoc((d) => JSON.stringify(picturedOf(d.setup))),
    plan = useDoc((d) => planOf(d.setup));
  useRested(`${pictured} ${JSON.stringify(plan)}`, ({ engine, turn, doc }) => {
    const { setup } = doc.getState();
    const measuring = engine.measure(setup, planOf(setup), (measure) => turn.setState({ measure }));
    measuring.done.catch((error: Error) => turn.setState({ failed: error.message }));
    return [measuring];
  });
  useRested(`${pictured} ${JSON.stringify(turnOf(plan))}`, (room) => {
    const { engine, turn, doc } = room,
      { setup } = doc.getState();
    // a movie goes on with the setup as it was when it was begun
    const making = turn.getState().work?.what === 'movie';
    if (!making) turn.getState().work?.stop();
    turn.setState({ frames: new Map(), stills: new Map(), moments: [], unread: undefined });
    if (!making) void playThrough(room);
    const reading = engine.read(setup, planOf(setup), READ, (moments) => turn.setState({ moments }));
    reading.done.catch((error: Error) => turn.setState({ unread: error.message }));
    return [reading];
  });
}
