import { randomUUID } from 'node:crypto';
import { migrateSetup, type Setup } from '@plinket/core';
import type { Proof, ProofList, ProofSummary } from '@plinket/contract';
import type { EntityManager } from 'typeorm';
import type { BlobStore, Received } from '../data/blobs.ts';
import { DocumentEntity, ProofEntity, type ProofRow } from '../data/entities.ts';
import { pageOf, readCursor } from '../data/pages.ts';
import { notFound } from '../problem.ts';
import type { Reports } from '../readers/index.ts';
import type { ListWish } from './documents.ts';
import { blobsIn, keepRefs } from './refs.ts';

const summary = (r: Omit<ProofRow, 'document' | 'deletedAt'>): ProofSummary => ({
  id: r.id,
  setupId: r.setupId,
  name: r.name,
  picture: r.picture,
  width: r.width,
  height: r.height,
  createdAt: r.createdAt.toISOString(),
});
const toRecord = (r: ProofRow): Proof => ({ ...summary(r), document: migrateSetup(r.document) as Setup });

/** Proofs: a PNG that carries its setup is picture and setup in one. */
export class ProofService {
  private readonly manager: EntityManager;
  private readonly blobs: BlobStore;
  constructor(manager: EntityManager, blobs: BlobStore) {
    this.manager = manager;
    this.blobs = blobs;
  }

  /** A page of a setup's proofs, the latest first; their documents are asked for one by one. @throws HttpProblem 404 */
  async list(setupId: string, { cursor, limit }: ListWish): Promise<ProofList> {
    await this.setup(setupId);
    const [at, id] = readCursor(cursor) ?? [null, null];
    type Row = { key: string; name: string; picture: string; width: number; height: number; created: Date; at: string };
    const rows = await this.manager.query<Row[]>(
      `SELECT id AS key, name, picture, width, height, created_at AS created, created_at::text AS at FROM proof
       WHERE setup_id = $1 AND deleted_at IS NULL AND ($2::timestamptz IS NULL OR (created_at, id) < ($2, $3::uuid))
       ORDER BY created_at DESC, id DESC LIMIT $4`,
      [setupId, at, id, limit + 1],
    );
    return pageOf(rows, limit, (r) => summary({ ...r, id: r.key, setupId, createdAt: r.created }));
  }

  /** @throws HttpProblem 404 */
  async get(id: string): Promise<Proof> {
    const row = await this.manager.getRepository(ProofEntity).findOneBy({ id });
    if (!row || row.deletedAt) throw notFound('proof');
    return toRecord(row);
  }

  /** @throws HttpProblem 404 when there is no such setup */
  async setup(id: string): Promise<void> {
    if (!(await this.manager.getRepository(DocumentEntity).existsBy({ id, kind: 'setup' }))) throw notFound('setup');
  }

  /** Keeps a picture that was read. @throws HttpProblem 404 */
  async add(setupId: string, received: Received, name: string, { width, height, document }: Reports['proof']): Promise<Proof> {
    await this.setup(setupId);
    const picture = await this.blobs.keep(received);
    return this.manager.transaction(async (manager) => {
      const row = { id: randomUUID(), setupId, name, picture, width, height, document } as ProofRow;
      const kept = await manager.getRepository(ProofEntity).save(row);
      await keepRefs(manager, row.id, blobsIn(document));
      return toRecord(kept);
    });
  }

  /** Throws a proof away; it can be had back. @throws HttpProblem 404 */
  async remove(id: string): Promise<void> {
    await this.get(id);
    await this.manager.getRepository(ProofEntity).update({ id }, { deletedAt: () => 'now()' });
  }

  /** Brings a proof back that was thrown away. @throws HttpProblem 404 */
  async restore(id: string): Promise<Proof> {
    await this.manager.getRepository(ProofEntity).update({ id }, { deletedAt: null });
    return this.get(id);
  }
}
