import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, it } from '@jest/globals';
import { writePng } from '@plinket/core';
import { keeperGlb, keeperSha, problem, silent, TestServer } from '../testing/fixture.ts';
import { Readers } from './readers.ts';

// Files of our own that stop a reader which believes their headers (core/src/testing/hostile).
const path = (name: string): string => new URL(`../../../core/src/testing/hostile/${name}`, import.meta.url).pathname;
const hostile = (name: string): Buffer => readFileSync(path(name));

/** A picture of 4096 × 4096 in few bytes: each row is runs of one colour. It takes a good part of a second to read. */
function large(): Buffer {
  const side = 4096,
    runs = Buffer.concat(Array.from({ length: Math.ceil(side / 127) }, (_, i) => Buffer.from([128 + Math.min(127, side - i * 127), 130])));
  const row = Buffer.concat([Buffer.from([2, 2, side >> 8, side & 255]), runs, runs, runs, runs]);
  return Buffer.concat([Buffer.from(`#?RADIANCE\nFORMAT=32-bit_rle_rgbe\n\n-Y ${side} +X ${side}\n`), ...Array<Buffer>(side).fill(row)]);
}
const folder = mkdtempSync(join(tmpdir(), 'plinket-readers-')),
  slow = join(folder, 'slow.hdr');
writeFileSync(slow, large());
afterAll(() => rmSync(folder, { recursive: true, force: true }));

let server: TestServer;
beforeAll(async () => {
  server = await TestServer.start({}, { megabytes: 700 });
}, 120_000);
afterAll(() => server?.stop());

const light = (bytes: Buffer, name: string) =>
  server.api().post(`/api/light-files?name=${name}`).set('Content-Type', 'application/octet-stream').send(bytes);

describe('hostile files', () => {
  it.each(['exr-piz-claims-16384x8192.exr', 'hdr-claims-16384x8192.hdr', 'png-claims-30000x30000.png'])(
    '%s is refused by its header, before anything is unpacked',
    async (name) => {
      expect(problem(await light(hostile(name), name), 422).errors![0]).toMatchObject({
        field: name,
        reason: expect.stringContaining('too many'),
      });
    },
  );
  it.each(['exr-762-h-dwaa.exr', 'exr-1241-h-dwab.exr', 'exr-1511-h-dwaa.exr'])('%s is refused by what is damaged in it', async (name) => {
    expect(problem(await light(hostile(name), name), 422).errors![0]!.reason).toMatch(/cannot be decompressed|The file ends/);
  });
  it.each(['glb-sparse-count-1e15.glb', 'glb-zero-accessor-300M.glb'])(
    '%s is refused by its counts, its time or its memory',
    async (name) => {
      const reason = problem(await server.bring(name, hostile(name)), 422).errors![0]!.reason;
      expect(reason.length).toBeGreaterThan(10);
    },
  );
  it('a document of five thousand levels is refused with its field', async () => {
    const sent = server.api().post('/api/setups').set('Content-Type', 'application/json');
    problem(await sent.send(hostile('setup-deep-5000.json').toString()), 422);
  });
  it('a proof whose setup holds NUL is refused', async () => {
    await server.bring();
    const { id } = await server.created();
    const png = Buffer.from(writePng(4, 5, new Uint8Array(80), { ...server.setup, brief: 'a\0b' }));
    const kept = await server.api().post(`/api/setups/${id}/proofs`).set('Content-Type', 'image/png').send(png);
    expect(problem(kept, 422).errors![0]).toEqual({ field: 'picture', reason: 'brief: holds the character NUL' });
  });
  it('others are answered while one is read, and good files are taken after it', async () => {
    const reading = light(readFileSync(slow), 'slow.hdr').then((r) => r);
    const good = server.bring().then((r) => r);
    const first = await Promise.race([
      reading.then(() => 'read'),
      server
        .api()
        .get('/api/health')
        .then(() => 'health'),
    ]);
    expect(first).toBe('health');
    expect((await reading).status).toBe(201);
    expect((await good).status).toBe(201);
  });
});

describe('a reading thread', () => {
  it('may take its time to start: that is not the file’s', async () => {
    // no file could be read in so little time, were the start counted with it
    const readers = new Readers(silent, { seconds: { proof: 0.5 } });
    await expect(readers.read('proof', path('png-claims-30000x30000.png'), 'p.png')).rejects.toThrow(/too many|larger|PNG/);
    await readers.close();
  });
  it('that takes too long is ended and replaced', async () => {
    const readers = new Readers(silent, { seconds: { light: 0.01 } });
    await expect(readers.read('light', slow, 'slow.hdr')).rejects.toThrow('longer than 0.01 s');
    await readers.close();
  });
  it('does not go on for who is gone: neither the file in hand nor those that wait', async () => {
    const readers = new Readers(silent, { seconds: { light: 3600 } });
    const [first, second] = [new AbortController(), new AbortController()];

    const reading = readers.read('light', slow, 'a.hdr', first.signal);
    const waiting = readers.read('light', slow, 'b.hdr', second.signal);
    const good = readers.read('light', path('hdr-claims-16384x8192.hdr'), 'c.hdr');
    second.abort();
    await expect(waiting).rejects.toThrow('is gone');
    first.abort();
    await expect(reading).rejects.toThrow('is gone');
    await expect(good).rejects.toThrow('too many');
    await readers.close();
  });
  it('that takes too much memory is ended and replaced', async () => {
    const readers = new Readers(silent, { megabytes: 1 });
    const keeper = server.blobs.path(keeperSha);
    expect(keeperGlb.length).toBeGreaterThan(1_000_000);
    await expect(readers.read('character', keeper, 'keeper.glb')).rejects.toThrow('more than 1 MB of memory');
    await readers.close();
  });
  it('that fails in a way nobody foresaw refuses its file in plain words', async () => {
    await expect(server.readers.read('character', '/nowhere/at/all', 'x.glb')).rejects.toThrow('it cannot be read');
  });
});
