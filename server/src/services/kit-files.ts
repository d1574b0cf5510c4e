// Kits as files: `.plinket`, a zip that holds `kit.json` (docs/kit.schema.json) and, under `files/`, every file that it names, by its SHA-256.
import { MAX_JSON_BYTES, MAX_KIT_BYTES } from '@plinket/contract';
import { kitSchema, migrateKit, type FieldProblem, type Kit } from '@plinket/core';
import { promisify } from 'node:util';
import { buffer } from 'node:stream/consumers';
import type { Readable } from 'node:stream';
import { crc32 } from 'node:zlib';
import yauzl, { type Entry, type ZipFile } from 'yauzl';
import yazl from 'yazl';
import type { BlobStore, Received } from '../data/blobs.ts';
import { jsonProblems } from '../door/json.ts';
import { read } from '../door/route.ts';
import { HttpProblem } from '../problem.ts';
import type { FileService } from './files.ts';
import { blobsIn, filesIn } from './refs.ts';

const KIT = 'kit.json',
  FILES = 'files/';
/** Most that a kit's file holds: its kit, and what lights, plates, looks and pictures name. */
const MOST_ENTRIES = 200;
/** The same kit makes the same bytes. */
const NEVER = new Date(1980, 0, 1);

/** A kit and all its files as a zip. @throws HttpProblem 409 where a file that it names is gone */
export function writeKitFile(kit: Kit, blobs: BlobStore): Readable {
  const zip = new yazl.ZipFile();
  const named = blobsIn(kit).sort(),
    gone = named.filter((sha256) => !blobs.has(sha256));
  if (gone.length)
    throw new HttpProblem(409, 'missing-file', `${kit.name} cannot be written.`, {
      errors: gone.map((field) => ({ field, reason: 'the file is not there any more' })),
    });
  zip.addBuffer(Buffer.from(`${JSON.stringify(kit, undefined, 2)}\n`), KIT, { mtime: NEVER, mode: 0o100644 });
  for (const sha256 of named) zip.addFile(blobs.path(sha256), `${FILES}${sha256}`, { mtime: NEVER, mode: 0o100644 });
  zip.end();
  return zip.outputStream as Readable;
}

const problem = (fileName: string, errors: FieldProblem[]): HttpProblem =>
  new HttpProblem(422, 'kit-file', `${fileName} was not brought in.`, { errors });

/** What a zip holds, nothing of it unpacked yet. @throws HttpProblem 422 that names what it must not hold */
async function entriesOf(zip: ZipFile, fileName: string): Promise<Map<string, Entry>> {
  const refuse = (field: string, reason: string) => problem(fileName, [{ field, reason }]);
  if (zip.entryCount > MOST_ENTRIES) throw refuse(fileName, `it holds ${zip.entryCount} files; a kit has at most ${MOST_ENTRIES}`);
  const entries = new Map<string, Entry>();
  let bytes = 0;
  await new Promise<void>((done, fail) => {
    zip.on('error', fail);
    zip.on('end', done);
    zip.on('entry', (entry: Entry) => {
      const name = entry.fileName;
      bytes += entry.uncompressedSize;
      if (name === FILES) return zip.readEntry();
      if (name !== KIT && !/^files\/[0-9a-f]{64}$/.test(name))
        return fail(refuse(name, `it has no place in a kit, which holds ${KIT} and ${FILES}`));
      if (entries.has(name)) return fail(refuse(name, 'it is there twice'));
      if (entry.isEncrypted()) return fail(refuse(name, 'it is encrypted'));
      if (bytes > MAX_KIT_BYTES || (name === KIT && entry.uncompressedSize > MAX_JSON_BYTES))
        return fail(
          refuse(name, `unpacked it would be too large: at most ${MAX_KIT_BYTES >> 20} MB, ${KIT} at most ${MAX_JSON_BYTES >> 20} MB`),
        );
      entries.set(name, entry);
      zip.readEntry();
    });
    zip.readEntry();
  });
  if (!entries.has(KIT)) throw refuse(fileName, `it is no kit: there is no ${KIT} in it`);
  return entries;
}

/** A zip that is damaged, or none, in words. */
const damaged = (fileName: string) => (error: unknown) => {
  if (error instanceof HttpProblem) throw error;
  // trouble of the disk is no fault of the file
  if (error instanceof Error && 'code' in error) throw error;
  throw problem(fileName, [{ field: fileName, reason: `it cannot be read as a zip: ${(error as Error).message}` }]);
};

/** What an entry unpacks to. yauzl ends it with an error where it is more than the directory says. */
async function unpacked(zip: ZipFile, entry: Entry): Promise<Readable> {
  const stream = await (promisify(zip.openReadStream.bind(zip)) as (e: Entry) => Promise<Readable>)(entry);
  // it may fail before anybody reads it; whoever reads it hears of it then
  stream.on('error', () => undefined);
  return stream;
}

/** The kit of a zip. @throws HttpProblem 422 */
async function kitIn(zip: ZipFile, entry: Entry, fileName: string): Promise<Kit> {
  const bytes = await buffer(await unpacked(zip, entry));
  if (crc32(bytes) !== entry.crc32) throw problem(fileName, [{ field: KIT, reason: 'it is damaged: its check sum differs' }]);
  let document: unknown;
  try {
    document = JSON.parse(bytes.toString('utf8'));
  } catch (error) {
    throw problem(fileName, [{ field: KIT, reason: `it is no JSON: ${(error as Error).message}` }]);
  }
  const odd = jsonProblems(document);
  if (odd.length) throw problem(fileName, odd);
  return read(kitSchema, migrateKit(document), `${fileName} was not brought in.`);
}

/**
 * Reads a kit's file, looks every file in it over and keeps them; the kit itself is answered, not kept.
 * @throws HttpProblem 422 that names what in the zip was refused, and why; nothing is kept then that a document names
 */
export async function readKitFile({ path, signal }: Received, fileName: string, blobs: BlobStore, files: FileService): Promise<Kit> {
  const zip = await (promisify(yauzl.open) as (p: string, o: yauzl.Options) => Promise<ZipFile>)(path, {
    lazyEntries: true,
    autoClose: false,
    strictFileNames: true,
  }).catch(damaged(fileName));
  try {
    const entries = await entriesOf(zip, fileName);
    const kit = await kitIn(zip, entries.get(KIT)!, fileName);
    const named = new Map(filesIn(kit).map(({ field, sha256 }) => [sha256, field]));
    const errors: FieldProblem[] = [];
    for (const [sha256, field] of named)
      if (!entries.has(FILES + sha256) && !blobs.renew(sha256)) errors.push({ field, reason: `${FILES}${sha256} is not in ${fileName}` });
    for (const name of entries.keys())
      if (name !== KIT && !named.has(name.slice(FILES.length))) errors.push({ field: name, reason: 'the kit does not name it' });
    if (errors.length) throw problem(fileName, errors);
    for (const [sha256, field] of named) {
      const entry = entries.get(FILES + sha256);
      if (!entry) continue;
      const received: Received = { ...(await blobs.receive(await unpacked(zip, entry), MAX_KIT_BYTES)), ...(signal ? { signal } : {}) };
      try {
        if (received.sha256 !== sha256) throw problem(fileName, [{ field: FILES + sha256, reason: 'it is damaged: its SHA-256 differs' }]);
        await files.inspect(
          field.endsWith('lut') ? 'cube' : field.endsWith('picture') ? 'picture' : 'light',
          received,
          fileName,
          FILES + sha256,
        );
        await blobs.keep(received);
      } finally {
        await blobs.discard(received);
      }
    }
    return kit;
  } catch (error) {
    return damaged(fileName)(error);
  } finally {
    zip.close();
  }
}
