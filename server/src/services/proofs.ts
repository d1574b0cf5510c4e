import { randomUUID } from 'node:crypto';
import { migrateSetup, type KeptReading, type Setup } from '@plinket/core';
import type { Proof, ProofChange, ProofList, ProofSummary } from '@plinket/contract';
import type { EntityManager } from 'typeorm';
import type { BlobStore, Received } from '../data/blobs.ts';
import { DocumentEntity, ProofEntity, type ProofRow } from '../data/entities.ts';
import { anywhere, pageOf, readCursor } from '../data/pages.ts';
import { notFound } from '../problem.ts';
import type { Reports } from '../readers/index.ts';
import type { ListWish } from './documents.ts';
import { blobsIn, keepRefs } from './refs.ts';

/** A row of a list: what is said of a proof without its document. */
interface Row {
  key: string;
  setup: string;
  called: string;
  name: string;
  picture: string;
  width: number;
  height: number;
  reading: KeptReading | null;
  created: Date;
  at: string;
}
const summary = (r: Row): ProofSummary => ({
  id: r.key,
  setupId: r.setup,
  setupName: r.called,
  name: r.name,
  picture: r.picture,
  width: r.width,
  height: r.height,
  ...(r.reading ? { reading: r.reading } : {}),
  createdAt: r.created.toISOString(),
});
/** The columns of a row, of `proof p` beside its `document d`. */
const COLUMNS = `p.id AS key, p.setup_id AS setup, d.name AS called, p.name, p.picture, p.width, p.height, p.reading,
  p.created_at AS created, p.created_at::text AS at`;

/** Which proofs, and which page of them. */
export interface ProofsWish extends ListWish {
  setup?: string;
  pattern?: string;
  character?: string;
  kit?: string;
}

/** Proofs: a PNG that carries its setup is picture and setup in one. */
export class ProofService {
  private readonly manager: EntityManager;
  private readonly blobs: BlobStore;
  constructor(manager: EntityManager, blobs: BlobStore) {
    this.manager = manager;
    this.blobs = blobs;
  }

  /** A page of proofs, the latest first; their documents are asked for one by one. Those of setups that were thrown away stay. */
  async list({ setup, search, pattern, character, kit, cursor, limit }: ProofsWish): Promise<ProofList> {
    const [at, id] = readCursor(cursor) ?? [null, null];
    const rows = await this.manager.query<Row[]>(
      `SELECT ${COLUMNS} FROM proof p JOIN document d ON d.id = p.setup_id
       WHERE p.deleted_at IS NULL AND ($1::uuid IS NULL OR p.setup_id = $1) AND ($2::timestamptz IS NULL OR (p.created_at, p.id) < ($2, $3::uuid))
         AND ($5::text IS NULL OR p.name ILIKE $5 OR p.notes ILIKE $5 OR d.name ILIKE $5
           OR EXISTS (SELECT FROM jsonb_each(p.document #> '{subjects,items}') s WHERE s.value ->> 'name' ILIKE $5))
         AND ($6::text IS NULL OR p.reading ->> 'pattern' = $6)
         AND ($7::text IS NULL OR EXISTS (SELECT FROM jsonb_each(p.document #> '{subjects,items}') s WHERE s.value ->> 'asset' = $7))
         AND ($8::text IS NULL OR p.document #> '{ties}' ? $8)
       ORDER BY p.created_at DESC, p.id DESC LIMIT $4`,
      [setup ?? null, at, id, limit + 1, anywhere(search), pattern ?? null, character ?? null, kit?.toLowerCase() ?? null],
    );
    return pageOf(rows, limit, summary);
  }

  /** @throws HttpProblem 404 */
  async get(id: string): Promise<Proof> {
    type Whole = Row & Pick<ProofRow, 'document' | 'notes' | 'pins'>;
    const [row] = await this.manager.query<Whole[]>(
      `SELECT ${COLUMNS}, p.document, p.notes, p.pins FROM proof p JOIN document d ON d.id = p.setup_id
       WHERE p.id = $1 AND p.deleted_at IS NULL`,
      [id],
    );
    if (!row) throw notFound('proof');
    return { ...summary(row), document: migrateSetup(row.document) as Setup, notes: row.notes, pins: row.pins };
  }

  /** Changes what is said about a proof; picture, setup and reading stay what they were. @throws HttpProblem 404 */
  async change(id: string, change: ProofChange): Promise<Proof> {
    await this.get(id);
    await this.manager.getRepository(ProofEntity).update({ id }, change as object);
    return this.get(id);
  }

  /** @throws HttpProblem 404 when there is no such setup */
  async setup(id: string): Promise<void> {
    if (!(await this.manager.getRepository(DocumentEntity).existsBy({ id, kind: 'setup' }))) throw notFound('setup');
  }

  /** Keeps a picture that was read. @throws HttpProblem 404 */
  async add(setupId: string, received: Received, name: string, { width, height, document, reading }: Reports['proof']): Promise<Proof> {
    await this.setup(setupId);
    const picture = await this.blobs.keep(received);
    const id = randomUUID();
    await this.manager.transaction(async (manager) => {
      const row = { id, setupId, name, picture, width, height, document, reading: reading ?? null, notes: '', pins: [] };
      await manager.getRepository(ProofEntity).save(row as object as ProofRow);
      await keepRefs(manager, id, blobsIn(document));
    });
    return this.get(id);
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
