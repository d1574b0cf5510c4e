// How much work goes into a picture, in words of our own, and what is asked of a frame.
import type { Setup } from '../setup/index.ts';

export interface Quality {
  /** The longer side, pixels. */
  side: number;
  samples: number;
  bounces: number;
}

/** From the first look to the picture that is shown. Samples and bounces: common practice, no source. */
export const QUALITIES = {
  glance: { side: 640, samples: 16, bounces: 2 },
  talk: { side: 1280, samples: 64, bounces: 3 },
  show: { side: 1920, samples: 256, bounces: 4 },
} as const satisfies Record<string, Quality>;
export type QualityName = keyof typeof QUALITIES;

/** What each is for. */
export const QUALITY_WORDS: Record<QualityName, string> = {
  glance: 'is the light where it should be',
  talk: 'calm enough for decisions',
  show: 'as it leaves the house',
};

/** Width and height of a setup's frame whose longer side has so many pixels. */
export function frameSize({ camera }: Pick<Setup, 'camera'>, side: number): { width: number; height: number } {
  const { aspect } = camera;
  return {
    width: Math.max(1, Math.round(aspect >= 1 ? side : side * aspect)),
    height: Math.max(1, Math.round(aspect >= 1 ? side / aspect : side)),
  };
}

/** Which frames of a shot are made. */
export const FRAME_CHOICES = ['one', 'three', 'all'] as const;
export type FrameChoice = (typeof FRAME_CHOICES)[number];

/** Frames of a shot: its first alone; first, middle and last; or all. */
export function chosenOf({ first, last }: { first: number; last: number }, choice: FrameChoice): number[] {
  if (choice === 'one') return [first];
  if (choice === 'three') return [...new Set([first, Math.floor((first + last) / 2), last])];
  return Array.from({ length: last - first + 1 }, (_, i) => first + i);
}

/**
 * A setup so many seconds later: the clips that its figures are posed by go on, round and round within their ranges.
 * @param duration of a character's clip, seconds; nothing where it has none of that name
 */
export function laterBy(setup: Setup, seconds: number, duration: (asset: string, clip: string) => number | undefined): Setup {
  if (seconds === 0) return setup;
  const items = { ...setup.subjects.items };
  for (const [id, subject] of Object.entries(items)) {
    const { pose } = subject;
    const whole = pose && duration(subject.asset, pose.clip);
    if (!pose || !whole) continue;
    const [from, to] = pose.range ?? [0, whole],
      length = Math.min(to, whole) - from;
    if (!(length > 0)) continue;
    const at = (((pose.time - from + seconds) % length) + length) % length;
    items[id] = { ...subject, pose: { ...pose, time: from + at } };
  }
  return { ...setup, subjects: { items } };
}
