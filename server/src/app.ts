import {
  createSetupSchema,
  idSchema,
  MAX_ASSET_BYTES,
  MAX_CUBE_BYTES,
  MAX_JSON_BYTES,
  MAX_LIGHT_FILE_BYTES,
  MAX_PICTURE_BYTES,
  openApiDocument,
  patchSchema,
  sha256Schema,
  type Problem,
} from '@plinket/contract';
import type { Patch } from '@plinket/core';
import express, { type ErrorRequestHandler, type Express, type Request } from 'express';
import { rateLimit } from 'express-rate-limit';
import helmet from 'helmet';
import { existsSync } from 'node:fs';
import { join } from 'node:path';
import type { Logger } from 'pino';
import type { DataSource } from 'typeorm';
import type { z } from 'zod';
import type { BlobStore } from './data/blobs.ts';
import { guard } from './guard.ts';
import { HttpProblem, isDatabaseGone, notFound } from './problem.ts';
import { AssetService } from './services/assets.ts';
import { addLightFile } from './services/light-files.ts';
import { addCube } from './services/luts.ts';
import { ProofService } from './services/proofs.ts';
import { SetupService } from './services/setups.ts';

export const VERSION = '0.1.0';

export interface AppOptions {
  db: DataSource;
  blobs: BlobStore;
  log: Logger;
  /** Folder of the built interface; without it only the interface for programs is served. */
  web?: string;
  /** Names other than loopback under which the server answers. */
  hosts?: string[];
  /** Writes a minute from one address. */
  writesPerMinute?: number;
}

/** Reads a value by the contract. @throws HttpProblem 422 naming each field. */
function read<T extends z.ZodType>(schema: T, value: unknown, title: string): z.infer<T> {
  const result = schema.safeParse(value);
  if (result.success) return result.data;
  throw new HttpProblem(422, 'invalid', title, {
    errors: result.error.issues.map((i) => ({ field: i.path.join('.').replace(/^document\./, ''), reason: i.message })),
  });
}

const idOf = (req: Request): string => {
  const result = idSchema.safeParse(req.params['id']);
  if (!result.success) throw notFound('thing: the id is not a UUID');
  return result.data;
};

const assetOf = (req: Request): string => {
  const sha256 = sha256Schema.safeParse(req.params['sha256']);
  if (!sha256.success) throw notFound('character: its name is no SHA-256');
  return sha256.data;
};

/** The revision in If-Match: a number in quotation marks. */
function revisionOf(req: Request): number {
  const header = req.headers['if-match'];
  if (header === undefined)
    throw new HttpProblem(428, 'if-match', 'If-Match is missing.', { detail: 'Say which revision the patch was made for.' });
  const match = /^"(\d+)"$/.exec(header);
  if (!match)
    throw new HttpProblem(400, 'if-match', 'If-Match cannot be read.', { detail: `${header} is not a revision in quotation marks.` });
  return Number(match[1]);
}

function bytesOf(req: Request, type: string): Uint8Array {
  if (!(req.body instanceof Uint8Array) || !req.body.length) throw new HttpProblem(415, 'media-type', `A body of type ${type} is needed.`);
  // plain bytes: slice of a Buffer shares its pool, slice of these copies
  return new Uint8Array(req.body.buffer, req.body.byteOffset, req.body.byteLength);
}

/** The server's routes over a database and a blob store. */
export function createApp({ db, blobs, log, web, hosts, writesPerMinute = 1200 }: AppOptions): Express {
  const app = express();
  const setups = new SetupService(db, blobs),
    assets = new AssetService(db, blobs),
    proofs = new ProofService(db, blobs);
  app.disable('x-powered-by');
  app.use(
    helmet({
      crossOriginEmbedderPolicy: { policy: 'require-corp' },
      crossOriginOpenerPolicy: { policy: 'same-origin' },
      crossOriginResourcePolicy: { policy: 'same-origin' },
      strictTransportSecurity: false,
      contentSecurityPolicy: {
        directives: {
          'script-src': ["'self'", "'wasm-unsafe-eval'"],
          'worker-src': ["'self'", 'blob:'],
          'img-src': ["'self'", 'data:', 'blob:'],
          'style-src': ["'self'", "'unsafe-inline'"],
          'upgrade-insecure-requests': null,
        },
      },
    }),
    guard(hosts),
  );
  app.use(
    '/api',
    rateLimit({
      windowMs: 60_000,
      limit: writesPerMinute,
      skip: (req) => req.method === 'GET',
      handler: () => {
        throw new HttpProblem(429, 'too-many', 'Too many writes in one minute.');
      },
    }),
  );
  app.use(express.json({ limit: MAX_JSON_BYTES, type: ['application/json', 'application/merge-patch+json'], strict: false }));

  app.get('/api/health', async (_req, res) => {
    const database = await db.query('SELECT 1').then(
      () => 'up',
      () => 'down',
    );
    res.status(database === 'up' ? 200 : 503).json({ name: 'plinket', database, version: VERSION });
  });
  app.get('/api/openapi.json', (_req, res) => void res.json(openApiDocument(VERSION)));

  app.get('/api/setups', async (_req, res) => void res.json(await setups.list()));
  app.post('/api/setups', async (req, res) => {
    const { document } = read(createSetupSchema, req.body, 'The setup was not kept.');
    const record = await setups.create(document);
    res.status(201).location(`/api/setups/${record.id}`).setHeader('ETag', `"${record.revision}"`).json(record);
  });
  app.get('/api/setups/:id', async (req, res) => {
    const record = await setups.get(idOf(req));
    res.setHeader('ETag', `"${record.revision}"`).json(record);
  });
  app.patch('/api/setups/:id', async (req, res) => {
    if (!req.is('application/merge-patch+json'))
      throw new HttpProblem(415, 'media-type', 'A body of type application/merge-patch+json is needed.');
    const patch = read(patchSchema, req.body, 'The patch was not kept.') as Patch;
    const record = await setups.patch(idOf(req), revisionOf(req), patch);
    res.setHeader('ETag', `"${record.revision}"`).json(record);
  });
  app.get('/api/setups/:id/history', async (req, res) => void res.json(await setups.history(idOf(req))));
  app.get(
    '/api/setups/:id/revisions/:revision',
    async (req, res) => void res.json(await setups.at(idOf(req), Number(req.params['revision']))),
  );

  app.get('/api/setups/:id/proofs', async (req, res) => void res.json(await proofs.list(idOf(req))));
  app.post('/api/setups/:id/proofs', express.raw({ type: 'image/png', limit: MAX_PICTURE_BYTES }), async (req, res) => {
    const name = String(req.query['name'] ?? '').slice(0, 120) || 'Proof';
    res.status(201).json(await proofs.add(idOf(req), bytesOf(req, 'image/png'), name));
  });
  app.delete('/api/proofs/:id', async (req, res) => {
    await proofs.remove(idOf(req));
    res.status(204).end();
  });

  app.get('/api/assets', async (_req, res) => void res.json(await assets.list()));
  app.post('/api/assets', express.raw({ type: 'model/gltf-binary', limit: MAX_ASSET_BYTES }), async (req, res) => {
    const name = String(req.query['name'] ?? 'character.glb').slice(0, 200);
    res.status(201).json(await assets.add(bytesOf(req, 'model/gltf-binary'), name));
  });
  app.get('/api/assets/:sha256/originals', async (req, res) => void res.json(await assets.originals(assetOf(req))));
  app.post('/api/assets/:sha256/originals', express.raw({ type: 'application/octet-stream', limit: MAX_ASSET_BYTES }), async (req, res) => {
    const name = String(req.query['name'] ?? 'original').slice(0, 200) || 'original';
    res.status(201).json(await assets.addOriginal(assetOf(req), bytesOf(req, 'application/octet-stream'), name));
  });
  app.post('/api/luts', express.raw({ type: 'text/plain', limit: MAX_CUBE_BYTES }), async (req, res) => {
    const name = String(req.query['name'] ?? 'table.cube').slice(0, 200);
    res.status(201).json(await addCube(blobs, bytesOf(req, 'text/plain'), name));
  });
  app.post('/api/light-files', express.raw({ type: 'application/octet-stream', limit: MAX_LIGHT_FILE_BYTES }), async (req, res) => {
    const name = String(req.query['name'] ?? 'file').slice(0, 200);
    res.status(201).json(await addLightFile(blobs, bytesOf(req, 'application/octet-stream'), name));
  });
  app.get('/api/blobs/:sha256', (req, res) => {
    const sha256 = sha256Schema.safeParse(req.params.sha256);
    if (!sha256.success || !blobs.has(sha256.data)) throw notFound('file');
    // named by content: it can never change
    res.sendFile(blobs.path(sha256.data), {
      immutable: true,
      maxAge: '1y',
      headers: { 'Content-Type': 'application/octet-stream' },
      dotfiles: 'allow',
    });
  });
  app.use('/api', () => {
    throw notFound('address');
  });

  if (web && existsSync(join(web, 'index.html'))) {
    app.use(express.static(web, { index: false, maxAge: '1h' }));
    app.get('/{*path}', (_req, res) => res.sendFile(join(web, 'index.html'), { headers: { 'Cache-Control': 'no-cache' } }));
  }
  app.use(toProblem(log));
  return app;
}

/** Every error leaves as problem details; what nobody foresaw is logged and told without its inner parts. */
const toProblem =
  (log: Logger): ErrorRequestHandler =>
  (error, req, res, next) => {
    if (res.headersSent) return next(error);
    const problem = problemOf(error);
    if (problem.status >= 500) log.error({ err: error as Error, url: req.originalUrl }, problem.title);
    if (problem.status === 503) res.setHeader('Retry-After', '2');
    res.status(problem.status).type('application/problem+json').send(JSON.stringify(problem));
  };

function problemOf(error: unknown): Problem {
  if (error instanceof HttpProblem) return error.problem;
  const e = error as { type?: string; status?: number; message?: string };
  if (e.type === 'entity.too.large') return { type: 'urn:plinket:problem:too-large', title: 'The body is too large.', status: 413 };
  if (e.type === 'entity.parse.failed')
    return { type: 'urn:plinket:problem:not-json', title: 'The body is not JSON.', status: 400, detail: e.message };
  if (isDatabaseGone(error))
    return {
      type: 'urn:plinket:problem:database',
      title: 'The database does not answer.',
      status: 503,
      detail: 'Nothing was kept. Try again in a moment.',
    };
  if (e.status && e.status < 500) return { type: 'about:blank', title: e.message ?? 'Bad request', status: e.status };
  return { type: 'about:blank', title: 'Something went wrong here.', status: 500 };
}
