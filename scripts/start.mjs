// `npm start`: installs what is missing, starts the database on loopback, builds, loads the demo and serves. Ctrl-C stops
// everything that was started here.
import { createServer } from 'node:net';
import { join } from 'node:path';
import { takeLock } from './lib/lock.mjs';
import { ensurePackages } from './lib/packages.mjs';
import { root } from './lib/paths.mjs';
import { pause } from './lib/processes.mjs';

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

/** How long a start waits for another one of the same folder that neither answers nor ends, ms. */
const PATIENCE = 60_000;

/**
 * The lock of the data folder, or nothing. Who starts the same folder twice is sent to the first; one that does not answer is
 * on its way up, or down (Ctrl-C and up again at once): it is waited for, and what it leaves is taken over.
 */
async function lockOrNothing(wishes) {
  const end = Date.now() + PATIENCE;
  for (let said = false; ; said = true) {
    const lock = takeLock(data);
    if (lock.mine) return lock;
    const { pid, port } = lock;
    if (port && (await answersAsPlinket(port))) {
      console.log(`Plinket is already running at http://127.0.0.1:${port}`);
      return undefined;
    }
    const who = `Another start of Plinket (process ${pid}) has ${data} and does not answer yet.`;
    if (wishes.heard) return undefined;
    if (Date.now() > end) throw new Error(`${who} Wait for it, or stop it: kill ${pid}`);
    if (!said) console.log(`${who} Waiting for it; Ctrl-C stops waiting.`);
    await pause(200);
  }
}

async function serve(lock, wishes) {
  let port = wanted;
  while (port && !(await portIsFree(port))) port++;
  ensurePackages();
  const { ensureKernel, ensureWeb } = await import('./build.mjs');
  await ensureKernel();
  await ensureWeb();
  const { startPostgres } = await import('./lib/postgres.mjs');
  const { House } = await import('./lib/house.mjs');
  const database = await startPostgres({ folder: join(data, 'postgres'), fallback: '/var/lib/plinket/postgres' });
  const house = new House({ database, port, data, ready: (at) => lock.tell(at) });
  const running = house.run();
  wishes.listen(() => void house.stop());
  process.exitCode = await running;
}

/** Signals that ask for the end, heard from the first moment: one that comes too early waits until there is something to end. */
class StopWishes {
  heard = 0;
  constructor() {
    for (const signal of ['SIGINT', 'SIGTERM', 'SIGHUP']) process.on(signal, () => this.hear());
    if (process.env.npm_lifecycle_event) this.endWith(process.ppid);
  }
  /** npm tells nobody that it was told to end: who was started by it asks whether it is still there. */
  endWith(npm) {
    const timer = setInterval(() => {
      if (process.ppid === npm) return;
      clearInterval(timer);
      this.hear();
    }, 500);
    timer.unref();
  }
  hear() {
    this.heard++;
    this.stop?.();
  }
  listen(stop) {
    this.stop = stop;
    for (let n = 0; n < this.heard; n++) stop();
  }
}

async function main() {
  if (!Number.isInteger(wanted) || wanted < 0 || wanted > 65_535)
    throw new Error(`PORT=${process.env.PORT} is no port: give a number from 1 to 65535, or 0 for any that is free.`);
  const wishes = new StopWishes();
  const lock = await lockOrNothing(wishes);
  if (!lock) return;
  try {
    await serve(lock, wishes);
  } finally {
    lock.release();
  }
}

main().catch((error) => {
  console.error(error.message);
  process.exitCode = 1;
});
