import { createServer } from 'node:http';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { pino } from 'pino';
import { createApp } from './app.ts';
import { BlobStore } from './data/blobs.ts';
import { openDatabase } from './data/source.ts';
import { bringDemo } from './demo.ts';
import { AssetService } from './services/assets.ts';
import { SetupService } from './services/setups.ts';

const env = (name: string, fallback: string): string => process.env[name] ?? fallback;
const root = fileURLToPath(new URL('../../', import.meta.url));
const host = env('HOST', '127.0.0.1'),
  port = Number(env('PORT', '4870')),
  data = env('PLINKET_DATA', join(root, '.data'));
const log = pino({ level: env('LOG_LEVEL', 'warn') });

const db = await openDatabase(env('DATABASE_URL', 'postgres://plinket@127.0.0.1:5432/plinket'));
const blobs = new BlobStore(join(data, 'blobs'));
const setups = new SetupService(db, blobs);

// The first start brings the demo in through the same door as everything else.
if ((await setups.list()).length === 0) await bringDemo(new AssetService(db, blobs), setups);
await blobs.sweep(await setups.neededBlobs());

const app = createApp({ db, blobs, log, web: join(root, 'web/dist'), hosts: env('PLINKET_HOSTS', '').split(',').filter(Boolean) });
const server = createServer(app);
server.listen(port, host, () => {
  const address = server.address();
  const actual = typeof address === 'object' && address ? address.port : port;
  // one line that a person reads and that the start script waits for
  console.log(`Plinket is ready at http://${host === '0.0.0.0' ? 'localhost' : host}:${actual}`);
});

async function stop(): Promise<void> {
  server.closeAllConnections();
  server.close();
  await db.destroy().catch(() => undefined);
  process.exit(0);
}
process.on('SIGINT', () => void stop());
process.on('SIGTERM', () => void stop());
