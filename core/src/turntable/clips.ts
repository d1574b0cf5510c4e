// Clips that play while a figure turns: as often as the turn has room for, a little faster or slower, so that the movie goes round without a jump.
import { orderOf, type Setup, type Turntable } from '../setup/index.ts';
import type { CharacterAsset } from '../scene/index.ts';
import { framesOf } from './timing.ts';

/** How the clip of one figure fits a turn. */
export interface ClipFit {
  /** The figure, and what it and its clip are called. */
  subject: string;
  name: string;
  clip: string;
  /** The part of the clip that plays, seconds. */
  from: number;
  seconds: number;
  /** Whole times that it plays in one movie, and how fast: 1 is its own speed. */
  loops: number;
  speed: number;
  /** Frames of a turn at which it would play at its own speed. */
  frames: number;
}

/** Speeds at which a clip is taken for itself; common practice, no source. */
export const CLIP_SPEEDS = [0.8, 1.25] as const;

/** How the clips that figures are posed by fit a plan: whole loops over all of its frames, holds among them. */
export function clipFits(setup: Setup, plan: Turntable, source: (sha256: string) => CharacterAsset | undefined): ClipFit[] {
  const all = framesOf(plan),
    length = all / plan.fps,
    turns = plan.turning === 'figure then dome' ? 2 : 1;
  return orderOf(setup.subjects).flatMap((id): ClipFit[] => {
    const { pose, asset, name, visible } = setup.subjects.items[id]!;
    const clip = pose && source(asset)?.rig?.clips.find((c) => c.name === pose.clip);
    if (!pose || !clip || !visible) return [];
    const [from, to] = pose.range ?? [0, clip.duration],
      seconds = Math.min(to, clip.duration) - from;
    if (!(seconds > 0)) return [];
    const loops = Math.max(1, Math.round(length / seconds));
    const frames = Math.max(1, Math.round((loops * seconds * plan.fps - plan.before - plan.after) / turns));
    return [{ subject: id, name, clip: pose.clip, from, seconds, loops, speed: (loops * seconds) / length, frames }];
  });
}

/** The moment of a clip at a frame, seconds: the frame after the last is the first again. `at` is the moment at which it begins. */
export function clipTime({ from, seconds, loops }: ClipFit, at: number, all: number, frame: number): number {
  // whole loops are taken off before anything is multiplied: the same moment is the same number
  const steps = ((frame - 1) * loops) % all;
  const begun = (((at - from) % seconds) + seconds) % seconds;
  return from + ((begun + (seconds * steps) / all) % seconds);
}

/** A setup as its figures stand at a frame of a plan; lights and eyes stay where they are. */
export function posedAt(setup: Setup, plan: Turntable, fits: readonly ClipFit[], frame: number): Setup {
  if (!plan.plays || fits.length === 0) return setup;
  const items = { ...setup.subjects.items };
  for (const fit of fits) {
    const subject = items[fit.subject]!,
      pose = subject.pose!;
    items[fit.subject] = { ...subject, pose: { ...pose, time: clipTime(fit, pose.time, framesOf(plan), frame) } };
  }
  return { ...setup, subjects: { items } };
}
