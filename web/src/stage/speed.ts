// How many pixels the Stage traces while somebody works, and how many when all rests.
import { clamp } from '@plinket/core';

const KEY = 'plinket-speed';
/** Seconds that a sample of the whole picture may take. */
const SECONDS = 0.5;
/** Fewest and most pixels to begin with, and what is taken before anything was measured. */
const PIXELS = [160_000, 1_000_000] as const,
  UNKNOWN = 240_000;
/** Most pixels of the picture at rest: its films would not fit. */
const MOST = 2_200_000;
/** Share of a new measurement in what is remembered. */
const NEW = 0.4;

function measured(storage: Pick<Storage, 'getItem'>): number | undefined {
  try {
    const speed = Number(storage.getItem(KEY) ?? NaN);
    return speed > 0 && Number.isFinite(speed) ? speed : undefined;
  } catch {
    return undefined;
  }
}

/** Pixels that are traced while somebody works: what this browser does in half a second, a sample of every light. */
export function pixelBudget(storage: Pick<Storage, 'getItem'>): number {
  const speed = measured(storage);
  return speed === undefined ? UNKNOWN : Math.round(clamp(speed * SECONDS, PIXELS));
}

/** Remembers how fast this browser traces, pixels a second; a storage that takes nothing forgets it. */
export function keepSpeed(storage: Pick<Storage, 'getItem' | 'setItem'>, speed: number): void {
  if (!(speed > 0) || !Number.isFinite(speed)) return;
  const before = measured(storage) ?? speed;
  try {
    storage.setItem(KEY, String(Math.round(before + (speed - before) * NEW)));
  } catch {
    return;
  }
}

/** How many pixels of the screen a CSS pixel of the picture has, as far as memory allows. */
export function fullScale({ width, height }: { width: number; height: number }, ratio = globalThis.devicePixelRatio || 1): number {
  return Math.min(ratio, Math.sqrt(MOST / Math.max(1, width * height)));
}
