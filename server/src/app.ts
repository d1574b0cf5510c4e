import { createProductionSchema, createRecipeSchema, createSetupSchema, openApiDocument, PROBLEM } from '@plinket/contract';
import express, { type ErrorRequestHandler, type Express } from 'express';
import { rateLimit } from 'express-rate-limit';
import helmet from 'helmet';
import { existsSync } from 'node:fs';
import { join } from 'node:path';
import type { Logger } from 'pino';
import type { DataSource } from 'typeorm';
import type { BlobStore } from './data/blobs.ts';
import { jsonBodies, plainBodies } from './door/body.ts';
import { host } from './door/host.ts';
import { inTime, route } from './door/route.ts';
import { Accounts, Asking, DeedBook, guard, openHere, peopleRoutes, sessions, type Guard } from './people/index.ts';
import { HttpProblem, notFound, problemOf } from './problem.ts';
import type { Readers } from './readers/index.ts';
import { assetRoutes } from './routes/assets.ts';
import { documentRoutes } from './routes/documents.ts';
import { eventRoutes } from './routes/events.ts';
import { fileRoutes } from './routes/files.ts';
import { labRoutes } from './routes/lab.ts';
import { nodeRoutes } from './routes/node.ts';
import { Lab, type LabOptions } from './lab/index.ts';
import { readFile } from 'node:fs/promises';
import { kitRoutes } from './routes/kits.ts';
import { proofRoutes } from './routes/proofs.ts';
import { sequenceRoutes } from './routes/sequences.ts';
import { AssetService } from './services/assets.ts';
import { FileService } from './services/files.ts';
import { Hands } from './services/hands.ts';
import { Live } from './services/live.ts';
import { ProofService } from './services/proofs.ts';
import { kitService } from './services/kits.ts';
import { productionService, SequenceService } from './services/sequences.ts';
import { recipeService } from './services/recipes.ts';
import { setupService } from './services/setups.ts';

export const VERSION = '0.1.0';

export interface AppOptions {
  db: DataSource;
  blobs: BlobStore;
  readers: Readers;
  log: Logger;
  /** Folder of the built interface; without it only the interface for programs is served. */
  web?: string;
  /** Names other than loopback under which the server answers. */
  hosts?: string[];
  /** Where people must sign in, as they must where the server is reached beyond loopback: what sessions are signed with, and the password of programs. */
  people?: Pick<Guard, 'secret' | 'token' | 'stillInMs'>;
  /** Writes a minute from one address. */
  writesPerMinute?: number;
  /** The queue of frames and where finished pictures go; without it there is no Lab. */
  lab?: LabOptions;
}

const security = helmet({
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
});

/** Seconds after which one may ask again, where nothing better is known. */
const RETRY_AFTER = '2';

/** The server's routes over a database and a blob store. */
export const createApp = (options: AppOptions): Express => createServer(options).app;

/** The same, with the Lab behind them, which wants to be minded and closed. */
export function createServer(options: AppOptions): { app: Express; lab: Lab | undefined } {
  const { db, blobs, readers, log, web, hosts, people, writesPerMinute = 1200 } = options;
  const app = express();
  const files = new FileService(blobs, readers),
    live = new Live(),
    asking = new Asking(),
    listened = { live, hands: new Hands(), asking },
    setups = setupService(db.manager, blobs, live, asking),
    sequences = new SequenceService(db.manager, setups, live, asking),
    productions = productionService(db.manager, asking),
    kits = kitService(db.manager, blobs, asking);
  const documents = { setups, sequences, productions, kits, blob: (sha256: string) => readFile(blobs.path(sha256)) };
  const lab = options.lab && new Lab(db.manager, blobs, documents, options.lab, log);
  app.disable('x-powered-by');
  // a proxy on this machine may speak TLS for us
  app.set('trust proxy', 'loopback');
  app.use(security, host(hosts, people !== undefined));
  const guarding = people && { ...people, asking, log, accounts: new Accounts(db.manager), deeds: new DeedBook(db.manager) };
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
    // who asks is asked before a body is read
    ...(guarding ? [sessions(db, guarding.secret, log), guard(guarding)] : []),
    plainBodies,
    jsonBodies,
  );
  app.get(
    '/api/health',
    route(async () => {
      const database = await inTime(db.query('SELECT 1'), 2000).then(
        () => 'up',
        () => 'down',
      );
      return { status: database === 'up' ? 200 : 503, body: { name: 'plinket', database, version: VERSION } };
    }),
  );
  app.get('/api/openapi.json', (_req, res) => void res.json(openApiDocument(VERSION)));
  app.use(
    '/api',
    guarding ? peopleRoutes(guarding) : openHere(),
    documentRoutes('/setups', 'setup', createSetupSchema, setups),
    kitRoutes(kits, files, blobs),
    documentRoutes('/recipes', 'intention', createRecipeSchema, recipeService(db.manager, asking)),
    documentRoutes('/productions', 'production', createProductionSchema, productions),
    sequenceRoutes(sequences),
    eventRoutes('/setups', setups, listened),
    eventRoutes('/sequences', sequences, listened),
    proofRoutes(new ProofService(db.manager, blobs), files, blobs),
    assetRoutes(new AssetService(db.manager, blobs), files, blobs),
    fileRoutes(files, blobs),
    ...(lab ? [labRoutes(lab, blobs), nodeRoutes(lab, blobs)] : []),
    () => {
      throw notFound('address');
    },
  );
  if (web && existsSync(join(web, 'index.html'))) servePage(app, web);
  app.use(() => {
    throw notFound('page');
  });
  app.use(toProblem(log));
  return { app, lab };
}

/** The built interface: its files, and one page for every address that is no file. */
function servePage(app: Express, web: string): void {
  app.use(express.static(web, { index: false, maxAge: '1h' }));
  app.get('/{*path}', (req, res) => {
    if (/\.[^/]*$/.test(req.path) || !req.accepts('html')) throw notFound('file');
    res.sendFile(join(web, 'index.html'), { headers: { 'Cache-Control': 'no-cache' } });
  });
}

/** Every error leaves as problem details; what nobody foresaw is logged and told without its inner parts. */
const toProblem =
  (log: Logger): ErrorRequestHandler =>
  (error, req, res, next) => {
    if (res.headersSent) return next(error);
    const problem = problemOf(error);
    if (problem.status >= 500) log.error({ err: error as Error, url: req.originalUrl }, problem.title);
    if ((problem.status === 503 || problem.status === 507) && !res.hasHeader('Retry-After')) res.setHeader('Retry-After', RETRY_AFTER);
    // a body that nobody will read any more must not hold the connection up
    if (!req.complete) res.setHeader('Connection', 'close');
    res.status(problem.status).type(PROBLEM).send(JSON.stringify(problem));
  };
