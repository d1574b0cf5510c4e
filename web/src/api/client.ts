import {
  assetSchema,
  cubeSchema,
  lightFileSchema,
  originalSchema,
  problemSchema,
  proofListSchema,
  proofSchema,
  setupListSchema,
  setupRecordSchema,
  type AssetRecord,
  type CubeRecord,
  type LightFileRecord,
  type OriginalRecord,
  type Problem,
  type Proof,
  type SetupList,
  type SetupRecord,
} from '@plinket/contract';
import type { Patch, Setup } from '@plinket/core';
import type { z } from 'zod';

/** The server refused, with its reasons. */
export class ApiProblem extends Error {
  readonly problem: Problem;
  constructor(problem: Problem) {
    super(
      problem.errors?.length
        ? problem.errors.map((e) => (e.field ? `${e.field}: ${e.reason}` : e.reason)).join('; ')
        : (problem.detail ?? problem.title),
    );
    this.problem = problem;
  }
}

/** The server, or its database, does not answer: try again later, nothing is wrong with what was sent. */
export class Unreachable extends Error {}

async function call(path: string, init: RequestInit = {}): Promise<Response> {
  let response: Response;
  try {
    response = await fetch(`/api${path}`, init);
  } catch {
    throw new Unreachable('The server does not answer.');
  }
  if (response.ok) return response;
  if (response.status === 502 || response.status === 503 || response.status === 504) throw new Unreachable('The database does not answer.');
  const parsed = problemSchema.safeParse(await response.json().catch(() => undefined));
  throw new ApiProblem(
    parsed.success ? parsed.data : { type: 'about:blank', title: `The server answered ${response.status}.`, status: response.status },
  );
}

const read = async <T extends z.ZodType>(schema: T, response: Promise<Response>): Promise<z.infer<T>> =>
  schema.parse(await (await response).json());

export const api = {
  setups: (): Promise<SetupList> => read(setupListSchema, call('/setups')),
  setup: (id: string): Promise<SetupRecord> => read(setupRecordSchema, call(`/setups/${id}`)),
  createSetup: (document: Setup): Promise<SetupRecord> =>
    read(
      setupRecordSchema,
      call('/setups', { method: 'POST', headers: { 'Content-Type': 'application/json' }, body: JSON.stringify({ document }) }),
    ),
  patchSetup: (id: string, revision: number, patch: Patch): Promise<SetupRecord> =>
    read(
      setupRecordSchema,
      call(`/setups/${id}`, {
        method: 'PATCH',
        headers: { 'Content-Type': 'application/merge-patch+json', 'If-Match': `"${revision}"` },
        body: JSON.stringify(patch),
      }),
    ),
  assets: (): Promise<AssetRecord[]> => read(assetSchema.array(), call('/assets')),
  addAsset: (fileName: string, bytes: ArrayBuffer): Promise<AssetRecord> =>
    read(
      assetSchema,
      call(`/assets?name=${encodeURIComponent(fileName)}`, {
        method: 'POST',
        headers: { 'Content-Type': 'model/gltf-binary' },
        body: bytes,
      }),
    ),
  originals: (asset: string): Promise<OriginalRecord[]> => read(originalSchema.array(), call(`/assets/${asset}/originals`)),
  addOriginal: (asset: string, file: File): Promise<OriginalRecord> =>
    read(
      originalSchema,
      call(`/assets/${asset}/originals?name=${encodeURIComponent(file.name)}`, {
        method: 'POST',
        headers: { 'Content-Type': 'application/octet-stream' },
        body: file,
      }),
    ),
  addCube: (fileName: string, bytes: ArrayBuffer): Promise<CubeRecord> =>
    read(
      cubeSchema,
      call(`/luts?name=${encodeURIComponent(fileName)}`, { method: 'POST', headers: { 'Content-Type': 'text/plain' }, body: bytes }),
    ),
  addLightFile: (fileName: string, bytes: ArrayBuffer): Promise<LightFileRecord> =>
    read(
      lightFileSchema,
      call(`/light-files?name=${encodeURIComponent(fileName)}`, {
        method: 'POST',
        headers: { 'Content-Type': 'application/octet-stream' },
        body: bytes,
      }),
    ),
  proofs: (id: string): Promise<Proof[]> => read(proofListSchema, call(`/setups/${id}/proofs`)),
  addProof: (id: string, name: string, png: ArrayBuffer): Promise<Proof> =>
    read(
      proofSchema,
      call(`/setups/${id}/proofs?name=${encodeURIComponent(name)}`, {
        method: 'POST',
        headers: { 'Content-Type': 'image/png' },
        body: png,
      }),
    ),
  removeProof: async (id: string): Promise<void> => void (await call(`/proofs/${id}`, { method: 'DELETE' })),
  blobUrl: (sha256: string): string => `/api/blobs/${sha256}`,
};
