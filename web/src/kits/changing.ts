import type { KitRecord } from '@plinket/contract';
import { applyPatch, type Patch } from '@plinket/core';
import { useQueryClient } from '@tanstack/react-query';
import { toast } from 'sonner';
import { api, ApiProblem } from '../api/client.ts';
import { KITS } from './words.ts';

/** How often a change is made anew for a kit that others change meanwhile. */
const TRIES = 5;

/** Changes a kit that others may change meanwhile: what they changed stands. */
export async function changeKit(id: string, patch: Patch): Promise<KitRecord> {
  for (let attempt = 1; ; attempt++) {
    const { revision } = await api.kit(id);
    try {
      return await api.patchKit(id, revision, patch);
    } catch (error) {
      if (!(error instanceof ApiProblem && error.problem.status === 412) || attempt === TRIES) throw error;
    }
  }
}

/** Changes what is said of a kit, at once on the screen; what was not kept is said, taken back, and can be tried again. */
export function useChangingKit() {
  const queries = useQueryClient();
  const changing = ({ id, document: { name } }: KitRecord, patch: Patch): void => {
    const key = [...KITS, id];
    queries.setQueryData<KitRecord>(key, (k) => k && { ...k, document: applyPatch(k.document, patch) });
    changeKit(id, patch)
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
