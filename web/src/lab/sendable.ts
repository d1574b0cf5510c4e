// What of a document can be sent to the Lab.
import { chosenOf, framesOf, inOrder, type Sequence, type Setup } from '@plinket/core';
import type { Sendable } from './SendJob.tsx';

export const stillOf = (id: string): Sendable => ({
  words: 'this picture',
  frames: () => 1,
  source: () => ({ kind: 'setups', setups: [id] }),
});

export const turnOf = (id: string, plan: NonNullable<Setup['turntable']>): Sendable => ({
  words: 'its turntable',
  frames: () => framesOf(plan),
  source: () => ({ kind: 'turn', setup: id }),
});

/** The character of a setup under kits, and those of others under the same. */
export const underKits = (id: string): Sendable => ({
  words: 'its character under kits',
  under: id,
  shots: true,
  frames: (_, { kits, setups }) => kits.length * (1 + setups.length),
  source: (_, { kits, setups }) => ({ kind: 'kits', setups: [id, ...setups], kits: [...kits] }),
});

/** A sequence, or some of its shots. */
export function sequenceOf(id: string, { shots, name }: Pick<Sequence, 'shots' | 'name'>, some?: readonly string[]): Sendable {
  const chosen = some?.length ? some.map((s) => shots.items[s]!) : inOrder(shots);
  return {
    words: some?.length ? `${some.length} chosen shots` : `all shots of “${name}”`,
    frames: (choice) => chosen.reduce((n, shot) => n + chosenOf(shot, choice).length, 0),
    source: (choice) => ({ kind: 'sequence', sequence: id, frames: choice, ...(some?.length ? { shots: [...some] } : {}) }),
    chooses: true,
    shots: chosen.length > 1,
  };
}
