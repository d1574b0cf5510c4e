import { readFileSync } from 'node:fs';
import { createRequire } from 'node:module';
import { ImportError, readGlb } from '@plinket/core';
import { MAX_ORIGINALS, type AssetRecord, type OriginalRecord } from '@plinket/contract';
import { Not, type DataSource } from 'typeorm';
import type { BlobStore } from '../data/blobs.ts';
import { AssetEntity, OriginalEntity, type AssetRow, type OriginalRow } from '../data/entities.ts';
import { HttpProblem, notFound } from '../problem.ts';

/** Draco's decoder, for compressed characters. */
const draco = async (): Promise<Uint8Array> => readFileSync(createRequire(import.meta.url).resolve('draco3dgltf/draco_decoder_gltf.wasm'));

const toRecord = (r: AssetRow): AssetRecord => ({
  sha256: r.sha256,
  name: r.name,
  fileName: r.fileName,
  bytes: r.bytes,
  triangles: r.triangles,
  size: { width: r.width, height: r.height, depth: r.depth },
  createdAt: r.createdAt.toISOString(),
});

/** Characters: every file is read before it is kept, so that what is kept can be traced. */
export class AssetService {
  private readonly db: DataSource;
  private readonly blobs: BlobStore;
  constructor(db: DataSource, blobs: BlobStore) {
    this.db = db;
    this.blobs = blobs;
  }

  async list(): Promise<AssetRecord[]> {
    return (await this.db.getRepository(AssetEntity).find({ order: { createdAt: 'DESC' }, take: 500 })).map(toRecord);
  }

  /** @throws HttpProblem 422 that names the file and the reason. */
  async add(bytes: Uint8Array, fileName: string): Promise<AssetRecord> {
    try {
      const asset = await readGlb(bytes, fileName, { draco });
      const { min, max } = asset.bounds;
      const sha256 = await this.blobs.put(bytes);
      const rows = this.db.getRepository(AssetEntity);
      const known = await rows.findOneBy({ sha256 });
      if (known) return toRecord(known);
      return toRecord(
        await rows.save({
          sha256,
          name: asset.name,
          fileName,
          bytes: bytes.length,
          triangles: asset.triangles,
          width: max[0] - min[0],
          height: max[1] - min[1],
          depth: max[2] - min[2],
        } as AssetRow),
      );
    } catch (error) {
      if (error instanceof ImportError)
        throw new HttpProblem(422, error.code, `${fileName} was not brought in.`, {
          detail: error.message,
          errors: [{ field: fileName, reason: error.message }],
        });
      throw error;
    }
  }

  /** The files that a character was made of, in the order in which they came. @throws HttpProblem 404 */
  async originals(asset: string): Promise<OriginalRecord[]> {
    await this.known(asset);
    const rows = await this.db.getRepository(OriginalEntity).find({ where: { asset }, order: { createdAt: 'ASC' } });
    return rows.map(toOriginal);
  }

  /** Keeps a file that a character was made of; one of the same name is replaced. @throws HttpProblem 404, 409 when there are too many */
  async addOriginal(asset: string, bytes: Uint8Array, fileName: string): Promise<OriginalRecord> {
    await this.known(asset);
    const rows = this.db.getRepository(OriginalEntity);
    const others = await rows.countBy({ asset, fileName: Not(fileName) });
    if (others >= MAX_ORIGINALS)
      throw new HttpProblem(409, 'too-many', `${fileName} was not kept.`, {
        detail: `${MAX_ORIGINALS} files are kept beside this character already, which is the most.`,
      });
    const sha256 = await this.blobs.put(bytes);
    await rows.upsert({ asset, fileName, sha256, bytes: bytes.length } as OriginalRow, ['asset', 'fileName']);
    return toOriginal({ sha256, fileName, bytes: bytes.length } as OriginalRow);
  }

  private async known(sha256: string): Promise<void> {
    if (!(await this.db.getRepository(AssetEntity).existsBy({ sha256 }))) throw notFound('character');
  }
}

const toOriginal = ({ sha256, fileName, bytes }: OriginalRow): OriginalRecord => ({ sha256, fileName, bytes });
