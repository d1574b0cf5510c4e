import { randomUUID } from 'node:crypto';
import {
  applyPatch,
  describePatch,
  diff,
  invertPatch,
  isEmptyPatch,
  migrateSetup,
  parseSetup,
  SCHEMA_VERSION,
  SetupError,
  type Patch,
  type Setup,
} from '@plinket/core';
import type { AcceptedChange, History, SetupList, SetupRecord } from '@plinket/contract';
import { MoreThan, type EntityManager } from 'typeorm';
import type { BlobStore } from '../data/blobs.ts';
import { AssetEntity, DocumentEntity, PatchEntity, type DocumentRow } from '../data/entities.ts';
import { anywhere, pageOf, readCursor } from '../data/pages.ts';
import { deleted, HttpProblem, notFound } from '../problem.ts';
import { Live } from './live.ts';
import { keepRefs, lightFilesIn } from './refs.ts';

/** A stored document in today's version. */
const current = (document: Setup): Setup => migrateSetup(document) as Setup;

const toRecord = (row: DocumentRow): SetupRecord => ({
  id: row.id,
  revision: row.revision,
  document: current(row.document),
  createdAt: row.createdAt.toISOString(),
  updatedAt: row.updatedAt.toISOString(),
});

/** Most bytes of patches on one page of the history, and most patches. */
const HISTORY_BYTES = 512 * 1024;
const HISTORY_ROWS = 500;

export interface ListWish {
  search?: string;
  cursor?: string;
  limit: number;
}

/** What a patch is sent with: the revision that it was made for, and the id under which it may be sent again. */
export interface Sent {
  revision: number;
  request?: string;
}

/** Setups: documents with revisions, changed by patches that are all kept. */
export class SetupService {
  private readonly manager: EntityManager;
  private readonly blobs: Pick<BlobStore, 'renew'>;
  private readonly live: Live;
  constructor(manager: EntityManager, blobs: Pick<BlobStore, 'renew'>, live = new Live()) {
    this.manager = manager;
    this.blobs = blobs;
    this.live = live;
  }

  /** A page of setups, those changed last first, by words of name or brief. */
  async list({ search, cursor, limit }: ListWish): Promise<SetupList> {
    const [at, id] = readCursor(cursor) ?? [null, null];
    type Row = { key: string; name: string; brief: string; revision: number; updated: Date; at: string; picture: string | null };
    const rows = await this.manager.query<Row[]>(
      `SELECT d.*, p.picture FROM (
         SELECT id AS key, name, brief, revision, updated_at AS updated, updated_at::text AS at FROM document
         WHERE kind = 'setup' AND deleted_at IS NULL AND ($1::text IS NULL OR name ILIKE $1 OR brief ILIKE $1)
           AND ($2::timestamptz IS NULL OR (updated_at, id) < ($2, $3::uuid))
         ORDER BY updated_at DESC, id DESC LIMIT $4) d
       LEFT JOIN LATERAL (SELECT picture FROM proof WHERE setup_id = d.key AND deleted_at IS NULL ORDER BY created_at DESC LIMIT 1) p ON true
       ORDER BY d.updated DESC, d.key DESC`,
      [anywhere(search), at, id, limit + 1],
    );
    return pageOf(rows, limit, (r) => ({
      id: r.key,
      name: r.name,
      brief: r.brief,
      revision: r.revision,
      updatedAt: r.updated.toISOString(),
      picture: r.picture ?? undefined,
    }));
  }

  async get(id: string): Promise<SetupRecord> {
    return toRecord(this.there(await this.manager.getRepository(DocumentEntity).findOneBy({ id })));
  }

  async create(document: Setup, id: string = randomUUID()): Promise<SetupRecord> {
    return this.manager.transaction(async (manager) => {
      await this.checkAssets(manager, document);
      this.checkFiles(document);
      const row = await manager.getRepository(DocumentEntity).save({ id, kind: 'setup', revision: 1, document } as DocumentRow);
      await keepRefs(manager, id, document);
      return toRecord(row);
    });
  }

  /**
   * Applies a patch to the revision it was made for. One that was taken already, by the id of its request, is answered as the first time.
   * @throws HttpProblem 404, 410, 412 with the newer document, or 422 with every field that breaks the schema.
   */
  async patch(id: string, { revision, request }: Sent, patch: Patch): Promise<SetupRecord> {
    let accepted: AcceptedChange | undefined;
    const record = await this.manager.transaction(async (manager) => {
      const row = this.there(await manager.getRepository(DocumentEntity).findOne({ where: { id }, lock: { mode: 'pessimistic_write' } }));
      const taken = request === undefined ? null : await manager.getRepository(PatchEntity).findOneBy({ documentId: id, request });
      if (taken) return this.asOf(manager, row, taken.revision);
      if (row.revision !== revision)
        throw new HttpProblem(412, 'stale', 'The setup has changed meanwhile.', {
          detail: `Revision ${revision} was meant, ${row.revision} is current.`,
          current: { revision: row.revision, document: current(row.document) },
        });
      const before = current(row.document);
      const document = checked(applyPatch(before, patch));
      // what is kept is what it changes, whatever else the patch says
      const change = diff(before, document);
      if (isEmptyPatch(change)) return toRecord(row);
      await this.checkAssets(manager, document);
      this.checkFiles(document, before);
      await manager.getRepository(PatchEntity).insert({
        documentId: id,
        revision: revision + 1,
        request: request ?? null,
        snapshot: (row.document.schemaVersion === SCHEMA_VERSION ? null : row.document) as never,
        patch: change as never,
        inverse: invertPatch(before, change) as never,
        words: describePatch(before, change),
      });
      await keepRefs(manager, id, document);
      accepted = { revision: revision + 1, request, patch: change };
      return toRecord(await manager.getRepository(DocumentEntity).save({ ...row, document, revision: revision + 1 }));
    });
    // only what is kept is told
    if (accepted) this.live.tell(id, accepted);
    return record;
  }

  /** The revision of a setup, and the changes after one that is known. @throws HttpProblem 404, 410 */
  async since(id: string, after?: number): Promise<{ revision: number; changes: AcceptedChange[] }> {
    const { revision } = this.there(await this.manager.getRepository(DocumentEntity).findOneBy({ id }));
    if (after === undefined || after >= revision) return { revision: after ?? revision, changes: [] };
    const rows = await this.manager.getRepository(PatchEntity).find({
      where: { documentId: id, revision: MoreThan(after) },
      order: { revision: 'ASC' },
      take: HISTORY_ROWS,
    });
    return { revision: after, changes: rows.map((r) => ({ revision: r.revision, request: r.request ?? undefined, patch: r.patch })) };
  }

  /** A page of the history, the latest first, `before` a revision; bounded by its bytes. */
  async history(id: string, before?: number): Promise<History> {
    await this.get(id);
    type Row = { revision: number; words: string; at: Date; patch: Patch };
    const rows = await this.manager.query<Row[]>(
      `SELECT revision, words, at, patch FROM (
         SELECT *, sum(octet_length(patch::text)) OVER (ORDER BY revision DESC) AS bytes, row_number() OVER (ORDER BY revision DESC) AS n
         FROM (SELECT * FROM document_patch WHERE document_id = $1 AND ($2::int IS NULL OR revision < $2) ORDER BY revision DESC LIMIT $3) p) q
       WHERE bytes <= $4 OR n = 1 ORDER BY revision DESC`,
      [id, before ?? null, HISTORY_ROWS, HISTORY_BYTES],
    );
    const last = rows.at(-1)?.revision ?? 0;
    return {
      items: rows.map((r) => ({ revision: r.revision, words: r.words, at: r.at.toISOString(), patch: r.patch })),
      // the first patch of a document makes revision 2
      ...(last > 2 ? { next: last } : {}),
    };
  }

  /** The setup as it was at a revision. @throws HttpProblem 404 */
  async at(id: string, revision: number): Promise<SetupRecord> {
    const row = this.there(await this.manager.getRepository(DocumentEntity).findOneBy({ id }));
    if (revision < 1 || revision > row.revision) throw notFound('revision');
    return this.asOf(this.manager, row, revision);
  }

  /** Throws a setup away; it can be had back. @throws HttpProblem 404 */
  async remove(id: string): Promise<void> {
    const { affected } = await this.manager
      .createQueryBuilder()
      .update(DocumentEntity)
      .set({ deletedAt: () => 'now()', updatedAt: () => 'updated_at' })
      .where('id = :id AND deleted_at IS NULL', { id })
      .execute();
    if (!affected) throw notFound('setup');
  }

  /** Brings a setup back that was thrown away. @throws HttpProblem 404 */
  async restore(id: string): Promise<SetupRecord> {
    await this.manager
      .createQueryBuilder()
      .update(DocumentEntity)
      .set({ deletedAt: null, updatedAt: () => 'updated_at' })
      .where('id = :id', { id })
      .execute();
    return this.get(id);
  }

  private there(row: DocumentRow | null): DocumentRow {
    if (!row) throw notFound('setup');
    if (row.deletedAt) throw deleted('setup');
    return row;
  }

  /** A document as it was: the inverses of all later patches, one after the other. */
  private async asOf(manager: EntityManager, row: DocumentRow, revision: number): Promise<SetupRecord> {
    const later = await manager
      .getRepository(PatchEntity)
      .createQueryBuilder('p')
      .where('p.documentId = :id AND p.revision > :revision', { id: row.id, revision })
      .orderBy('p.revision', 'DESC')
      .getMany();
    // the inverses were made for the version that the document was kept in then
    const document = later.reduce((d, p) => p.snapshot ?? applyPatch(d, p.inverse), row.document);
    try {
      return { ...toRecord(row), revision, document: parseSetup(document) };
    } catch (error) {
      if (!(error instanceof SetupError)) throw error;
      throw new HttpProblem(409, 'older', `Revision ${revision} cannot be shown.`, {
        detail: `It was kept by an older version: ${error.message}`,
      });
    }
  }

  private async checkAssets(manager: EntityManager, document: Setup): Promise<void> {
    for (const [key, subject] of Object.entries(document.subjects.items)) {
      const row = await manager.getRepository(AssetEntity).findOneBy({ sha256: subject.asset });
      if (row && !row.deletedAt) continue;
      throw new HttpProblem(422, 'invalid', 'The setup was not kept.', {
        errors: [{ field: `subjects.items.${key}.asset`, reason: 'no character with this SHA-256 has been brought in' }],
      });
    }
  }

  /** Files of lights, plate and look are here; one that the setup named before and that is lost keeps nobody from going on. */
  private checkFiles(document: Setup, before?: Setup): void {
    const known = new Set(before ? lightFilesIn(before).map((f) => f.sha256) : []);
    const errors = lightFilesIn(document)
      .filter(({ sha256 }) => !known.has(sha256) && !this.blobs.renew(sha256))
      .map(({ field }) => ({ field, reason: 'no file with this SHA-256 has been brought in' }));
    if (errors.length) throw new HttpProblem(422, 'invalid', 'The setup was not kept.', { errors });
  }
}

/** @throws HttpProblem 422 that names each field. */
function checked(document: unknown): Setup {
  try {
    return parseSetup(document);
  } catch (error) {
    if (error instanceof SetupError)
      throw new HttpProblem(422, 'invalid', 'The setup was not kept.', { detail: error.message, errors: error.problems });
    throw error;
  }
}
