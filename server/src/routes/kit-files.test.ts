import { afterAll, beforeAll, describe, expect, it } from '@jest/globals';
import { spawnSync } from 'node:child_process';
import { createHash, randomBytes } from 'node:crypto';
import { mkdtempSync, readFileSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { buffer } from 'node:stream/consumers';
import type { Readable } from 'node:stream';
import { emptySetup, kitOf, writePng, type Kit, type Patch } from '@plinket/core';
import { kitRecordSchema } from '@plinket/contract';
import jpeg from 'jpeg-js';
import yazl from 'yazl';
import { problem, TestServer } from '../testing/fixture.ts';

let server: TestServer, other: TestServer;
beforeAll(async () => {
  server = await TestServer.start();
  other = await TestServer.start();
}, 120_000);
afterAll(async () => {
  await server?.stop();
  await other?.stop();
});

const png = Buffer.from(
  writePng(
    4,
    4,
    Uint8Array.from({ length: 64 }, (_, i) => (i % 4 === 3 ? 255 : i * 3)),
  ),
);
const sha = createHash('sha256').update(png).digest('hex');
const { kit: plain } = kitOf(emptySetup('From here'), ['rig', 'stage'], { name: 'Wall of clouds', brief: '', notes: '', tags: [] });
const kit: Kit = JSON.parse(JSON.stringify(plain)) as Kit;
Object.assign(kit.parts.stage!.plate, { kind: 'picture', asset: sha } satisfies Patch);
const photo = Buffer.from(jpeg.encode({ width: 8, height: 8, data: Buffer.alloc(256, 120) }, 80).data);
const photoSha = createHash('sha256').update(photo).digest('hex');
kit.shown = [{ on: 'someone', picture: photoSha, pattern: 'loop', ratio: 2 }];

const fileOf = async (id: string, from = server) => {
  const { body, headers } = await from
    .api()
    .get(`/api/kits/${id}/file`)
    .buffer(true)
    .parse((res, done) => {
      const parts: Buffer[] = [];
      res.on('data', (part: Buffer) => parts.push(part));
      res.on('end', () => done(null, Buffer.concat(parts)));
    })
    .expect(200);
  return { bytes: body as Buffer, headers: headers as Record<string, string> };
};
const bring = (bytes: Buffer, to = other, name = 'clouds.plinket') =>
  to.api().post(`/api/kits/file?name=${name}`).set('Content-Type', 'application/zip').send(bytes);
/** A zip of somebody else. */
async function zipOf(files: Record<string, Buffer | string>, compress = true): Promise<Buffer> {
  const zip = new yazl.ZipFile();
  for (const [name, data] of Object.entries(files)) zip.addBuffer(Buffer.from(data), name, { compress });
  zip.end();
  return buffer(zip.outputStream as Readable);
}
const json = JSON.stringify;

describe('a kit as a file', () => {
  it('goes out with what it names, is whole to Debian’s unzip, and comes in on another server as it was, byte by byte', async () => {
    await server.api().post('/api/light-files?name=clouds.png').set('Content-Type', 'application/octet-stream').send(png).expect(201);
    const picture = (bytes: Buffer) =>
      server.api().post('/api/pictures?name=seen').set('Content-Type', 'application/octet-stream').send(bytes);
    expect((await picture(photo).expect(201)).body).toEqual({ sha256: photoSha, width: 8, height: 8 });
    expect(problem(await picture(photo.subarray(0, 90)), 422).errors).toMatchObject([{ field: 'seen' }]);
    expect(problem(await picture(Buffer.from('GIF89a and more')), 422).errors).toMatchObject([
      { reason: expect.stringContaining('no PNG and no JPEG') },
    ]);
    const { id } = kitRecordSchema.parse((await server.api().post('/api/kits').send({ document: kit }).expect(201)).body);
    const { bytes, headers } = await fileOf(id);
    expect(headers['content-disposition']).toContain('Wall of clouds.plinket');
    const at = join(mkdtempSync(join(tmpdir(), 'plinket-')), 'kit.zip');
    writeFileSync(at, bytes);
    const unzip = spawnSync('unzip', ['-t', at], { encoding: 'utf8' });
    expect([unzip.status, unzip.stdout]).toEqual([0, expect.stringContaining('No errors detected')]);
    const taken = kitRecordSchema.parse((await bring(bytes).expect(201)).body);
    expect(taken.document).toEqual(kit);
    expect(readFileSync(other.blobs.path(sha))).toEqual(png);
    expect((await fileOf(taken.id, other)).bytes).toEqual(bytes);
  });
  it('of version 1 comes in up to date; one of a newer version is refused with both', async () => {
    const { shown: _, ...old } = plain;
    const first = await bring(await zipOf({ 'kit.json': json({ ...old, schemaVersion: 1 }) })).expect(201);
    expect(kitRecordSchema.parse(first.body).document).toEqual(JSON.parse(json(plain)));
    const refused = problem(await bring(await zipOf({ 'kit.json': json({ ...plain, schemaVersion: 9 }) })), 422);
    expect(refused).toMatchObject({
      title: 'clouds.plinket was not brought in.',
      errors: [{ field: 'schemaVersion', reason: 'version 9 is newer than this Plinket reads, which is 2' }],
    });
  });
  it('is refused by name and reason, and nothing of it kept: no zip, no kit, foreign files, tricks with paths, bombs, what is missing or damaged', async () => {
    const missing = 'c'.repeat(64),
      lost = json({ ...kit, parts: { ...kit.parts, stage: { ...kit.parts.stage, plate: { ...kit.parts.stage!.plate, asset: missing } } } });
    const good = await zipOf({ 'kit.json': json(plain) });
    const renamed = (to: string) => {
      // another name of the same length, in the entry and in the directory
      const from = 'x'.repeat(to.length);
      return zipOf({ 'kit.json': json(plain), [from]: '1' }).then((z) => Buffer.from(z.toString('latin1').replaceAll(from, to), 'latin1'));
    };
    const noise = randomBytes(200);
    // says of itself that it unpacks to little, and holds 64 MB of nothing
    const bomb = await zipOf({ 'kit.json': lost, [`files/${missing}`]: Buffer.alloc(64 << 20) });
    const size = Buffer.from([0, 0, 0, 4]);
    const lying = Buffer.from(bomb.toString('latin1').replaceAll(size.toString('latin1'), '\x10\0\0\0'), 'latin1');
    const big = await zipOf({ 'kit.json': Buffer.alloc(2 << 20, ' ') });
    const broken = Buffer.from(good);
    broken[60] = broken[60]! ^ 0xff;
    const stored = await zipOf({ 'kit.json': json(plain) }, false);
    const altered = Buffer.from(stored.toString('latin1').replace('Wall of clouds', 'Wall of crowds'), 'latin1');
    const cases: [string, Buffer, string, RegExp][] = [
      ['no zip', noise, 'clouds.plinket', /cannot be read as a zip/],
      ['cut off', good.subarray(0, good.length - 30), 'clouds.plinket', /cannot be read as a zip/],
      ['no kit', await zipOf({}), 'clouds.plinket', /no kit.json/],
      ['foreign', await zipOf({ 'kit.json': json(plain), 'notes.txt': 'hello' }), 'notes.txt', /no place in a kit/],
      ['upwards', await renamed('../../evil'), 'clouds.plinket', /invalid relative path/],
      ['absolute', await renamed('/etc/hosts'), 'clouds.plinket', /absolute path/],
      ['backwards', await renamed('files\\..\\no'), 'clouds.plinket', /invalid characters/],
      ['too many', await zipOf(Object.fromEntries(Array.from({ length: 201 }, (_, i) => [`f${i}`, '']))), 'clouds.plinket', /at most 200/],
      ['large kit', big, 'kit.json', /too large/],
      ['a bomb', lying, 'clouds.plinket', /cannot be read as a zip: too many bytes/],
      ['no JSON', await zipOf({ 'kit.json': '{' }), 'kit.json', /no JSON/],
      ['another thing', await zipOf({ 'kit.json': '[1]' }), '', /expected object/],
      ['damaged', broken, 'clouds.plinket', /cannot be read as a zip|check sum/],
      ['altered', altered, 'kit.json', /check sum differs/],
      ['missing', await zipOf({ 'kit.json': lost }), 'parts.stage.plate.asset', /is not in clouds.plinket/],
      ['not named', await zipOf({ 'kit.json': json(plain), [`files/${sha}`]: png }), `files/${sha}`, /does not name it/],
      [
        'swapped',
        await zipOf({ 'kit.json': json({ ...kit, shown: [] }), [`files/${sha}`]: Buffer.from('no picture') }),
        `files/${sha}`,
        /SHA-256 differs/,
      ],
    ];
    const count = async () => (await other.db.query<unknown[]>('SELECT FROM document')).length;
    const before = await count();
    for (const [what, bytes, field, reason] of cases) {
      const { errors } = problem(await bring(bytes), 422);
      expect({ what, errors }).toEqual({ what, errors: [{ field, reason: expect.stringMatching(reason) }] });
    }
    expect([await count(), other.blobs.has(missing)]).toEqual([before, false]);
    problem(await other.api().post('/api/kits/file').set('Content-Type', 'text/plain').send('x'), 415);
  }, 60_000);
  it('is not written where a file that it names is gone, and says which', async () => {
    const { id } = kitRecordSchema.parse((await other.api().post('/api/kits').send({ document: kit }).expect(201)).body);
    await other.blobs.sweep(new Set(), -1000);
    expect(
      problem(await other.api().get(`/api/kits/${id}/file`), 409)
        .errors!.map((e) => e.field)
        .sort(),
    ).toEqual([sha, photoSha].sort());
  });
});
