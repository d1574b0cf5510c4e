// A Plinket of its own for tests, benches and pictures: fresh database, fresh data, free port.
import { spawn } from 'node:child_process';
import { createRequire } from 'node:module';
import { join } from 'node:path';
import { pathToFileURL } from 'node:url';
import { freshFolders } from './fresh.mjs';
import { root } from './paths.mjs';

/** What Node is started with to run TypeScript. */
const running = (file) => {
  const tsx = pathToFileURL(createRequire(import.meta.url).resolve('tsx')).href;
  return ['--no-warnings', '--import', tsx, join(root, file)];
};
export const serverArguments = () => running('server/src/main.ts');
export const nodeArguments = () => running('lab/src/node/main.ts');

/** Starts the server over a database; resolves with its address once it answers. */
export function startServer(env) {
  const child = spawn(process.execPath, serverArguments(), {
    env: { ...process.env, ...env },
    stdio: ['ignore', 'pipe', 'inherit', 'ipc'],
  });
  let said = '';
  const url = new Promise((resolve, reject) => {
    child.stdout.on('data', (part) => {
      said += String(part);
      const match = /ready at (http:\/\/\S+)\s/.exec(said);
      if (match?.[1]) resolve(match[1]);
    });
    child.on('exit', (code) => reject(new Error(`The server stopped with ${code}.`)));
  });
  return { child, url, said: () => said };
}

/** Starts a render node for a server; what it says goes to `say`. */
export function startNode(server, token, more = [], say = () => undefined) {
  const child = spawn(process.execPath, [...nodeArguments(), '--server', server, '--token', token, ...more], {
    stdio: ['ignore', 'pipe', 'inherit', 'ipc'],
  });
  child.stdout.on('data', (line) => say(String(line)));
  return child;
}

/** Serves the built interface over an empty database with the demo in it. */
export async function serveFresh(name, more = {}) {
  const fresh = await freshFolders(name);
  const env = { DATABASE_URL: fresh.database.url, PLINKET_DATA: fresh.data, PORT: '0', ...more };
  const { child, url, said } = startServer(env);
  const gone = new Promise((resolve) => child.on('exit', resolve));
  const stop = async () => {
    child.kill('SIGTERM');
    await gone;
    await fresh.remove();
  };
  try {
    return { url: await url, said, pid: child.pid, database: fresh.database, data: fresh.data, stop };
  } catch (error) {
    await stop();
    throw error;
  }
}
