import { randomUUID } from 'node:crypto';
import { applyPatch, diff, invertPatch, isEmptyPatch, type FieldProblem, type Patch } from '@plinket/core';
import type { AcceptedChange, DocumentRecord, History, SetupList } from '@plinket/contract';
import { MoreThan, type EntityManager } from 'typeorm';
import type { z } from 'zod';
import { DocumentEntity, PatchEntity, type DocumentKind, type DocumentRow } from '../data/entities.ts';
import { anywhere, pageOf, readCursor } from '../data/pages.ts';
import { deleted, HttpProblem, notFound } from '../problem.ts';
import type { Asking } from '../people/index.ts';
import { Live } from './live.ts';
import { keepRefs } from './refs.ts';

/** What documents have, whatever their kind. */
export interface AnyDocument {
  schemaVersion: number;
  name: string;
}

/** A document that breaks its schema; `problems` names every field and reason. */
export class DocumentRefused extends Error {
  readonly problems: FieldProblem[];
  constructor(message: string, problems: FieldProblem[]) {
    super(message);
    this.name = 'DocumentRefused';
    this.problems = problems;
  }
}

/** Reads a document by its schema. @throws DocumentRefused that names every field */
export const parsedBy =
  <D>(schema: z.ZodType<D>, what: string) =>
  (document: unknown): D => {
    const read = schema.safeParse(document);
    if (read.success) return read.data;
    throw new DocumentRefused(
      `${what} cannot be read.`,
      read.error.issues.map((i) => ({ field: i.path.join('.'), reason: i.message })),
    );
  };

/** What must be known of a kind of documents. */
export interface KindOf<D extends AnyDocument> {
  kind: DocumentKind;
  /** As problems call it: “setup”. */
  noun: string;
  /** Of the schema, today. */
  version: number;
  /** Brings what was kept up to date, for the schema to judge. */
  migrate(document: unknown): unknown;
  /** @throws DocumentRefused */
  parse(document: unknown): D;
  /** What a change does, in words for the history. */
  describe(before: D, change: Patch): string;
  /** SHA-256 of all that the document names. */
  blobs(document: D): string[];
  /** What it names and is not there, by field; what it named `before` keeps nobody from going on. */
  missing(manager: EntityManager, document: D, before?: D): Promise<FieldProblem[]>;
}

/** Most bytes of patches on one page of the history, and most patches. */
const HISTORY_BYTES = 512 * 1024;
const HISTORY_ROWS = 500;

export interface ListWish {
  search?: string;
  cursor?: string;
  limit: number;
  /** Only setups that belong to no sequence. */
  loose?: boolean;
}

/** What a patch is sent with: the revision that it was made for, the id under which it may be sent again, and words of its own for the history. */
export interface Sent {
  revision: number;
  request?: string;
  words?: string;
}

/** A change that is to be kept. */
export interface Change<D> {
  row: Pick<DocumentRow, 'id' | 'revision' | 'document'>;
  before: D;
  document: D;
  change: Patch;
  words: string;
  request?: string | undefined;
  by?: string | undefined;
}

/** Documents of one kind: they have revisions, and are changed by patches that are all kept. */
export class DocumentService<D extends AnyDocument> {
  protected readonly manager: EntityManager;
  protected readonly live: Live;
  private readonly kind: KindOf<D>;
  private readonly asking: Asking | undefined;
  constructor(manager: EntityManager, kind: KindOf<D>, live = new Live(), asking?: Asking) {
    this.manager = manager;
    this.kind = kind;
    this.live = live;
    this.asking = asking;
  }

  /** A stored document in today's version. */
  protected current(document: unknown): D {
    return this.kind.migrate(document) as D;
  }

  private toRecord(row: DocumentRow): DocumentRecord<D> {
    return {
      id: row.id,
      revision: row.revision,
      document: this.current(row.document),
      createdAt: row.createdAt.toISOString(),
      updatedAt: row.updatedAt.toISOString(),
    };
  }

  /** A page of them, those changed last first, by words of name, brief or tags. */
  async list({ search, cursor, limit, loose }: ListWish): Promise<SetupList> {
    const [at, id] = readCursor(cursor) ?? [null, null];
    type Row = {
      key: string;
      name: string;
      brief: string;
      revision: number;
      updated: Date;
      at: string;
      picture: string | null;
      words: string | null;
    };
    const rows = await this.manager.query<Row[]>(
      `SELECT d.*, p.picture, c.words FROM (
         SELECT id AS key, name, brief, revision, updated_at AS updated, updated_at::text AS at FROM document
         WHERE kind = $5 AND deleted_at IS NULL AND ($1::text IS NULL OR name ILIKE $1 OR brief ILIKE $1 OR ($5 = 'kit' AND document->>'tags' ILIKE $1))
           AND (NOT $6 OR follows IS NULL AND NOT EXISTS (
             SELECT FROM document q WHERE q.kind = 'sequence' AND q.deleted_at IS NULL AND q.document ->> 'setup' = document.id::text))
           AND ($2::timestamptz IS NULL OR (updated_at, id) < ($2, $3::uuid))
         ORDER BY updated_at DESC, id DESC LIMIT $4) d
       LEFT JOIN LATERAL (SELECT picture FROM proof WHERE setup_id = d.key AND deleted_at IS NULL ORDER BY created_at DESC LIMIT 1) p ON true
       LEFT JOIN document_patch c ON c.document_id = d.key AND c.revision = d.revision
       ORDER BY d.updated DESC, d.key DESC`,
      [anywhere(search), at, id, limit + 1, this.kind.kind, loose === true],
    );
    return pageOf(rows, limit, (r) => ({
      id: r.key,
      name: r.name,
      brief: r.brief,
      revision: r.revision,
      updatedAt: r.updated.toISOString(),
      change: r.words ?? undefined,
      picture: r.picture ?? undefined,
    }));
  }

  async get(id: string): Promise<DocumentRecord<D>> {
    return this.toRecord(this.there(await this.manager.getRepository(DocumentEntity).findOneBy({ id, kind: this.kind.kind })));
  }

  async create(document: D, id: string = randomUUID()): Promise<DocumentRecord<D>> {
    return this.manager.transaction(async (manager) => {
      await this.checkNamed(manager, document);
      const row = await manager
        .getRepository(DocumentEntity)
        .save({ id, kind: this.kind.kind, revision: 1, document: document as object } as DocumentRow);
      await keepRefs(manager, id, this.kind.blobs(document));
      return this.toRecord(row);
    });
  }

  /**
   * Applies a patch to the revision it was made for. One that was taken already, by the id of its request, is answered as the first time.
   * @throws HttpProblem 404, 410, 412 with the newer document, or 422 with every field that breaks the schema.
   */
  async patch(id: string, { revision, request, words }: Sent, patch: Patch): Promise<DocumentRecord<D>> {
    let accepted: AcceptedChange | undefined;
    // what the server does by itself, with words of its own, is nobody's deed
    const by = words === undefined ? this.asking?.current?.name : undefined;
    const record = await this.manager.transaction(async (manager) => {
      const row = this.there(
        await manager.getRepository(DocumentEntity).findOne({ where: { id, kind: this.kind.kind }, lock: { mode: 'pessimistic_write' } }),
      );
      const taken = request === undefined ? null : await manager.getRepository(PatchEntity).findOneBy({ documentId: id, request });
      if (taken) return this.asOf(manager, row, taken.revision);
      if (row.revision !== revision)
        throw new HttpProblem(412, 'stale', `The ${this.kind.noun} has changed meanwhile.`, {
          detail: `Revision ${revision} was meant, ${row.revision} is current.`,
          current: { revision: row.revision, document: this.current(row.document) },
        });
      const before = this.current(row.document);
      const document = this.checked(applyPatch(before, patch));
      // what is kept is what it changes, whatever else the patch says
      const change = diff(before, document);
      if (isEmptyPatch(change)) return this.toRecord(row);
      await this.checkNamed(manager, document, before);
      accepted = { revision: revision + 1, request, by, patch: change };
      const kept = await this.keep(manager, [
        { row, before, document, change, words: words ?? this.kind.describe(before, change), request, by },
      ]);
      return this.toRecord({ ...row, document: document as object, revision: revision + 1, updatedAt: kept.get(id)! });
    });
    // only what is kept is told
    if (accepted) this.live.tell(id, accepted);
    return record;
  }

  /**
   * Keeps changes of documents whose rows are locked, each as a revision more, all in two statements: in the setups that follow one there are many at once.
   * @returns when each was kept, by id
   */
  protected async keep(manager: EntityManager, changes: readonly Change<D>[]): Promise<ReadonlyMap<string, Date>> {
    const json = (values: readonly unknown[]) => values.map((v) => (v === null ? null : JSON.stringify(v)));
    const ids = changes.map((c) => c.row.id);
    await manager.query(
      `INSERT INTO document_patch (document_id, revision, request, snapshot, patch, inverse, words, by)
       SELECT * FROM unnest($1::uuid[], $2::int[], $3::uuid[], $4::jsonb[], $5::jsonb[], $6::jsonb[], $7::text[], $8::text[])`,
      [
        ids,
        changes.map((c) => c.row.revision + 1),
        changes.map((c) => c.request ?? null),
        json(changes.map((c) => ((c.row.document as AnyDocument).schemaVersion === this.kind.version ? null : c.row.document))),
        json(changes.map((c) => c.change)),
        json(changes.map((c) => invertPatch(c.before, c.change))),
        changes.map((c) => c.words),
        changes.map((c) => c.by ?? null),
      ],
    );
    for (const { row, before, document } of changes) {
      const known = new Set(this.kind.blobs(before));
      await keepRefs(
        manager,
        row.id,
        this.kind.blobs(document).filter((sha256) => !known.has(sha256)),
      );
    }
    const [rows] = await manager.query<[{ id: string; updated: Date }[]]>(
      `UPDATE document d SET document = n.document, revision = d.revision + 1, updated_at = now()
       FROM unnest($1::uuid[], $2::jsonb[]) AS n (id, document) WHERE d.id = n.id RETURNING d.id, d.updated_at AS updated`,
      [ids, json(changes.map((c) => c.document))],
    );
    return new Map(rows.map((r) => [r.id, r.updated]));
  }

  /** The revision of a document, and the changes after one that is known. @throws HttpProblem 404, 410 */
  async since(id: string, after?: number): Promise<{ revision: number; changes: AcceptedChange[] }> {
    const { revision } = this.there(await this.manager.getRepository(DocumentEntity).findOneBy({ id, kind: this.kind.kind }));
    if (after === undefined || after >= revision) return { revision: after ?? revision, changes: [] };
    const rows = await this.manager.getRepository(PatchEntity).find({
      where: { documentId: id, revision: MoreThan(after) },
      order: { revision: 'ASC' },
      take: HISTORY_ROWS,
    });
    return {
      revision: after,
      changes: rows.map((r) => ({ revision: r.revision, request: r.request ?? undefined, by: r.by ?? undefined, patch: r.patch })),
    };
  }

  /** A page of the history, the latest first, `before` a revision; bounded by its bytes. */
  async history(id: string, before?: number): Promise<History> {
    await this.get(id);
    type Row = { revision: number; words: string; by: string | null; at: Date; patch: Patch };
    const rows = await this.manager.query<Row[]>(
      `SELECT revision, words, by, at, patch FROM (
         SELECT *, sum(octet_length(patch::text)) OVER (ORDER BY revision DESC) AS bytes, row_number() OVER (ORDER BY revision DESC) AS n
         FROM (SELECT * FROM document_patch WHERE document_id = $1 AND ($2::int IS NULL OR revision < $2) ORDER BY revision DESC LIMIT $3) p) q
       WHERE bytes <= $4 OR n = 1 ORDER BY revision DESC`,
      [id, before ?? null, HISTORY_ROWS, HISTORY_BYTES],
    );
    const last = rows.at(-1)?.revision ?? 0;
    return {
      items: rows.map((r) => ({
        revision: r.revision,
        words: r.words,
        ...(r.by ? { by: r.by } : {}),
        at: r.at.toISOString(),
        patch: r.patch,
      })),
      // the first patch of a document makes revision 2
      ...(last > 2 ? { next: last } : {}),
    };
  }

  /** The document as it was at a revision. @throws HttpProblem 404 */
  async at(id: string, revision: number): Promise<DocumentRecord<D>> {
    const row = this.there(await this.manager.getRepository(DocumentEntity).findOneBy({ id, kind: this.kind.kind }));
    if (revision < 1 || revision > row.revision) throw notFound('revision');
    return this.asOf(this.manager, row, revision);
  }

  /** Throws a document away; it can be had back. @throws HttpProblem 404 */
  async remove(id: string): Promise<void> {
    const { affected } = await this.manager
      .createQueryBuilder()
      .update(DocumentEntity)
      .set({ deletedAt: () => 'now()', updatedAt: () => 'updated_at' })
      .where('id = :id AND kind = :kind AND deleted_at IS NULL', { id, kind: this.kind.kind })
      .execute();
    if (!affected) throw notFound(this.kind.noun);
  }

  /** Brings a document back that was thrown away. @throws HttpProblem 404 */
  async restore(id: string): Promise<DocumentRecord<D>> {
    await this.manager
      .createQueryBuilder()
      .update(DocumentEntity)
      .set({ deletedAt: null, updatedAt: () => 'updated_at' })
      .where('id = :id AND kind = :kind', { id, kind: this.kind.kind })
      .execute();
    return this.get(id);
  }

  private there(row: DocumentRow | null): DocumentRow {
    if (!row) throw notFound(this.kind.noun);
    if (row.deletedAt) throw deleted(this.kind.noun);
    return row;
  }

  /** A document as it was: the inverses of all later patches, one after the other. */
  private async asOf(manager: EntityManager, row: DocumentRow, revision: number): Promise<DocumentRecord<D>> {
    const later = await manager
      .getRepository(PatchEntity)
      .createQueryBuilder('p')
      .where('p.documentId = :id AND p.revision > :revision', { id: row.id, revision })
      .orderBy('p.revision', 'DESC')
      .getMany();
    // the inverses were made for the version that the document was kept in then
    const document = later.reduce<object>((d, p) => p.snapshot ?? applyPatch(d, p.inverse), row.document);
    try {
      return { ...this.toRecord(row), revision, document: this.kind.parse(document) };
    } catch (error) {
      if (!(error instanceof DocumentRefused)) throw error;
      throw new HttpProblem(409, 'older', `Revision ${revision} cannot be shown.`, {
        detail: `It was kept by an older version: ${error.message}`,
      });
    }
  }

  /** What a document names must be there. @throws HttpProblem 422 that names each field */
  private async checkNamed(manager: EntityManager, document: D, before?: D): Promise<void> {
    const errors = await this.kind.missing(manager, document, before);
    if (errors.length) throw this.refused(errors);
  }

  private refused(errors: FieldProblem[], detail?: string): HttpProblem {
    return new HttpProblem(422, 'invalid', `The ${this.kind.noun} was not kept.`, { errors, ...(detail ? { detail } : {}) });
  }

  /** @throws HttpProblem 422 that names each field */
  private checked(document: unknown): D {
    try {
      return this.kind.parse(document);
    } catch (error) {
      if (error instanceof DocumentRefused) throw this.refused(error.problems, error.message);
      throw error;
    }
  }
}
