import type { LightFileRecord } from '@plinket/contract';
import { inspectLightFile, LightFileError } from '@plinket/core';
import type { BlobStore } from '../data/blobs.ts';
import { HttpProblem } from '../problem.ts';

/**
 * Keeps a file for a light once it has been read. Setups name it by its SHA-256; the sweep removes it when none does.
 * @throws HttpProblem 422 that names the file and the reason.
 */
export async function addLightFile(blobs: BlobStore, bytes: Uint8Array, fileName: string): Promise<LightFileRecord> {
  try {
    const report = inspectLightFile(bytes);
    return { ...report, sha256: await blobs.put(bytes), fileName };
  } catch (error) {
    if (!(error instanceof LightFileError)) throw error;
    throw new HttpProblem(422, 'light-file', `${fileName} was not brought in.`, {
      detail: error.message,
      errors: [{ field: fileName, reason: error.message }],
    });
  }
}
