import { randomUUID } from 'node:crypto';
import {
  applyPatch,
  describePatch,
  invertPatch,
  isEmptyPatch,
  migrateSetup,
  parseSetup,
  SetupError,
  type Patch,
  type Setup,
} from '@plinket/core';
import type { History, SetupList, SetupRecord } from '@plinket/contract';
import type { DataSource, EntityManager } from 'typeorm';
import type { BlobStore } from '../data/blobs.ts';
import { AssetEntity, OriginalEntity, PatchEntity, ProofEntity, SetupEntity, type SetupRow } from '../data/entities.ts';
import { HttpProblem, notFound } from '../problem.ts';

/** A stored document in today's version. */
const current = (document: Setup): Setup => migrateSetup(document) as Setup;

const toRecord = (row: SetupRow): SetupRecord => ({
  id: row.id,
  revision: row.revision,
  document: current(row.document),
  createdAt: row.createdAt.toISOString(),
  updatedAt: row.updatedAt.toISOString(),
});

/** Setups: documents with revisions, changed by patches that are all kept. */
export class SetupService {
  private readonly db: DataSource;
  private readonly blobs: Pick<BlobStore, 'has'>;
  constructor(db: DataSource, blobs: Pick<BlobStore, 'has'>) {
    this.db = db;
    this.blobs = blobs;
  }

  async list(): Promise<SetupList> {
    const rows = await this.db.getRepository(SetupEntity).find({ order: { updatedAt: 'DESC' }, take: 500 });
    const pictures = await this.db.query<{ setup_id: string; picture: string }[]>(
      'SELECT DISTINCT ON (setup_id) setup_id, picture FROM proof ORDER BY setup_id, created_at DESC',
    );
    const latest = new Map(pictures.map((p) => [p.setup_id, p.picture]));
    return rows.map((r) => ({
      id: r.id,
      name: r.document.name,
      brief: r.document.brief,
      revision: r.revision,
      updatedAt: r.updatedAt.toISOString(),
      picture: latest.get(r.id),
    }));
  }

  async get(id: string): Promise<SetupRecord> {
    const row = await this.db.getRepository(SetupEntity).findOneBy({ id });
    if (!row) throw notFound('setup');
    return toRecord(row);
  }

  async create(document: Setup, id: string = randomUUID()): Promise<SetupRecord> {
    await this.checkAssets(this.db.manager, document);
    this.checkFiles(document);
    return toRecord(await this.db.getRepository(SetupEntity).save({ id, revision: 1, document } as SetupRow));
  }

  /**
   * Applies a patch to the revision it was made for.
   * @throws HttpProblem 404, 412 with the newer document, or 422 with every field that breaks the schema.
   */
  async patch(id: string, revision: number, patch: Patch): Promise<SetupRecord> {
    return this.db.transaction(async (manager) => {
      const row = await manager.getRepository(SetupEntity).findOne({ where: { id }, lock: { mode: 'pessimistic_write' } });
      if (!row) throw notFound('setup');
      if (row.revision !== revision)
        throw new HttpProblem(412, 'stale', 'The setup has changed meanwhile.', {
          detail: `Revision ${revision} was meant, ${row.revision} is current.`,
          current: { revision: row.revision, document: current(row.document) },
        });
      if (isEmptyPatch(patch)) return toRecord(row);
      const before = current(row.document);
      const document = checked(applyPatch(before, patch));
      await this.checkAssets(manager, document);
      this.checkFiles(document, before);
      await manager.getRepository(PatchEntity).insert({
        setupId: id,
        revision: revision + 1,
        patch: patch as never,
        inverse: invertPatch(before, patch) as never,
        words: describePatch(before, patch),
      });
      return toRecord(await manager.getRepository(SetupEntity).save({ ...row, document, revision: revision + 1 }));
    });
  }

  async history(id: string): Promise<History> {
    await this.get(id);
    const rows = await this.db.getRepository(PatchEntity).find({ where: { setupId: id }, order: { revision: 'DESC' }, take: 1000 });
    return rows.map((r) => ({ revision: r.revision, words: r.words, at: r.at.toISOString(), patch: r.patch }));
  }

  /** The setup as it was at a revision: the inverses of all later patches, one after the other. */
  async at(id: string, revision: number): Promise<SetupRecord> {
    const record = await this.get(id);
    if (revision < 1 || revision > record.revision) throw notFound('revision');
    const rows = await this.db.getRepository(PatchEntity).find({ where: { setupId: id }, order: { revision: 'DESC' } });
    let document = record.document;
    for (const row of rows) if (row.revision > revision) document = applyPatch(document, row.inverse);
    return { ...record, revision, document: current(document) };
  }

  private async checkAssets(manager: EntityManager, document: Setup): Promise<void> {
    for (const [key, subject] of Object.entries(document.subjects.items)) {
      if (await manager.getRepository(AssetEntity).existsBy({ sha256: subject.asset })) continue;
      throw new HttpProblem(422, 'invalid', 'The setup was not kept.', {
        errors: [{ field: `subjects.items.${key}.asset`, reason: 'no character with this SHA-256 has been brought in' }],
      });
    }
  }

  /** Files of lights, plate and look are here; one that the setup named before and that is lost keeps nobody from going on. */
  private checkFiles(document: Setup, before?: Setup): void {
    const known = new Set(before ? filesOf(before).map((f) => f.sha256) : []);
    const errors = filesOf(document)
      .filter(({ sha256 }) => !known.has(sha256) && !this.blobs.has(sha256))
      .map(({ field }) => ({ field, reason: 'no file with this SHA-256 has been brought in' }));
    if (errors.length) throw new HttpProblem(422, 'invalid', 'The setup was not kept.', { errors });
  }

  /** SHA-256 of every blob that a row needs. */
  async neededBlobs(): Promise<Set<string>> {
    const assets = await this.db.getRepository(AssetEntity).find({ select: { sha256: true } });
    const originals = await this.db.getRepository(OriginalEntity).find({ select: { sha256: true } });
    const proofs = await this.db.getRepository(ProofEntity).find({ select: { picture: true } });
    const luts = await this.db.query<{ lut: string }[]>(
      "SELECT document #>> '{look,lut}' AS lut FROM setup UNION SELECT document #>> '{look,lut}' FROM proof",
    );
    // characters, domes, profiles, gobos, plates: whatever in a document is called an asset
    const files = await this.db.query<{ asset: string }[]>(
      `SELECT DISTINCT a #>> '{}' AS asset FROM (SELECT document FROM setup UNION ALL SELECT document FROM proof) d,
       jsonb_path_query(d.document, '$.*.**.asset') a`,
    );
    return new Set([
      ...[...assets, ...originals].map((a) => a.sha256),
      ...proofs.map((p) => p.picture),
      ...luts.flatMap((l) => l.lut ?? []),
      ...files.map((f) => f.asset),
    ]);
  }
}

/** Every file that a setup names beside its characters, with its field. */
function filesOf({ lights, plate, look }: Setup): { field: string; sha256: string }[] {
  const found: { field: string; sha256: string }[] = [];
  const visit = (value: unknown, field: string): void => {
    if (typeof value !== 'object' || value === null) return;
    for (const [key, inner] of Object.entries(value)) {
      const path = `${field}.${key}`;
      if ((key === 'asset' || key === 'lut') && typeof inner === 'string') found.push({ field: path, sha256: inner });
      else visit(inner, path);
    }
  };
  for (const [field, value] of Object.entries({ lights, plate, look })) visit(value, field);
  return found;
}

/** @throws HttpProblem 422 that names each field. */
export function checked(document: unknown): Setup {
  try {
    return parseSetup(document);
  } catch (error) {
    if (error instanceof SetupError)
      throw new HttpProblem(422, 'invalid', 'The setup was not kept.', { detail: error.message, errors: error.problems });
    throw error;
  }
}
