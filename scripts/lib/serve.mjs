// A Plinket of its own for tests, benches and pictures: fresh database, fresh data, free port.
import { spawn } from 'node:child_process';
import { rmSync } from 'node:fs';
import { createRequire } from 'node:module';
import { join } from 'node:path';
import { pathToFileURL } from 'node:url';
import { root } from './paths.mjs';
import { startPostgres } from './postgres.mjs';

/** Serves the built interface over an empty database with the demo in it. */
export async function serveFresh(name) {
  const data = join(root, '.cache', name);
  const database = await startPostgres({
    folder: join(root, '.cache', `${name}-postgres`),
    fallback: `/var/tmp/plinket-${name}-postgres`,
    unsafe: true,
  });
  rmSync(data, { recursive: true, force: true });
  const tsx = pathToFileURL(createRequire(import.meta.url).resolve('tsx')).href;
  const run = (args, env, onLine) => {
    const child = spawn(process.execPath, ['--no-warnings', '--import', tsx, ...args], {
      env: { ...process.env, ...env },
      stdio: ['ignore', 'pipe', 'inherit'],
    });
    child.stdout.on('data', (d) => onLine(String(d)));
    return child;
  };
  let child;
  try {
    await new Promise((resolve, reject) =>
      run([join(root, 'server/src/reset.ts')], { DATABASE_URL: database.url }, () => undefined).on('exit', (code) =>
        code === 0 ? resolve() : reject(new Error('The test database could not be emptied.')),
      ),
    );
    const url = await new Promise((resolve, reject) => {
      child = run([join(root, 'server/src/main.ts')], { DATABASE_URL: database.url, PLINKET_DATA: data, PORT: '0' }, (line) => {
        const match = /http:\/\/\S+/.exec(line);
        if (match) resolve(match[0]);
      });
      child.on('exit', (code) => reject(new Error(`The server stopped with ${code}.`)));
    });
    return {
      url,
      database,
      stop: async () => {
        child.removeAllListeners('exit');
        const gone = new Promise((resolve) => child.on('exit', resolve));
        child.kill('SIGTERM');
        await gone;
        database.stop();
      },
    };
  } catch (error) {
    child?.kill();
    database.stop();
    throw error;
  }
}
