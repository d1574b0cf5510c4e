import { randomBytes } from 'node:crypto';
import { existsSync, mkdirSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { LEASE_MS } from '@plinket/contract';
import { pino } from 'pino';
import { createServer } from './app.ts';
import { BlobStore } from './data/blobs.ts';
import { openDatabase } from './data/source.ts';
import { bringDemo, bringKits } from './demo.ts';
import { isLoopback } from './door/host.ts';
import { FrameQueue } from './lab/index.ts';
import { serverOf } from './listen.ts';
import { Accounts, MIN_TOKEN } from './people/index.ts';
import { Readers } from './readers/index.ts';
import { FileService } from './services/files.ts';
import { tidy } from './services/upkeep.ts';

const env = (name: string, fallback: string): string => process.env[name] || fallback;
const root = fileURLToPath(new URL('../../', import.meta.url));
// HOST is a name of the shell in many places: where to listen is only ever said to us
const host = env('PLINKET_HOST', '127.0.0.1'),
  port = Number(env('PORT', '4870')),
  data = env('PLINKET_DATA', join(root, '.data')),
  token = process.env['PLINKET_TOKEN'] || undefined,
  // behind a proxy the server listens on loopback, and people come from elsewhere
  guarded = !isLoopback(host) || process.env['PLINKET_PEOPLE'] === 'yes';
const log = pino({ level: env('LOG_LEVEL', 'warn') });
const DAY = 24 * 3600_000;

/** Says in one line what is wrong, and ends. */
function giveUp(message: string): never {
  console.error(message);
  process.exit(2);
}

if (token !== undefined && token.length < MIN_TOKEN)
  giveUp(`PLINKET_TOKEN is what programs say to this server, and is too short: give it ${MIN_TOKEN} characters or more, or leave it out.`);

/** What sessions are signed with: made once and kept beside the files, so that a restart signs nobody out. */
function sessionSecret(): string {
  const path = join(data, 'session-secret');
  if (!existsSync(path)) {
    mkdirSync(data, { recursive: true });
    writeFileSync(path, randomBytes(32).toString('base64url'), { mode: 0o600, flag: 'wx' });
  }
  return readFileSync(path, 'utf8');
}

const db = await openDatabase(env('DATABASE_URL', 'postgres://plinket@127.0.0.1:5432/plinket')).catch((error: Error & { code?: string }) =>
  giveUp(
    error.code === '28P01'
      ? `The database refuses the password in ${join(data, 'postgres/password')}. Delete that file and start again: a new one is set, and nothing else is touched.`
      : `The database cannot be used: ${error.message}`,
  ),
);
const blobs = new BlobStore(join(data, 'blobs'));
const readers = new Readers(log);
readers.warm();

// The first start brings the demo in through the same door as everything else.
await bringDemo(db.manager, blobs, new FileService(blobs, readers));
await bringKits(db.manager, blobs);

const queue = new FrameQueue(db, log);
const { app, lab } = createServer({
  db,
  blobs,
  readers,
  log,
  web: join(root, 'web/dist'),
  hosts: env('PLINKET_HOSTS', '').split(',').filter(Boolean),
  ...(guarded ? { people: { secret: sessionSecret(), token } } : {}),
  writesPerMinute: Number(env('PLINKET_WRITES_PER_MINUTE', '1200')),
  lab: { queue, folder: env('PLINKET_FINISHED', join(data, 'finished')), leaseMs: Number(env('PLINKET_LEASE_MS', String(LEASE_MS))) },
});
lab?.mind();
// the start script brings a node with it, and says the token that this one has
const own = process.env['PLINKET_NODE_TOKEN'];
if (own && lab) await lab.nodes.keepOwn(own);
const first = guarded ? await new Accounts(db.manager).inviteFirst() : undefined;
const server = serverOf(app);
server.once('error', (error: Error & { code?: string }) =>
  giveUp(
    error.code === 'EADDRINUSE'
      ? `Something else answers at ${host}:${port} already. Give another port: PORT=4871 npm start`
      : `The server cannot listen at ${host}:${port}: ${error.message}`,
  ),
);
server.listen(port, host, () => {
  const address = server.address();
  const actual = typeof address === 'object' && address ? address.port : port;
  const url = `http://${host === '0.0.0.0' || host === '::' ? 'localhost' : host}:${actual}`;
  // one line that a person reads and that the start script waits for
  console.log(`Plinket is ready at ${url}`);
  if (first) console.log(`Nobody leads here yet. Whoever opens this within a week does: ${url}/join#${first.invitation}`);
  process.send?.({ port: actual });
});

const upkeep = (): void => void tidy(db.manager, blobs).catch((error: unknown) => log.warn({ err: error as Error }, 'Tidying up failed'));
upkeep();
setInterval(upkeep, DAY).unref();

/** Ends in order: what is being answered is answered, for a moment. */
class Ending {
  private begun = false;
  begin(): void {
    if (this.begun) return;
    this.begun = true;
    server.close();
    server.closeIdleConnections();
    setTimeout(() => server.closeAllConnections(), 1000).unref();
    server.once('close', () => void this.finish());
  }
  private async finish(): Promise<void> {
    await readers.close();
    await lab?.close();
    await db.destroy().catch(() => undefined);
    process.exit(0);
  }
}
const ending = new Ending();
for (const signal of ['SIGINT', 'SIGTERM', 'SIGHUP'] as const) process.on(signal, () => ending.begin());
// the start script is gone, however that came
process.on('disconnect', () => ending.begin());
