import type { CubeRecord, LightFileRecord, PictureRecord } from '@plinket/contract';
import type { BlobStore, Received } from '../data/blobs.ts';
import { HttpProblem } from '../problem.ts';
import { Unreadable, type ReaderKind, type Readers, type Reports } from '../readers/index.ts';
import { cut } from '../door/route.ts';

/** A text out of a file as the database can keep it: without NUL and other control characters, and whole characters only. */
export const textForDatabase = (text: string, most: number): string =>
  cut(
    text
      .toWellFormed()
      .replace(/\p{Cc}/gu, ' ')
      .trim(),
    most,
  );

/** Files that are read before they are kept. Setups name them by their SHA-256; the sweep removes what nobody names. */
export class FileService {
  private readonly blobs: BlobStore;
  private readonly readers: Readers;
  constructor(blobs: BlobStore, readers: Readers) {
    this.blobs = blobs;
    this.readers = readers;
  }

  /** What a file is. @throws HttpProblem 422 that names the file (or `field`) and the reason */
  async inspect<K extends ReaderKind>(kind: K, { path, signal }: Received, fileName: string, field = fileName): Promise<Reports[K]> {
    try {
      return await this.readers.read(kind, path, fileName, signal);
    } catch (error) {
      if (!(error instanceof Unreadable)) throw error;
      throw new HttpProblem(422, error.code, `${fileName} was not brought in.`, {
        detail: error.message,
        errors: [{ field, reason: error.message }],
      });
    }
  }

  async addLight(received: Received, fileName: string): Promise<LightFileRecord> {
    const report = await this.inspect('light', received, fileName);
    return { ...report, sha256: await this.blobs.keep(received), fileName };
  }

  async addPicture(received: Received, fileName: string): Promise<PictureRecord> {
    const { width, height } = await this.inspect('picture', received, fileName);
    return { sha256: await this.blobs.keep(received), width, height };
  }

  async addCube(received: Received, fileName: string): Promise<CubeRecord> {
    const { title, size } = await this.inspect('cube', received, fileName);
    return { sha256: await this.blobs.keep(received), title: title || fileName, size };
  }
}
