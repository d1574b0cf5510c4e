import type { CubeRecord } from '@plinket/contract';
import { CubeError, readCube } from '@plinket/core';
import type { BlobStore } from '../data/blobs.ts';
import { HttpProblem } from '../problem.ts';

/**
 * Keeps a look-up table once it has been read. Setups name it by its SHA-256; the sweep removes it when none does.
 * @throws HttpProblem 422 that names the file, the line and the reason.
 */
export async function addCube(blobs: BlobStore, bytes: Uint8Array, fileName: string): Promise<CubeRecord> {
  try {
    const { title, size } = readCube(new TextDecoder().decode(bytes));
    return { sha256: await blobs.put(bytes), title: title || fileName, size };
  } catch (error) {
    if (!(error instanceof CubeError)) throw error;
    throw new HttpProblem(422, 'cube', `${fileName} was not brought in.`, {
      detail: error.message,
      errors: [{ field: fileName, reason: error.message }],
    });
  }
}
