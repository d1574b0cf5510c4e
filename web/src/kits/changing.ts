import type { KitRecord } from '@plinket/contract';
import { applyPatch, type Patch } from '@plinket/core';
import { anyhow } from '../api/anyhow.ts';
import { api } from '../api/client.ts';
import { useSaying } from '../parts/saying.ts';
import { KITS } from './words.ts';

/** Changes a kit that others may change meanwhile. */
export const changeKit = ({ id, revision }: Pick<KitRecord, 'id' | 'revision'>, patch: Patch): Promise<KitRecord> =>
  anyhow(
    revision,
    (known) => api.patchKit(id, known, patch),
    () => api.kit(id),
  );

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
