// `npm start`: installs what is missing, starts the database on loopback, builds, loads the demo and serves. Ctrl-C stops
// everything that was started here.
import { spawn } from 'node:child_process';
import { createServer } from 'node:net';
import { join } from 'node:path';
import { createRequire } from 'node:module';
import { pathToFileURL } from 'node:url';
import { ensurePackages } from './lib/packages.mjs';
import { root } from './lib/paths.mjs';

const wanted = Number(process.env.PORT ?? 4870);
const data = process.env.PLINKET_DATA ?? join(root, '.data');

const portIsFree = (port) =>
  new Promise((resolve) => {
    const server = createServer().once('error', () => resolve(false));
    server.listen(port, '127.0.0.1', () => server.close(() => resolve(true)));
  });

async function answersAsPlinket(port) {
  try {
    const response = await fetch(`http://127.0.0.1:${port}/api/health`, { signal: AbortSignal.timeout(2000) });
    return (await response.json()).name === 'plinket';
  } catch {
    return false;
  }
}

async function main() {
  if (!(await portIsFree(wanted)) && (await answersAsPlinket(wanted))) {
    console.log(`Plinket is already running at http://127.0.0.1:${wanted}`);
    return;
  }
  let port = wanted;
  while (!(await portIsFree(port))) port++;
  ensurePackages();
  const { ensureKernel, ensureWeb } = await import('./build.mjs');
  await ensureKernel();
  await ensureWeb();
  const { startPostgres } = await import('./lib/postgres.mjs');
  const database = await startPostgres({ folder: join(data, 'postgres'), fallback: '/var/lib/plinket/postgres' });
  const tsx = pathToFileURL(createRequire(import.meta.url).resolve('tsx')).href;
  const server = spawn(process.execPath, ['--no-warnings', '--import', tsx, join(root, 'server/src/main.ts')], {
    stdio: 'inherit',
    env: { ...process.env, PORT: String(port), DATABASE_URL: database.url, PLINKET_DATA: data },
  });
  let stopping = false;
  const stop = () => {
    if (stopping) return;
    stopping = true;
    server.kill('SIGTERM');
  };
  process.on('SIGINT', stop);
  process.on('SIGTERM', stop);
  const code = await new Promise((resolve) => server.on('exit', (c) => resolve(c ?? 0)));
  if (database.startedHere) database.stop();
  process.exitCode = stopping ? 0 : code;
}

main().catch((error) => {
  console.error(error.message);
  process.exitCode = 1;
});
