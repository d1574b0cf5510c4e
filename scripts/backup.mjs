// `npm run backup -- FILE` and `npm run restore -- FILE [--replace]`: everything that this Plinket keeps, out to one file and back.
import { existsSync } from 'node:fs';
import { join, resolve } from 'node:path';
import { parseArgs } from 'node:util';
import { takeLock } from './lib/lock.mjs';
import { ensurePackages } from './lib/packages.mjs';
import { root } from './lib/paths.mjs';

const data = process.env.PLINKET_DATA ?? join(root, '.data');
const [what, ...rest] = process.argv.slice(2);
const { values, positionals } = parseArgs({ args: rest, allowPositionals: true, options: { replace: { type: 'boolean' } } });

async function main() {
  const [named] = positionals;
  if (!named || positionals.length > 1)
    throw new Error(what === 'backup' ? 'npm run backup -- FILE: where shall it go?' : 'npm run restore -- FILE [--replace]: from where?');
  const file = resolve(process.env.INIT_CWD ?? '.', named);
  ensurePackages();
  const { startPostgres } = await import('./lib/postgres.mjs');
  const { backup, restore } = await import('./lib/backup.mjs');
  if (what === 'backup' && existsSync(file)) throw new Error(`${file} is there already: nothing is written over it.`);
  const lock = takeLock(data);
  if (what === 'restore' && !lock.mine) throw new Error(`Plinket is running with ${data}: stop it first.`);
  // where Plinket runs its database runs, too, and is left running
  const database = await startPostgres({ folder: join(data, 'postgres'), fallback: '/var/lib/plinket/postgres' });
  const place = { url: database.url, blobs: join(data, 'blobs'), file };
  try {
    if (what === 'backup') {
      const { blobs, bytes, damaged } = await backup(place);
      console.log(`${file}: the database and ${blobs} files, ${Math.ceil(bytes / 1e6)} MB.`);
      for (const sha256 of damaged) console.error(`Damaged on the disk, and left out: ${sha256}`);
    } else {
      const before = `${file}.before-${new Date().toISOString().replace(/[:.]/g, '-')}`;
      const { blobs, documents, at } = await restore({ ...place, replace: values.replace, before });
      console.log(`Restored what was kept on ${at}: ${documents} documents, ${blobs} files. npm start serves them.`);
    }
  } finally {
    if (lock.mine) {
      await database.stop();
      lock.release();
    }
  }
}

main().catch((error) => {
  console.error(error.message);
  process.exitCode = 1;
});
