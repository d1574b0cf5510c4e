import type { FieldProblem } from '@plinket/core';
import type { EntityManager } from 'typeorm';
import type { BlobStore } from '../data/blobs.ts';
import { BlobRefEntity } from '../data/entities.ts';

const NAMES_A_FILE = new Set(['asset', 'lut', 'picture']);

/** Every file that a value names, with its field. */
export function filesIn(root: object): { field: string; sha256: string }[] {
  const found: { field: string; sha256: string }[] = [];
  const visit = (value: unknown, field: string): void => {
    if (typeof value !== 'object' || value === null) return;
    for (const [key, inner] of Object.entries(value)) {
      const path = field ? `${field}.${key}` : key;
      if (NAMES_A_FILE.has(key) && typeof inner === 'string') found.push({ field: path, sha256: inner });
      else visit(inner, path);
    }
  };
  visit(root, '');
  return found;
}

/** Files that a document names and nobody has brought in, by field; what it named `before` keeps nobody from going on. */
export function missingFiles(blobs: Pick<BlobStore, 'renew'>, document: object, before?: object): FieldProblem[] {
  const known = new Set(before ? filesIn(before).map((f) => f.sha256) : []);
  return filesIn(document)
    .filter(({ sha256 }) => !known.has(sha256) && !blobs.renew(sha256))
    .map(({ field }) => ({ field, reason: 'no file with this SHA-256 has been brought in' }));
}

/** SHA-256 of every blob that a document names, its characters among them. */
export const blobsIn = (document: object): string[] => [...new Set(filesIn(document).map((f) => f.sha256))];

/**
 * Writes down, in the transaction that keeps the document, which blobs its owner needs. What a document needed once it needs as long as
 * it is there: undo may bring it back.
 */
export async function keepRefs(manager: EntityManager, owner: string, blobs: string[]): Promise<void> {
  const rows = blobs.map((sha256) => ({ owner, sha256 }));
  if (rows.length) await manager.createQueryBuilder().insert().into(BlobRefEntity).values(rows).orIgnore().execute();
}
