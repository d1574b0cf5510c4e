// A value along the shots of a sequence: what each has, and changing several of them as one step that can be taken back.
import type { Along } from '@plinket/contract';
import { numberPatch, type AlongValue, type Patch } from '@plinket/core';

export type Dot = Along['shots'][number];

/** What shots are to have, by their ids. */
export type Wanted = ReadonlyMap<string, number>;

/** What changing shots needs from outside; tests give their own. */
export interface AlongPorts {
  /** @returns the revision that it made @throws where the shot was changed meanwhile, or the server does not answer */
  patch(shot: string, revision: number, patch: Patch): Promise<number>;
  /** The shot's revision now. */
  revision(shot: string): Promise<number>;
  /** Whether an error says only that the shot was changed meanwhile. */
  stale(error: unknown): boolean;
}

/** A shot that is changed at the same moment by others is tried so often. */
const TIMES = 4;

/** One shot's new value, over whatever else was changed in it meanwhile. */
async function put({ path }: Pick<AlongValue, 'path'>, dot: Dot, value: number, ports: AlongPorts): Promise<Dot> {
  for (let revision = dot.revision, times = 1; ; times++)
    try {
      return { id: dot.id, value, revision: await ports.patch(dot.id, revision, numberPatch(path, value)) };
    } catch (error) {
      if (times === TIMES || !ports.stale(error)) throw error;
      revision = await ports.revision(dot.id);
    }
}

/**
 * Gives shots other values, one after the other; what cannot be changed stays.
 * @returns the dots as they are then, and the ids of those that stayed with the reason
 */
export async function putAll(
  value: Pick<AlongValue, 'path'>,
  dots: readonly Dot[],
  wanted: Wanted,
  ports: AlongPorts,
): Promise<{ dots: Dot[]; stayed: Map<string, string> }> {
  const stayed = new Map<string, string>(),
    now: Dot[] = [];
  for (const dot of dots) {
    const to = wanted.get(dot.id);
    if (to === undefined || to === dot.value || dot.value === undefined) now.push(dot);
    else
      now.push(
        await put(value, dot, to, ports).catch((error: Error) => {
          stayed.set(dot.id, error.message);
          return dot;
        }),
      );
  }
  return { dots: now, stayed };
}

/** What takes shots back to what they have now. */
export const before = (dots: readonly Dot[], wanted: Wanted): Wanted =>
  new Map(dots.flatMap(({ id, value }) => (wanted.has(id) && value !== undefined ? [[id, value] as const] : [])));

/** The least and the greatest that the chart shows: all dots with room above and below, and never less than a few steps. */
export function extent({ step, least, most }: Pick<AlongValue, 'step' | 'least' | 'most'>, values: readonly number[]): [number, number] {
  if (values.length === 0) return [least, most];
  const [low, high] = [Math.min(...values), Math.max(...values)],
    room = Math.max((high - low) * 0.25, step * 10);
  return [Math.max(least, low - room), Math.min(most, high + room)];
}
