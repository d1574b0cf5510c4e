// A turntable: what turns, how fast, and about which axis. It belongs to its setup, and holds no lengths: it fits whatever stands there.
import { z } from 'zod';
import { LIMITS } from './limits.ts';
import { within } from './values.ts';

/** What can turn. “figure then dome”: first the figure once, then the dome once. */
export const TURNING = ['figure', 'camera', 'camera and lights', 'dome', 'figure then dome'] as const;
/** The vertical axis: through the middle of what stands there, through where the first figure is set down, or through the plinth under it. */
export const AXES = ['middle', 'foot', 'plinth'] as const;
/** Frames in a second. */
export const FRAME_RATES = [24, 25, 30] as const;

export const turntableSchema = z.strictObject({
  turning: z.enum(TURNING),
  axis: z.enum(AXES),
  /** Where the turn begins, degrees. */
  start: within(LIMITS.thingTurn),
  /** Which way, seen from above. */
  direction: z.enum(['left', 'right']),
  /** Of one whole turn. */
  frames: within(LIMITS.turnFrames).int(),
  fps: z.union(FRAME_RATES.map((f) => z.literal(f)) as [z.ZodLiteral<24>, z.ZodLiteral<25>, z.ZodLiteral<30>]),
  /** Frames that stand still before and after. */
  before: within(LIMITS.holdFrames).int(),
  after: within(LIMITS.holdFrames).int(),
  /** Of the frame, on each side, that stays free. */
  margin: within(LIMITS.safeMargin),
  /** Figures that are posed by a clip play it while they turn; without it, they stand still. */
  plays: z.boolean().optional(),
});
export type Turntable = z.infer<typeof turntableSchema>;

/** Common practice, no source: ten to twelve seconds a turn are looked at with ease. */
export const TURNTABLE_DEFAULTS: Turntable = {
  turning: 'figure',
  axis: 'middle',
  start: 0,
  direction: 'left',
  frames: 300,
  fps: 25,
  before: 0,
  after: 0,
  margin: 0.06,
};
