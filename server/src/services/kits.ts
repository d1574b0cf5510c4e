import { KIT_VERSION, kitSchema, type Kit } from '@plinket/core';
import type { EntityManager } from 'typeorm';
import type { BlobStore } from '../data/blobs.ts';
import { DocumentService, parsedBy, type KindOf } from './documents.ts';
import { blobsIn, missingFiles } from './refs.ts';

/** What is particular about kits: the files of their lights, plates and looks must be there. */
const kitKind = (blobs: Pick<BlobStore, 'renew'>): KindOf<Kit> => ({
  kind: 'kit',
  noun: 'kit',
  version: KIT_VERSION,
  migrate: (document) => document,
  parse: parsedBy(kitSchema, 'The kit'),
  describe: () => 'changed',
  blobs: blobsIn,
  missing: (_, { parts }, before) => Promise.resolve(missingFiles(blobs, { parts }, before && { parts: before.parts })),
});

/** The kits that a server keeps. */
export const kitService = (manager: EntityManager, blobs: Pick<BlobStore, 'renew'>): DocumentService<Kit> =>
  new DocumentService(manager, kitKind(blobs));
