import type { ClipFit, FrameSide, Pattern, Setup, Touch, Turntable } from '@plinket/core';
import type { EngineUrls } from './messages.ts';

/** How frames are traced: with few samples, or light that stays where it falls, to be there soon. */
export interface TurnQuality {
  width: number;
  height: number;
  samples: number;
  /** Light does not go into skin. */
  shallow: boolean;
}

/** What is traced: frames of a plan, in the order in which they are told. */
export interface TurnAsk {
  setup: Setup;
  plan: Turntable;
  frames: readonly number[];
  quality: TurnQuality;
}

/** What the page asks of the turntable's worker; a number says which question an answer belongs to. */
export type ToTurn =
  | { type: 'open'; urls: EngineUrls }
  | ({ type: 'frames'; number: number } & TurnAsk)
  /** The figure's sweep, against the safe frame. */
  | { type: 'measure'; number: number; setup: Setup; plan: Turntable }
  /** The face at so many angles, evenly round. */
  | { type: 'read'; number: number; setup: Setup; plan: Turntable; angles: number }
  | { type: 'stop'; number: number };

/** A frame as it is seen. */
export interface TurnFrame {
  frame: number;
  width: number;
  height: number;
  rgba: ArrayBuffer;
  /** Share of the picture with a channel at or above 1. */
  clipped: number;
}

/** What a turn sweeps. */
export interface TurnMeasure {
  /** By how much the figure's middle stands off the axis, metres; nothing where no figure is in sight. */
  off: number | undefined;
  /** The farthest point on each side; `out` is how far it is outside of the safe frame, in heights of the frame, negative within. */
  touches: (Pick<Touch, 'at'> & { side: FrameSide; out: number })[];
  /** The camera on its line as near, and the lens as long, as the safe frame allows; nothing where there is none. */
  position?: [number, number, number];
  focal?: number;
  /** Clips that play while it turns; `jump` is how far a figure's farthest point jumps where its clip begins anew, metres. */
  clips: (ClipFit & { jump: number })[];
}

/** The face at an angle of the turn; nothing is said of one that looks away. */
export interface TurnMoment {
  frame: number;
  pattern?: Pattern;
  /** Lit to shadow side, stops. */
  stops?: number;
}

export type FromTurn =
  | { type: 'frame'; number: number; frame: TurnFrame }
  | { type: 'measured'; number: number; measure: TurnMeasure }
  | { type: 'moments'; number: number; moments: TurnMoment[] }
  | { type: 'done'; number: number }
  | { type: 'failed'; number: number; message: string };
