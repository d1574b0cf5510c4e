import { applyPatch, describeKit, KIT_VERSION, kitSchema, migrateKit, type Kit } from '@plinket/core';
import type { EntityManager } from 'typeorm';
import type { BlobStore } from '../data/blobs.ts';
import type { Asking } from '../people/index.ts';
import { DocumentService, parsedBy, type KindOf } from './documents.ts';
import { blobsIn, missingFiles } from './refs.ts';

/** What is particular about kits: the files of their lights, plates and looks must be there. */
const kitKind = (blobs: Pick<BlobStore, 'renew'>): KindOf<Kit> => ({
  kind: 'kit',
  noun: 'kit',
  version: KIT_VERSION,
  migrate: migrateKit,
  parse: parsedBy(kitSchema, 'The kit'),
  describe: (before, change) => describeKit(before, applyPatch(before, change)),
  blobs: blobsIn,
  missing: (_, { parts, shown }, before) =>
    Promise.resolve(missingFiles(blobs, { parts, shown }, before && { parts: before.parts, shown: before.shown })),
});

/** The kits that a server keeps. */
export const kitService = (manager: EntityManager, blobs: Pick<BlobStore, 'renew'>, asking?: Asking): DocumentService<Kit> =>
  new DocumentService(manager, kitKind(blobs), undefined, asking);
