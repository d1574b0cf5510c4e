import type { KitRecord } from '@plinket/contract';
import { applyPatch, type Patch } from '@plinket/core';
import { api, ApiProblem } from '../api/client.ts';
import { useSaying } from '../parts/saying.ts';
import { KITS } from './words.ts';

/** How often a change is made anew for a kit that others change meanwhile. */
const TRIES = 5;

/** Changes a kit that others may change meanwhile: what they changed stands. It is sent at once, so that it outlives a page that is left. */
export async function changeKit({ id, revision }: Pick<KitRecord, 'id' | 'revision'>, patch: Patch): Promise<KitRecord> {
  for (let attempt = 1, known = revision; ; attempt++)
    try {
      return await api.patchKit(id, known, patch);
    } catch (error) {
      if (!(error instanceof ApiProblem && error.problem.status === 412) || attempt === TRIES) throw error;
      known = (await api.kit(id)).revision;
    }
}

/** Changes what is said of a kit. */
export function useChangingKit() {
  const say = useSaying();
  return (record: KitRecord, patch: Patch): void =>
    say<KitRecord>({
      name: record.document.name,
      key: [...KITS, record.id],
      lists: KITS,
      after: (now) => ({ ...now, document: applyPatch(now.document, patch) }),
      send: () => changeKit(record, patch),
    });
}
