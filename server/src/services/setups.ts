import { describePatch, migrateSetup, parseSetup, SCHEMA_VERSION, SetupError, type FieldProblem, type Setup } from '@plinket/core';
import type { EntityManager } from 'typeorm';
import type { BlobStore } from '../data/blobs.ts';
import { AssetEntity } from '../data/entities.ts';
import { DocumentRefused, DocumentService, type KindOf } from './documents.ts';
import type { Live } from './live.ts';
import { blobsIn, missingFiles } from './refs.ts';

/** Characters must have been brought in. */
async function missingCharacters(manager: EntityManager, { subjects }: Setup): Promise<FieldProblem[]> {
  const missing: FieldProblem[] = [];
  for (const [key, subject] of Object.entries(subjects.items)) {
    const row = await manager.getRepository(AssetEntity).findOneBy({ sha256: subject.asset });
    if (!row || row.deletedAt)
      missing.push({ field: `subjects.items.${key}.asset`, reason: 'no character with this SHA-256 has been brought in' });
  }
  return missing;
}

/** What of a setup names files of lights, plate and look. */
const withFiles = ({ lights, plate, look }: Setup) => ({ lights, plate, look });

/** What is particular about setups. */
export const setupKind = (blobs: Pick<BlobStore, 'renew'>): KindOf<Setup> => ({
  kind: 'setup',
  noun: 'setup',
  version: SCHEMA_VERSION,
  migrate: migrateSetup,
  parse: (document) => {
    try {
      return parseSetup(document);
    } catch (error) {
      throw error instanceof SetupError ? new DocumentRefused(error.message, error.problems) : error;
    }
  },
  describe: describePatch,
  blobs: blobsIn,
  missing: async (manager, document, before) => {
    const files = missingFiles(blobs, withFiles(document), before && withFiles(before));
    return [...(await missingCharacters(manager, document)), ...files];
  },
});

export type SetupService = DocumentService<Setup>;

/** The setups that a server keeps; who listens to `live` hears of every accepted change. */
export const setupService = (manager: EntityManager, blobs: Pick<BlobStore, 'renew'>, live?: Live): SetupService =>
  new DocumentService(manager, setupKind(blobs), live);
