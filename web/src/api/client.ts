import {
  alongSchema,
  assetListSchema,
  assetSchema,
  boardSchema,
  cubeSchema,
  healthSchema,
  historySchema,
  lightFileSchema,
  originalSchema,
  problemSchema,
  productionRecordSchema,
  productionsSchema,
  proofListSchema,
  proofSchema,
  kitRecordSchema,
  recipeRecordSchema,
  sequenceRecordSchema,
  setupListSchema,
  setupRecordSchema,
  touchedSchema,
  type AddShots,
  type Along,
  type AssetList,
  type AssetRecord,
  type Board,
  type CubeRecord,
  type Health,
  type Holding,
  type LightFileRecord,
  type KitRecord,
  type ListWish,
  type OriginalRecord,
  type Problem,
  type History,
  type Proof,
  type ProofChange,
  pictureSchema,
  type PictureRecord,
  type ProductionRecord,
  type Productions,
  type ProofList,
  type ProofWish,
  type RecipeRecord,
  type SequenceRecord,
  type SetupList,
  type SetupRecord,
  type Touched,
} from '@plinket/contract';
import type { Kit, Patch, Production, Recipe, Sequence, Setup } from '@plinket/core';
import type { z } from 'zod';
import { newId } from '../parts/new-id.ts';

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
export class Unreachable extends Error {
  /** Seconds after which the server wants to be asked again. */
  readonly retryAfter: number | undefined;
  constructor(message: string, retryAfter?: number) {
    super(message);
    this.retryAfter = retryAfter;
  }
}

/** Answers that say nothing about what was asked: somebody between, or the server's own trouble. */
const TROUBLE: { [status: number]: string } = {
  401: 'You are signed out; sign in again.',
  429: 'Too much was sent within a minute.',
  500: 'The server had trouble.',
  502: 'The server does not answer.',
  503: 'The database does not answer.',
  504: 'The server does not answer.',
  507: 'The disk of the server is full.',
};
/** Most letters of a change that goes on being sent after its page is left: a browser takes 64 KiB of that in all (Fetch standard), and a letter is up to three bytes. */
const OUTLIVES = 10_000;
/** A change that is on its way is not lost by a reload. */
const outliving = (body: string): Pick<RequestInit, 'body' | 'keepalive'> => ({ body, keepalive: body.length < OUTLIVES });

/** Longest wait for an answer that needs no long reading, ms. */
const PATIENCE = 20_000;

/** A merge patch for a revision; sent again under the same id it is taken once. */
const patching = (revision: number, id: string, body: RequestInit): RequestInit => ({
  method: 'PATCH',
  headers: { 'Content-Type': 'application/merge-patch+json', 'If-Match': `"${revision}"`, 'Idempotency-Key': id },
  signal: AbortSignal.timeout(PATIENCE),
  ...body,
});

/** Said on this window when the server answers that nobody is signed in. */
const SIGNED_OUT = 'plinket-signed-out';
/** Hears when the server says that nobody is signed in; answers what ends it. */
export function onSignedOut(hear: () => void): () => void {
  window.addEventListener(SIGNED_OUT, hear);
  return () => window.removeEventListener(SIGNED_OUT, hear);
}

export async function call(path: string, init: RequestInit = {}): Promise<Response> {
  let response: Response;
  try {
    response = await fetch(`/api${path}`, init);
  } catch {
    throw new Unreachable('The server does not answer.');
  }
  if (response.ok) return response;
  if (response.status === 401) window.dispatchEvent(new Event(SIGNED_OUT));
  const trouble = TROUBLE[response.status];
  if (trouble) throw new Unreachable(trouble, Number(response.headers.get('retry-after')) || undefined);
  const parsed = problemSchema.safeParse(await response.json().catch(() => undefined));
  throw new ApiProblem(
    parsed.success ? parsed.data : { type: 'about:blank', title: `The server answered ${response.status}.`, status: response.status },
  );
}

export async function read<T extends z.ZodType>(schema: T, asked: Promise<Response>): Promise<z.infer<T>> {
  const response = await asked;
  const body: unknown = await response.json().catch(() => {
    throw new Unreachable('The answer was cut off.');
  });
  return schema.parse(body);
}

export const query = (wish: ProofWish & ListWish): string => {
  const given = Object.entries(wish).filter(([, v]) => v !== undefined && v !== '');
  return given.length ? `?${new URLSearchParams(given.map(([k, v]) => [k, String(v)]))}` : '';
};

export const JSON_TYPE = { 'Content-Type': 'application/json' };
export const posting = (body: object): RequestInit => ({ method: 'POST', headers: JSON_TYPE, body: JSON.stringify(body) });

export const api = {
  /** How the server is; `database` says whether it can save. */
  health: (): Promise<Health> => fetch('/api/health').then(async (r) => healthSchema.parse(await r.json())),
  setups: (wish: ListWish = {}): Promise<SetupList> => read(setupListSchema, call(`/setups${query(wish)}`)),
  /** Says what this page has in hand. */
  hold: async (id: string, holding: Holding): Promise<void> => void (await call(`/setups/${id}/hand`, posting(holding))),
  setup: (id: string): Promise<SetupRecord> => read(setupRecordSchema, call(`/setups/${id}`)),
  createSetup: (document: Setup): Promise<SetupRecord> => read(setupRecordSchema, call('/setups', posting({ document }))),
  /** Sends a change; sent again under the same id it is taken once. */
  patchSetup: (id: string, change: { id: string; revision: number; patch: Patch }): Promise<SetupRecord> =>
    read(setupRecordSchema, call(`/setups/${id}`, patching(change.revision, change.id, { body: JSON.stringify(change.patch) }))),
  removeSetup: async (id: string): Promise<void> => void (await call(`/setups/${id}`, { method: 'DELETE' })),
  restoreSetup: (id: string): Promise<SetupRecord> => read(setupRecordSchema, call(`/setups/${id}/restore`, { method: 'POST' })),
  kits: (wish: ListWish = {}): Promise<SetupList> => read(setupListSchema, call(`/kits${query(wish)}`)),
  kit: (id: string): Promise<KitRecord> => read(kitRecordSchema, call(`/kits/${id}`)),
  createKit: (document: Kit): Promise<KitRecord> => read(kitRecordSchema, call('/kits', posting({ document }))),
  /** @throws ApiProblem of status 412 where the kit was changed meanwhile */
  patchKit: (id: string, revision: number, patch: Patch): Promise<KitRecord> =>
    read(kitRecordSchema, call(`/kits/${id}`, patching(revision, newId(), outliving(JSON.stringify(patch))))),
  /** A kit as it was at a revision. */
  kitAt: (id: string, revision: number): Promise<KitRecord> => read(kitRecordSchema, call(`/kits/${id}/revisions/${revision}`)),
  kitHistory: (id: string): Promise<History> => read(historySchema, call(`/kits/${id}/history`)),
  kitFileUrl: (id: string): string => `/api/kits/${id}/file`,
  /** Brings a kit in from a `.plinket` file. */
  addKitFile: (file: File): Promise<KitRecord> =>
    read(
      kitRecordSchema,
      call(`/kits/file?name=${encodeURIComponent(file.name)}`, {
        method: 'POST',
        headers: { 'Content-Type': 'application/zip' },
        body: file,
      }),
    ),
  removeKit: async (id: string): Promise<void> => void (await call(`/kits/${id}`, { method: 'DELETE' })),
  restoreKit: (id: string): Promise<KitRecord> => read(kitRecordSchema, call(`/kits/${id}/restore`, { method: 'POST' })),
  /** Productions with their sequences. */
  board: (): Promise<Productions> => read(productionsSchema, call('/board')),
  createProduction: (document: Production): Promise<ProductionRecord> =>
    read(productionRecordSchema, call('/productions', posting({ document }))),
  production: (id: string): Promise<ProductionRecord> => read(productionRecordSchema, call(`/productions/${id}`)),
  /** @throws ApiProblem of status 412 where it was changed meanwhile */
  patchProduction: (id: string, revision: number, patch: Patch): Promise<ProductionRecord> =>
    read(productionRecordSchema, call(`/productions/${id}`, patching(revision, newId(), outliving(JSON.stringify(patch))))),
  removeProduction: async (id: string): Promise<void> => void (await call(`/productions/${id}`, { method: 'DELETE' })),
  restoreProduction: async (id: string): Promise<void> => void (await call(`/productions/${id}/restore`, { method: 'POST' })),
  createSequence: (document: Sequence): Promise<SequenceRecord> => read(sequenceRecordSchema, call('/sequences', posting({ document }))),
  sequence: (id: string): Promise<SequenceRecord> => read(sequenceRecordSchema, call(`/sequences/${id}`)),
  /** @throws ApiProblem of status 412 where it was changed meanwhile */
  patchSequence: (id: string, change: { id: string; revision: number; patch: Patch }): Promise<SequenceRecord> =>
    read(sequenceRecordSchema, call(`/sequences/${id}`, patching(change.revision, change.id, outliving(JSON.stringify(change.patch))))),
  removeSequence: async (id: string): Promise<void> => void (await call(`/sequences/${id}`, { method: 'DELETE' })),
  restoreSequence: async (id: string): Promise<void> => void (await call(`/sequences/${id}/restore`, { method: 'POST' })),
  sequenceHistory: (id: string): Promise<History> => read(historySchema, call(`/sequences/${id}/history`)),
  addShots: (id: string, wish: AddShots): Promise<SequenceRecord> =>
    read(sequenceRecordSchema, call(`/sequences/${id}/shots`, posting(wish))),
  /** How the shots of a sequence stand. */
  shots: (id: string): Promise<Board> => read(boardSchema, call(`/sequences/${id}/board`)),
  /** A value of its light in each shot. */
  along: (id: string, path: string): Promise<Along> => read(alongSchema, call(`/sequences/${id}/along?path=${encodeURIComponent(path)}`)),
  /** Which shots a change of the sequence's setup would be seen in. */
  touched: (id: string, patch: Patch): Promise<Touched> => read(touchedSchema, call(`/sequences/${id}/touched`, posting({ patch }))),
  /** The sequence that a setup is a shot of, or that follows it; nothing where it is of none. */
  sequenceOf: async (setup: string): Promise<SequenceRecord | null> => {
    const response = await call(`/setups/${setup}/sequence`);
    return response.status === 204 ? null : read(sequenceRecordSchema, Promise.resolve(response));
  },
  recipes: (wish: ListWish = {}): Promise<SetupList> => read(setupListSchema, call(`/recipes${query(wish)}`)),
  recipe: (id: string): Promise<RecipeRecord> => read(recipeRecordSchema, call(`/recipes/${id}`)),
  createRecipe: (document: Recipe): Promise<RecipeRecord> => read(recipeRecordSchema, call('/recipes', posting({ document }))),
  removeRecipe: async (id: string): Promise<void> => void (await call(`/recipes/${id}`, { method: 'DELETE' })),
  restoreRecipe: (id: string): Promise<RecipeRecord> => read(recipeRecordSchema, call(`/recipes/${id}/restore`, { method: 'POST' })),
  assets: (wish: ListWish = {}): Promise<AssetList> => read(assetListSchema, call(`/assets${query(wish)}`)),
  removeAsset: async (sha256: string): Promise<void> => void (await call(`/assets/${sha256}`, { method: 'DELETE' })),
  restoreAsset: (sha256: string): Promise<AssetRecord> => read(assetSchema, call(`/assets/${sha256}/restore`, { method: 'POST' })),
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
  addPicture: (fileName: string, bytes: Blob): Promise<PictureRecord> =>
    read(
      pictureSchema,
      call(`/pictures?name=${encodeURIComponent(fileName)}`, {
        method: 'POST',
        headers: { 'Content-Type': 'application/octet-stream' },
        body: bytes,
      }),
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
  proofs: (id: string, wish: ListWish = {}): Promise<ProofList> => read(proofListSchema, call(`/setups/${id}/proofs${query(wish)}`)),
  allProofs: (wish: ProofWish = {}): Promise<ProofList> => read(proofListSchema, call(`/proofs${query(wish)}`)),
  changeProof: (id: string, change: ProofChange): Promise<Proof> =>
    read(
      proofSchema,
      call(`/proofs/${id}`, {
        method: 'PATCH',
        headers: { 'Content-Type': 'application/merge-patch+json' },
        ...outliving(JSON.stringify(change)),
      }),
    ),
  /** What was changed, the latest first; `before` a revision. */
  history: (id: string, before?: number): Promise<History> =>
    read(historySchema, call(`/setups/${id}/history${before === undefined ? '' : `?before=${before}`}`)),
  setupAt: (id: string, revision: number): Promise<SetupRecord> => read(setupRecordSchema, call(`/setups/${id}/revisions/${revision}`)),
  proof: (id: string): Promise<Proof> => read(proofSchema, call(`/proofs/${id}`)),
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
  restoreProof: (id: string): Promise<Proof> => read(proofSchema, call(`/proofs/${id}/restore`, { method: 'POST' })),
  blobUrl: (sha256: string): string => `/api/blobs/${sha256}`,
};
