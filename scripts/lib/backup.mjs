// Everything that a Plinket keeps, as one file: the database as pg_dump writes it and every blob, each checked by its hash, going out and coming in.
import { Buffer } from 'node:buffer';
import { createHash, randomUUID } from 'node:crypto';
import {
  createReadStream,
  createWriteStream,
  existsSync,
  mkdirSync,
  mkdtempSync,
  readdirSync,
  renameSync,
  rmSync,
  statSync,
} from 'node:fs';
import { tmpdir } from 'node:os';
import { basename, dirname, join } from 'node:path';
import { pipeline } from 'node:stream/promises';
import pg from 'pg';
import yauzl from 'yauzl';
import yazl from 'yazl';
import { program } from './postgres.mjs';
import { runLater } from './run.mjs';

const FORMAT = 'plinket-backup',
  VERSION = 1;
const MANIFEST = 'manifest.json',
  DUMP = 'database.dump';
const isHash = (name) => /^[0-9a-f]{64}$/.test(name);
/** Manifests are small texts; whatever says to be one and is larger is none. */
const MOST_MANIFEST = 64 * 1024 * 1024;

/** A file that is no backup, or a damaged one: nothing was changed. */
export class BackupError extends Error {}

async function hashOf(path) {
  const hash = createHash('sha256');
  await pipeline(createReadStream(path), hash);
  return hash.digest('hex');
}

/** Arguments and environment of PostgreSQL's programs for an address; the password stands in no argument. */
function reached(url) {
  const { hostname, port, username, password, pathname } = new URL(url);
  return {
    args: ['-h', hostname, '-p', port, '-U', decodeURIComponent(username), '-d', pathname.slice(1)],
    env: { ...process.env, PGPASSWORD: decodeURIComponent(password) },
  };
}

const blobsOf = (folder) =>
  (existsSync(folder) ? readdirSync(folder) : [])
    .filter((shelf) => /^[0-9a-f]{2}$/.test(shelf))
    .flatMap((shelf) => readdirSync(join(folder, shelf)).filter(isHash));

/**
 * Writes everything into one file, also while the server runs: it is whole or not there.
 * @param options url: of the database; blobs: their folder; file: where to
 * @returns how many blobs and bytes it holds, and blobs that were damaged on the disk and are left out
 */
export async function backup({ url, blobs, file }) {
  const aside = mkdtempSync(join(tmpdir(), 'plinket-backup-')),
    dump = join(aside, DUMP),
    part = `${file}.${process.pid}.part`;
  try {
    const { args, env } = reached(url);
    await runLater(program('pg_dump'), ['--format=custom', '--compress=6', `--file=${dump}`, '--no-owner', ...args], { env });
    // the blobs after the database: whatever it needs is there by now
    const found = [],
      damaged = [];
    for (const sha256 of blobsOf(blobs)) {
      const path = join(blobs, sha256.slice(0, 2), sha256);
      if (!existsSync(path)) continue;
      if ((await hashOf(path)) === sha256) found.push({ sha256, bytes: statSync(path).size });
      else damaged.push(sha256);
    }
    const manifest = { format: FORMAT, version: VERSION, at: new Date().toISOString(), database: await hashOf(dump), blobs: found };
    const zip = new yazl.ZipFile();
    zip.addBuffer(Buffer.from(JSON.stringify(manifest)), MANIFEST);
    zip.addFile(dump, DUMP, { compress: false });
    for (const { sha256 } of found) zip.addFile(join(blobs, sha256.slice(0, 2), sha256), `blobs/${sha256}`, { compress: false });
    zip.end();
    await pipeline(zip.outputStream, createWriteStream(part, { mode: 0o600 }));
    renameSync(part, file);
    return { blobs: found.length, bytes: statSync(file).size, damaged };
  } finally {
    rmSync(aside, { recursive: true, force: true });
    rmSync(part, { force: true });
  }
}

/** The entries of a zip by their names. @throws BackupError */
async function openZip(file) {
  let zip;
  try {
    zip = await yauzl.openPromise(file, { autoClose: false });
  } catch (error) {
    throw new BackupError(`${basename(file)} is no backup of Plinket, or is cut off: ${error.message}`);
  }
  const entries = new Map();
  for await (const entry of zip.eachEntry()) entries.set(entry.fileName, entry);
  return { zip, entries };
}

/** Takes an entry out to a file; answers its hash. */
async function takeOut({ zip, entries }, name, path) {
  const entry = entries.get(name);
  if (!entry) throw new BackupError(`${name} is missing from the backup.`);
  const hash = createHash('sha256');
  const stream = await zip.openReadStreamPromise(entry);
  stream.on('data', (part) => hash.update(part));
  await pipeline(stream, createWriteStream(path, { mode: 0o600 }));
  return hash.digest('hex');
}

async function manifestOf(zip) {
  const entry = zip.entries.get(MANIFEST);
  if (!entry || entry.uncompressedSize > MOST_MANIFEST) throw new BackupError('It is no backup of Plinket: it says nothing about itself.');
  const parts = [];
  for await (const part of await zip.zip.openReadStreamPromise(entry)) parts.push(part);
  let said;
  try {
    said = JSON.parse(Buffer.concat(parts).toString());
  } catch {
    throw new BackupError('Its manifest is no JSON.');
  }
  if (said.format !== FORMAT || !Array.isArray(said.blobs)) throw new BackupError('It is no backup of Plinket.');
  if (said.version !== VERSION) throw new BackupError(`It is a backup of version ${said.version}; this Plinket reads ${VERSION}.`);
  if (!said.blobs.every((b) => isHash(b.sha256))) throw new BackupError('Its manifest names a file that is none of ours.');
  return said;
}

async function withClient(url, work) {
  const client = new pg.Client({ connectionString: url });
  await client.connect();
  try {
    return await work(client);
  } finally {
    await client.end();
  }
}

/** How many documents a database holds; 0 where it holds nothing at all. */
const documentsIn = (url) =>
  withClient(url, async (client) => {
    const { rows } = await client.query("SELECT to_regclass('public.document') AS there");
    return rows[0].there ? Number((await client.query('SELECT count(*) FROM document')).rows[0].count) : 0;
  });

/**
 * Brings everything back. All of it is checked before anything is changed; a database that holds documents is left alone unless `replace` says otherwise,
 * and is then backed up to `before` first.
 * @returns how many blobs and documents there are
 * @throws BackupError when the file is damaged or none of ours, or the place is not empty
 */
export async function restore({ url, blobs, file, replace = false, before }) {
  const opened = await openZip(file);
  mkdirSync(blobs, { recursive: true, mode: 0o700 });
  const aside = join(blobs, `restoring-${randomUUID()}`);
  try {
    const said = await manifestOf(opened);
    const there = await documentsIn(url);
    if (there > 0 && !replace)
      throw new BackupError(
        `The database holds ${there} documents. Nothing was changed; --replace puts the backup in their place (they are backed up first).`,
      );
    mkdirSync(aside, { mode: 0o700 });
    const dump = join(aside, DUMP);
    if ((await takeOut(opened, DUMP, dump)) !== said.database) throw new BackupError('The database in it is damaged. Nothing was changed.');
    for (const { sha256 } of said.blobs)
      if ((await takeOut(opened, `blobs/${sha256}`, join(aside, sha256))) !== sha256)
        throw new BackupError(`The file ${sha256.slice(0, 12)}… in it is damaged. Nothing was changed.`);
    if (there > 0 && before) await backup({ url, blobs, file: before });
    for (const { sha256 } of said.blobs) {
      const path = join(blobs, sha256.slice(0, 2), sha256);
      mkdirSync(dirname(path), { recursive: true, mode: 0o700 });
      renameSync(join(aside, sha256), path);
    }
    await withClient(url, (client) =>
      client.query(
        'DROP SCHEMA IF EXISTS pgboss CASCADE; DROP SCHEMA public CASCADE; CREATE SCHEMA public; GRANT USAGE ON SCHEMA public TO public',
      ),
    );
    const { args, env } = reached(url);
    await runLater(program('pg_restore'), ['--single-transaction', '--exit-on-error', '--no-owner', ...args, dump], { env });
    return { blobs: said.blobs.length, documents: await documentsIn(url), at: said.at };
  } finally {
    opened.zip.close();
    rmSync(aside, { recursive: true, force: true });
  }
}
