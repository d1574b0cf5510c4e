// Where everything stands at a frame of a turn.
import { inOrder, type Setup, type Turntable } from '../setup/index.ts';
import type { Turned } from '../scene/index.ts';

/** Frames in all: holds, and one turn or two. */
export const framesOf = ({ before, after, frames, turning }: Turntable): number =>
  before + frames * (turning === 'figure then dome' ? 2 : 1) + after;

/**
 * How far everything has turned at a frame, counted from 1: θ(n) = 360° (n − 1) / N within a turn, so that the first frame never comes twice; holds
 * stand as the turn begins. The frame after the last is the first again.
 */
export function turnedAt(table: Turntable, axis: Turned['axis'], frame: number): Turned {
  const { before, after, frames, turning, start, direction } = table,
    all = framesOf(table);
  const within = ((((frame - 1) % all) + all) % all) - before;
  const turn = within < 0 || within >= all - before - after ? 0 : within;
  const way = direction === 'left' ? 1 : -1;
  // whole turns are taken off before the start is added: the same place is the same number
  const angle = (n: number): number => start + (way * 360 * (n % frames)) / frames;
  const still: Turned = { axis, figure: 0, camera: 0, lights: 0, dome: 0 };
  switch (turning) {
    case 'figure':
      return { ...still, figure: angle(turn) };
    case 'camera':
      return { ...still, camera: angle(turn) };
    case 'camera and lights':
      return { ...still, camera: angle(turn), lights: angle(turn), dome: angle(turn) };
    case 'dome':
      return { ...still, dome: angle(turn) };
    case 'figure then dome':
      return turn < frames ? { ...still, figure: angle(turn) } : { ...still, figure: start, dome: angle(turn) - start };
  }
}

/** Where the axis stands, x and z, and by how much the middle of the figures (their points, x y z) stands off it, metres. */
export function axisOf(setup: Setup, points: Float32Array, table: Turntable): { axis: [number, number]; off: number } {
  let [x0, x1, z0, z1] = [Infinity, -Infinity, Infinity, -Infinity];
  for (let i = 0; i < points.length; i += 3) {
    x0 = Math.min(x0, points[i]!);
    x1 = Math.max(x1, points[i]!);
    z0 = Math.min(z0, points[i + 2]!);
    z1 = Math.max(z1, points[i + 2]!);
  }
  const middle: [number, number] = points.length ? [(x0 + x1) / 2, (z0 + z1) / 2] : [0, 0];
  const first = inOrder(setup.subjects).find((s) => s.visible);
  const plinth = inOrder(setup.props).find((p) => p.visible && p.kind === 'plinth');
  const under = table.axis === 'plinth' ? (plinth ?? first) : table.axis === 'foot' ? first : undefined;
  const axis: [number, number] = under ? [under.position[0], under.position[2]] : middle;
  return { axis, off: Math.hypot(axis[0] - middle[0], axis[1] - middle[1]) };
}

/** So many frames, evenly over all of a plan, the first among them. */
export function framesRound(table: Turntable, count: number): number[] {
  const all = framesOf(table),
    some = Math.min(count, all);
  return Array.from({ length: some }, (_, i) => 1 + Math.floor((i * all) / some));
}

/** Most frames that a play-through keeps: of a longer turn some stand for their neighbours. */
const MOST_PLAYED = 1200;
/** Every so many-th frame is traced first. */
export const firstStep = (all: number): number => 8 * 2 ** Math.max(0, Math.ceil(Math.log2(all / MOST_PLAYED)));

/** Frames of a turn, every eighth first, then those between: a play-through can begin before all are there. */
export function coarseToFine(all: number): number[] {
  const out = new Set<number>();
  for (let step = firstStep(all); step >= 1; step /= 2) for (let n = 1; n <= all; n += step) out.add(n);
  return [...out].slice(0, MOST_PLAYED);
}

/** Number and name of a frame's file: `name.0001.png`. @param digits of the number, at least */
export const frameName = (name: string, frame: number, digits: number, extension: string): string =>
  `${name}.${String(frame).padStart(digits, '0')}.${extension}`;
