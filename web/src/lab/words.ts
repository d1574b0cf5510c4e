// Jobs and frames in words.
import type { Job, JobFrame } from '@plinket/contract';
import { versionWord } from '@plinket/core';
import { secondsWords } from '../parts/amounts.ts';

export const jobTitle = ({ name, version }: Pick<Job, 'name' | 'version'>): string => `${name} ${versionWord(version)}`;

const counted = (n: number, what: string): string => `${n} ${what}${n === 1 ? '' : 's'}`;

/** How a job stands: “12 of 40 frames, about 8 min left”. */
export function jobWords({ state, frames, msLeft, coreSeconds }: Job): string {
  const done = frames.all === 1 ? 'one frame' : `${frames.done} of ${frames.all} frames`;
  switch (state) {
    case 'waiting':
      return `${counted(frames.all, 'frame')}, waits for a node`;
    case 'running':
      return `${done}${msLeft === undefined ? '' : `, about ${secondsWords(Math.max(1, msLeft / 1000))} left`}`;
    case 'paused':
      return `paused, ${done} done`;
    case 'done':
      return `${counted(frames.done, 'frame')} done, ${secondsWords(coreSeconds)} of one core`;
    case 'unfinished':
      return `${counted(frames.dead, 'frame')} could not be rendered, ${frames.done} done`;
    case 'cancelled':
      return `cancelled, ${frames.done} of ${frames.all} done`;
  }
}

export const FRAME_WORDS: Record<JobFrame['state'], string> = {
  waiting: 'waits',
  running: 'renders',
  done: 'done',
  dead: 'dead',
  cancelled: 'cancelled',
};

/** How a frame stands. */
export function frameWords({ state, progress, seconds, node, attempts }: JobFrame): string {
  if (state === 'running') return `${Math.round(progress * 100)} %${node ? ` by ${node}` : ''}`;
  if (state === 'done') return secondsWords(seconds);
  if (state === 'waiting' && attempts > 0) return `waits for try ${attempts + 1}`;
  return FRAME_WORDS[state];
}
