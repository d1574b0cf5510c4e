import type { Deeds } from '@plinket/contract';
import type { EntityManager } from 'typeorm';
import { pageOf, readCursor } from '../data/pages.ts';
import type { Asker } from './asking.ts';

/** Who did what. Changes of documents are known by their own history; everything else that writes is noted here before it is done. */
export class DeedBook {
  private readonly manager: EntityManager;
  constructor(manager: EntityManager) {
    this.manager = manager;
  }

  /** Notes what somebody is about to do. @returns what notes how it was answered */
  async begun(asker: Asker, method: string, path: string): Promise<(status: number) => Promise<void>> {
    const subject = /[0-9a-f]{8}(-[0-9a-f]{4}){3}-[0-9a-f]{12}/i.exec(path)?.[0] ?? null;
    const [row] = await this.manager.query<{ id: string }[]>(
      'INSERT INTO deed (account, name, method, path, subject) VALUES ($1, $2, $3, $4, $5) RETURNING id',
      [asker.account ?? null, asker.name, method, path, subject],
    );
    return async (status) => void (await this.manager.query('UPDATE deed SET status = $2 WHERE id = $1', [row!.id, status]));
  }

  /** A page of it, the latest first, of all or of one person. */
  async list({ cursor, limit, search }: { cursor?: string; limit: number; search?: string }): Promise<Deeds> {
    const [at, key] = readCursor(cursor) ?? [null, null];
    type Row = {
      key: string;
      at: string;
      time: Date;
      name: string;
      words: string;
      status: number | null;
      document: string | null;
      kind: string | null;
      called: string | null;
    };
    const rows = await this.manager.query<Row[]>(
      `SELECT w.*, w.time::text AS at, d.id AS document, d.kind, d.name AS called FROM (
         SELECT 'd' || lpad(id::text, 19, '0') AS key, at AS time, name, method || ' ' || path AS words, status, subject FROM deed
         UNION ALL
         SELECT 'c' || document_id || lpad(revision::text, 10, '0'), at, by, words, 200, document_id FROM document_patch WHERE by IS NOT NULL) w
       LEFT JOIN document d ON d.id = w.subject
       WHERE ($1::timestamptz IS NULL OR (w.time, w.key) < ($1, $2)) AND ($4::text IS NULL OR w.name = $4)
       ORDER BY w.time DESC, w.key DESC LIMIT $3`,
      [at, key, limit + 1, search ?? null],
    );
    return pageOf(rows, limit, (r) => ({
      id: r.key,
      at: r.time.toISOString(),
      name: r.name,
      words: r.words,
      ...(r.document ? { document: { id: r.document, kind: r.kind!, name: r.called ?? '' } } : {}),
      ...(r.status === null ? {} : { status: r.status }),
    }));
  }
}
