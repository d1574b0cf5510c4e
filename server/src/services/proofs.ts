import { randomUUID } from 'node:crypto';
import { migrateSetup, readPngSetup, SetupError, type Setup } from '@plinket/core';
import type { Proof } from '@plinket/contract';
import type { DataSource } from 'typeorm';
import type { BlobStore } from '../data/blobs.ts';
import { ProofEntity, SetupEntity, type ProofRow } from '../data/entities.ts';
import { HttpProblem, notFound } from '../problem.ts';

const toRecord = (r: ProofRow): Proof => ({
  id: r.id,
  setupId: r.setupId,
  name: r.name,
  picture: r.picture,
  width: r.width,
  height: r.height,
  document: migrateSetup(r.document) as Setup,
  createdAt: r.createdAt.toISOString(),
});

/** Proofs: a PNG that carries its setup is picture and setup in one. */
export class ProofService {
  private readonly db: DataSource;
  private readonly blobs: BlobStore;
  constructor(db: DataSource, blobs: BlobStore) {
    this.db = db;
    this.blobs = blobs;
  }

  async list(setupId: string): Promise<Proof[]> {
    if (!(await this.db.getRepository(SetupEntity).existsBy({ id: setupId }))) throw notFound('setup');
    return (await this.db.getRepository(ProofEntity).find({ where: { setupId }, order: { createdAt: 'DESC' }, take: 500 })).map(toRecord);
  }

  /** @throws HttpProblem 404, or 422 when the bytes are not a PNG that carries a setup. */
  async add(setupId: string, png: Uint8Array, name: string): Promise<Proof> {
    if (!(await this.db.getRepository(SetupEntity).existsBy({ id: setupId }))) throw notFound('setup');
    const document = setupInside(png);
    const view = new DataView(png.buffer, png.byteOffset);
    const picture = await this.blobs.put(png);
    const row = { id: randomUUID(), setupId, name, picture, width: view.getUint32(16), height: view.getUint32(20), document } as ProofRow;
    return toRecord(await this.db.getRepository(ProofEntity).save(row));
  }

  async remove(id: string): Promise<void> {
    const { affected } = await this.db.getRepository(ProofEntity).delete({ id });
    if (!affected) throw notFound('proof');
  }
}

function setupInside(png: Uint8Array) {
  const refuse = (reason: string) =>
    new HttpProblem(422, 'invalid', 'The proof was not kept.', { detail: reason, errors: [{ field: 'picture', reason }] });
  try {
    const setup = readPngSetup(png);
    if (setup) return setup;
  } catch (error) {
    throw refuse(error instanceof SetupError ? error.message : 'it is not a PNG that can be read');
  }
  throw refuse('the PNG carries no setup');
}
