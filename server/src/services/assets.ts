import { MAX_ORIGINALS, type AssetList, type AssetRecord, type OriginalRecord } from '@plinket/contract';
import { Not, type EntityManager } from 'typeorm';
import type { BlobStore, Received } from '../data/blobs.ts';
import { AssetEntity, OriginalEntity, type AssetRow, type OriginalRow } from '../data/entities.ts';
import { anywhere, pageOf, readCursor } from '../data/pages.ts';
import { HttpProblem, notFound } from '../problem.ts';
import type { Reports } from '../readers/index.ts';
import { textForDatabase } from './files.ts';
import type { ListWish } from './documents.ts';

const toRecord = (r: AssetRow): AssetRecord => ({
  sha256: r.sha256,
  name: r.name,
  fileName: r.fileName,
  bytes: r.bytes,
  triangles: r.triangles,
  size: { width: r.width, height: r.height, depth: r.depth },
  createdAt: r.createdAt.toISOString(),
});

/** Characters: what was read, kept under its SHA-256. */
export class AssetService {
  private readonly manager: EntityManager;
  private readonly blobs: BlobStore;
  constructor(manager: EntityManager, blobs: BlobStore) {
    this.manager = manager;
    this.blobs = blobs;
  }

  /** A page of characters, the latest first, by words of their name. */
  async list({ search, cursor, limit }: ListWish): Promise<AssetList> {
    const [at, sha256] = readCursor(cursor) ?? [null, null];
    type Row = Omit<AssetRow, 'fileName' | 'createdAt'> & { file_name: string; created_at: Date; at: string; key: string };
    const rows = await this.manager.query<Row[]>(
      `SELECT *, sha256 AS key, created_at::text AS at FROM asset
       WHERE deleted_at IS NULL AND ($1::text IS NULL OR name ILIKE $1 OR file_name ILIKE $1)
         AND ($2::timestamptz IS NULL OR (created_at, sha256) < ($2, $3::char(64)))
       ORDER BY created_at DESC, sha256 DESC LIMIT $4`,
      [anywhere(search), at, sha256, limit + 1],
    );
    return pageOf(rows, limit, (r) => toRecord({ ...r, fileName: r.file_name, createdAt: r.created_at }));
  }

  /** Keeps a character that was read. One that was thrown away is here again. */
  async add(received: Received, fileName: string, report: Reports['character']): Promise<AssetRecord> {
    const sha256 = await this.blobs.keep(received);
    const { triangles, width, height, depth } = report;
    const name = textForDatabase(report.name, 200) || fileName;
    // two who bring the same file at once both have it
    await this.manager.query(
      `INSERT INTO asset (sha256, name, file_name, bytes, triangles, width, height, depth) VALUES ($1, $2, $3, $4, $5, $6, $7, $8)
       ON CONFLICT (sha256) DO UPDATE SET deleted_at = NULL`,
      [sha256, name, fileName, received.bytes, triangles, width, height, depth],
    );
    return this.get(sha256);
  }

  /** The files that a character was made of, in the order in which they came. @throws HttpProblem 404 */
  async originals(asset: string): Promise<OriginalRecord[]> {
    await this.get(asset);
    const rows = await this.manager.getRepository(OriginalEntity).find({ where: { asset }, order: { createdAt: 'ASC' } });
    return rows.map(toOriginal);
  }

  /** Keeps a file that a character was made of; one of the same name is replaced. @throws HttpProblem 404, 409 when there are too many */
  async addOriginal(asset: string, received: Received, fileName: string): Promise<OriginalRecord> {
    await this.get(asset);
    const rows = this.manager.getRepository(OriginalEntity);
    if ((await rows.countBy({ asset, fileName: Not(fileName) })) >= MAX_ORIGINALS)
      throw new HttpProblem(409, 'too-many', `${fileName} was not kept.`, {
        detail: `${MAX_ORIGINALS} files are kept beside this character already, which is the most.`,
      });
    const sha256 = await this.blobs.keep(received);
    const row = { asset, fileName, sha256, bytes: received.bytes } as OriginalRow;
    await rows.upsert(row, ['asset', 'fileName']);
    return toOriginal(row);
  }

  /** Throws a character away that no setup or proof needs; it can be had back. @throws HttpProblem 404, or 409 that names who needs it */
  async remove(sha256: string): Promise<void> {
    await this.manager.transaction(async (manager) => {
      const row = await manager.getRepository(AssetEntity).findOne({ where: { sha256 }, lock: { mode: 'pessimistic_write' } });
      if (!row || row.deletedAt) throw notFound('character');
      const users = await manager.query<{ name: string }[]>(
        `SELECT name FROM document WHERE deleted_at IS NULL AND id IN (SELECT owner FROM blob_ref WHERE sha256 = $1)
         UNION SELECT p.name || ' of ' || d.name FROM proof p JOIN document d ON d.id = p.setup_id
         WHERE p.deleted_at IS NULL AND d.deleted_at IS NULL AND p.id IN (SELECT owner FROM blob_ref WHERE sha256 = $1) ORDER BY 1 LIMIT 6`,
        [sha256],
      );
      if (users.length)
        throw new HttpProblem(409, 'needed', `${row.name} was not thrown away.`, {
          detail: `${users
            .map((u) => `“${u.name}”`)
            .slice(0, 5)
            .join(', ')}${users.length > 5 ? ' and others' : ''} may need it, now or when something is undone.`,
        });
      await manager.getRepository(AssetEntity).update({ sha256 }, { deletedAt: () => 'now()' });
    });
  }

  /** Brings a character back that was thrown away. @throws HttpProblem 404 */
  async restore(sha256: string): Promise<AssetRecord> {
    await this.manager.getRepository(AssetEntity).update({ sha256 }, { deletedAt: null });
    return this.get(sha256);
  }

  private async get(sha256: string): Promise<AssetRecord> {
    const row = await this.manager.getRepository(AssetEntity).findOneBy({ sha256 });
    if (!row || row.deletedAt) throw notFound('character');
    return toRecord(row);
  }
}

const toOriginal = ({ sha256, fileName, bytes }: OriginalRow): OriginalRecord => ({ sha256, fileName, bytes });
