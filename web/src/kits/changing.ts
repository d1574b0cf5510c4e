import type { KitRecord } from '@plinket/contract';
import { applyPatch, type Patch } from '@plinket/core';
import { useQueryClient } from '@tanstack/react-query';
import { toast } from 'sonner';
import { api, ApiProblem } from '../api/client.ts';
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

/** Changes what is said of a kit, at once on the screen; what was not kept is said, taken back, and can be tried again. */
export function useChangingKit() {
  const queries = useQueryClient();
  const changing = (record: KitRecord, patch: Patch): void => {
    const {
      id,
      document: { name },
    } = record;
    const key = [...KITS, id];
    queries.setQueryData<KitRecord>(key, (k) => k && { ...k, document: applyPatch(k.document, patch) });
    changeKit(record, patch)
      .then(() => queries.invalidateQueries({ queryKey: KITS }))
      .catch((error: Error) => {
        toast.error(`${name} was not changed: ${error.message}`, {
          duration: 60_000,
          action: { label: 'Try again', onClick: () => void api.kit(id).then((kit) => changing(kit, patch)) },
        });
        return queries.invalidateQueries({ queryKey: key });
      });
  };
  return changing;
}
