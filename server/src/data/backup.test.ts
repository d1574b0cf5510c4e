// Everything out to one file and back into another place, and what is refused. The file is looked into by Debian's unzip as well.
import { spawnSync } from 'node:child_process';
import { mkdtempSync, readFileSync, readdirSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, it } from '@jest/globals';
import { backup, restore } from '../../../scripts/lib/backup.mjs';
import { freshFolders } from '../../../scripts/lib/fresh.mjs';
import { BlobStore } from './blobs.ts';
import { openDatabase } from './source.ts';
import { keeperGlb, keeperSha, TestServer } from '../testing/fixture.ts';

const folder = mkdtempSync(join(tmpdir(), 'plinket-backup-test-'));
const file = join(folder, 'all.backup'),
  blobs = join(folder, 'blobs');
let server: TestServer, setup: string, other: Awaited<ReturnType<typeof freshFolders>>;
const shelves = () => join(server.blobs.path(keeperSha), '../..');

beforeAll(async () => {
  server = await TestServer.start();
  await server.bring().expect(201);
  setup = (await server.created({ name: 'Kept' })).id;
  await server.patch(setup, 1, { name: 'Kept and changed' }).expect(200);
  other = await freshFolders('backup');
});
afterAll(async () => {
  await server.stop();
  await other.remove();
  rmSync(folder, { recursive: true, force: true });
});
const there = () => ({ url: other.database.url, blobs, file });

describe('a backup', () => {
  it('is one file that any reader of zips opens, made while the server runs', async () => {
    const made = await backup({ url: server.cluster.url, blobs: shelves(), file });
    expect([made.blobs, made.damaged]).toEqual([1, []]);
    expect(spawnSync('unzip', ['-t', file], { encoding: 'utf8' }).stdout).toContain('No errors');
    // nothing half-made lies beside it
    expect(readdirSync(folder)).toEqual(['all.backup']);
  });
  it('brings everything back in another place: documents with their histories, and files', async () => {
    expect(await restore(there())).toMatchObject({ blobs: 1, documents: 1 });
    expect(readFileSync(new BlobStore(blobs).path(keeperSha)).equals(keeperGlb)).toBe(true);
    const db = await openDatabase(other.database.url);
    try {
      const [row] = await db.query<{ name: string; revision: number }[]>('SELECT name, revision FROM document WHERE id = $1', [setup]);
      expect(row).toEqual({ name: 'Kept and changed', revision: 2 });
      expect(await db.query('SELECT count(*)::int FROM document_patch')).toEqual([{ count: 1 }]);
    } finally {
      await db.destroy();
    }
  });
  it('does not take the place of what is there, unless that is wished; that is backed up first', async () => {
    await expect(restore(there())).rejects.toThrow('holds 1 documents. Nothing was changed');
    const before = join(folder, 'before.backup');
    expect(await restore({ ...there(), replace: true, before })).toMatchObject({ documents: 1 });
    expect(readFileSync(before).subarray(0, 2).toString()).toBe('PK');
    rmSync(before);
  });
  it('that is damaged, cut off, or none of ours changes nothing', async () => {
    const bytes = readFileSync(file),
      at = bytes.indexOf('glTF');
    expect(at).toBeGreaterThan(0);
    const damaged = join(folder, 'damaged');
    const broken = Buffer.from(bytes);
    broken[at + 1000]! ^= 1;
    const wish = { ...there(), file: damaged, replace: true };
    for (const [content, reason] of [
      [broken, /is damaged|CRC32|corrupt/i],
      [bytes.subarray(0, bytes.length >> 1), /no backup of Plinket, or is cut off/],
      [Buffer.from('nothing like it'), /no backup of Plinket, or is cut off/],
    ] as const) {
      writeFileSync(damaged, content);
      await expect(restore(wish)).rejects.toThrow(reason);
    }
    const db = await openDatabase(other.database.url);
    expect(await db.query('SELECT name FROM document')).toEqual([{ name: 'Kept and changed' }]);
    await db.destroy();
  });
  it('names files that were damaged on the disk, and leaves them out', async () => {
    const path = server.blobs.path(keeperSha);
    writeFileSync(path, 'worn out');
    const made = await backup({ url: server.cluster.url, blobs: shelves(), file: join(folder, 'worn') });
    expect([made.blobs, made.damaged]).toEqual([0, [keeperSha]]);
  });
});
