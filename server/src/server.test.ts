import { createHash } from 'node:crypto';
import { mkdtempSync, readFileSync, readdirSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, it } from '@jest/globals';
import { dome, readGlb, SCHEMA_VERSION, writePng, type Setup } from '@plinket/core';
import { demoSetup, keeperFile } from '@plinket/demo';
import { MAX_ORIGINALS, openApiDocument, problemSchema, setupRecordSchema } from '@plinket/contract';
import type { Express } from 'express';
import { pino } from 'pino';
import request from 'supertest';
import type { DataSource } from 'typeorm';
import { startPostgres } from '../../scripts/lib/postgres.mjs';
import { root } from '../../scripts/lib/paths.mjs';
import { BlobStore, createApp, openDatabase } from './index.ts';
import { SetupService } from './services/setups.ts';

let app: Express, db: DataSource, cluster: Awaited<ReturnType<typeof startPostgres>>, setup: Setup, sha: string;
const blobs = new BlobStore(join(mkdtempSync(join(tmpdir(), 'plinket-')), 'blobs'));
const glb = readFileSync(keeperFile);
const log = pino({ level: 'silent' });

beforeAll(async () => {
  cluster = await startPostgres({ folder: join(root, '.cache/test-postgres'), fallback: '/var/tmp/plinket-test-postgres', unsafe: true });
  db = await openDatabase(cluster.url);
  await db.query('TRUNCATE setup, setup_patch, asset, proof CASCADE');
  app = createApp({ db, blobs, log, writesPerMinute: 10_000 });
  sha = createHash('sha256').update(glb).digest('hex');
  // as JSON has it: without −0
  setup = JSON.parse(JSON.stringify(demoSetup(sha, (await readGlb(glb)).head))) as Setup;
}, 120_000);
afterAll(async () => {
  await db?.destroy();
  cluster?.stop();
});

const api = () => request(app);
const mergePatch = (id: string, revision: number | string, body: object) =>
  api()
    .patch(`/api/setups/${id}`)
    .set('Content-Type', 'application/merge-patch+json')
    .set('If-Match', `"${revision}"`)
    .send(JSON.stringify(body));
const created = async () => setupRecordSchema.parse((await api().post('/api/setups').send({ document: setup }).expect(201)).body);
const NOWHERE = '00000000-0000-4000-8000-000000000000';
/** A problem as RFC 9457 wants it. */
const problem = (response: request.Response, status: number) => {
  expect(response.status).toBe(status);
  expect(response.headers['content-type']).toMatch(/^application\/problem\+json/);
  const body = problemSchema.parse(response.body);
  expect(body.status).toBe(status);
  return body;
};

describe('characters', () => {
  it('are refused with file and reason before anything is kept', async () => {
    const body = problem(
      await api().post('/api/assets?name=goat.glb').set('Content-Type', 'model/gltf-binary').send(glb.subarray(0, 5000)),
      422,
    );
    expect(body.errors![0]!.field).toBe('goat.glb');
    expect(body.detail).toContain('cut off');
    expect((await api().get('/api/assets')).body).toEqual([]);
  });
  it('are wanted as GLB', async () => {
    problem(await api().post('/api/assets?name=x.glb').set('Content-Type', 'text/plain').send('hello'), 415);
  });
  it('are kept under their SHA-256, once, and come back as they were', async () => {
    for (let i = 0; i < 2; i++) {
      const { body } = await api().post('/api/assets?name=keeper.glb').set('Content-Type', 'model/gltf-binary').send(glb).expect(201);
      expect(body).toMatchObject({ sha256: sha, name: 'The old keeper', bytes: glb.length });
      expect(body.triangles).toBeGreaterThan(80_000);
    }
    expect((await api().get('/api/assets')).body).toHaveLength(1);
    const back = await api()
      .get(`/api/blobs/${sha}`)
      .buffer(true)
      .parse((res, done) => {
        const chunks: Buffer[] = [];
        res.on('data', (c: Buffer) => chunks.push(c));
        res.on('end', () => done(null, Buffer.concat(chunks)));
      });
    expect(
      createHash('sha256')
        .update(back.body as Buffer)
        .digest('hex'),
    ).toBe(sha);
    problem(await api().get(`/api/blobs/${'0'.repeat(64)}`), 404);
  });
  it('keep beside them the files that they were made of, which nothing sweeps away', async () => {
    const keep = (asset: string, name: string, bytes: string) =>
      api()
        .post(`/api/assets/${asset}/originals?name=${encodeURIComponent(name)}`)
        .set('Content-Type', 'application/octet-stream')
        .send(Buffer.from(bytes));
    const first = (await keep(sha, 'keeper & son.obj', 'v 0 0 0').expect(201)).body as { sha256: string };
    expect(first).toEqual({ sha256: createHash('sha256').update('v 0 0 0').digest('hex'), fileName: 'keeper & son.obj', bytes: 7 });
    await keep(sha, 'keeper.mtl', 'newmtl a').expect(201);
    // the same name again is the newer file
    await keep(sha, 'keeper & son.obj', 'v 1 1 1').expect(201);
    const { body } = await api().get(`/api/assets/${sha}/originals`).expect(200);
    expect((body as { fileName: string }[]).map((o) => o.fileName).sort()).toEqual(['keeper & son.obj', 'keeper.mtl']);
    const needed = await new SetupService(db, blobs).neededBlobs();
    for (const o of body as { sha256: string }[]) expect(needed.has(o.sha256)).toBe(true);
    expect(needed.has(first.sha256)).toBe(false);
    problem(await keep('0'.repeat(64), 'a.obj', 'x'), 404);
    problem(await keep('nonsense', 'a.obj', 'x'), 404);
    problem(await api().get(`/api/assets/${'0'.repeat(64)}/originals`), 404);
    problem(await api().post(`/api/assets/${sha}/originals?name=a`).set('Content-Type', 'text/plain').send('x'), 415);
  });
  it('have so many files beside them and no more', async () => {
    for (let k = 0; k < MAX_ORIGINALS - 2; k++)
      await api()
        .post(`/api/assets/${sha}/originals?name=more-${k}`)
        .set('Content-Type', 'application/octet-stream')
        .send(Buffer.from('x'))
        .expect(201);
    const more = await api()
      .post(`/api/assets/${sha}/originals?name=last`)
      .set('Content-Type', 'application/octet-stream')
      .send(Buffer.from('x'));
    expect(problem(more, 409).detail).toContain(String(MAX_ORIGINALS));
  });
});

describe('setups', () => {
  it('are created, listed and read with their revision as ETag', async () => {
    const record = await created();
    expect(record).toMatchObject({ revision: 1, document: setup });
    expect((await api().get('/api/setups')).body[0]).toMatchObject({ id: record.id, name: setup.name });
    expect((await api().get(`/api/setups/${record.id}`)).headers['etag']).toBe('"1"');
  });
  it('change by merge patches, each kept with its words', async () => {
    const { id } = await created();
    const first = await mergePatch(id, 1, { lights: { items: { fill: { stops: -1 } } } }).expect(200);
    expect(first.body).toMatchObject({ revision: 2 });
    expect(first.headers['etag']).toBe('"2"');
    await mergePatch(id, 2, { brief: 'tender' }).expect(200);
    const { body } = await api().get(`/api/setups/${id}/history`);
    expect((body as { words: string }[]).map((h) => h.words)).toEqual(['brief', 'fill: −1 stop']);
  });
  it('can be had as they were at any revision', async () => {
    const { id } = await created();
    await mergePatch(id, 1, { lights: { order: ['key'], items: { fill: null, rim: null, wall: null, dome: null } } }).expect(200);
    await mergePatch(id, 2, { name: 'Later' }).expect(200);
    expect((await api().get(`/api/setups/${id}/revisions/1`)).body).toMatchObject({ revision: 1, document: setup });
    expect((await api().get(`/api/setups/${id}/revisions/2`)).body.document.lights.order).toEqual(['key']);
    problem(await api().get(`/api/setups/${id}/revisions/9`), 404);
  });
  it('refuse a stale revision with the newer document and change nothing', async () => {
    const { id } = await created();
    await mergePatch(id, 1, { name: 'Theirs' }).expect(200);
    const body = problem(await mergePatch(id, 1, { name: 'Mine' }), 412);
    expect(body.current).toMatchObject({ revision: 2, document: { name: 'Theirs' } });
    expect((await api().get(`/api/setups/${id}`)).body.document.name).toBe('Theirs');
  });
  it('let only one of many writers with the same revision in', async () => {
    const { id } = await created();
    const answers = await Promise.all(Array.from({ length: 8 }, (_, i) => mergePatch(id, 1, { name: `Writer ${i}` })));
    expect(answers.map((a) => a.status).sort()).toEqual([200, 412, 412, 412, 412, 412, 412, 412]);
    expect((await api().get(`/api/setups/${id}`)).body.revision).toBe(2);
  });
  it.each<[string, object, string]>([
    ['a value of the wrong kind', { lights: { items: { key: { stops: 'loud' } } } }, 'lights.items.key.stops'],
    ['a removed field', { camera: null }, 'camera'],
    ['an unknown field', { volume: 11 }, ''],
    ['an order that names nothing', { lights: { order: ['ghost'] } }, 'lights.order'],
    [
      'a character that was never brought in',
      { subjects: { items: { keeper: { asset: 'f'.repeat(64) } } } },
      'subjects.items.keeper.asset',
    ],
  ])('refuse %s and name the field', async (_name, patch, field) => {
    const { id } = await created();
    const body = problem(await mergePatch(id, 1, patch), 422);
    expect(body.errors!.map((e) => e.field)).toContain(field);
    expect((await api().get(`/api/setups/${id}`)).body).toMatchObject({ revision: 1, document: setup });
  });
  it('refuse what is not a document from the start', async () => {
    const body = problem(
      await api()
        .post('/api/setups')
        .send({ document: { ...setup, lights: 3 } }),
      422,
    );
    expect(body.errors!.map((e) => e.field)).toContain('lights');
    problem(await api().post('/api/setups').set('Content-Type', 'application/json').send('{"document": '), 400);
  });
  it('are not found under a wrong id', async () => {
    problem(await api().get(`/api/setups/${NOWHERE}`), 404);
    problem(await api().get('/api/setups/keeper'), 404);
    problem(await mergePatch(NOWHERE, 1, { name: 'x' }), 404);
    problem(await api().get('/api/nothing'), 404);
  });
  it('want If-Match and the right media type', async () => {
    const { id } = await created();
    problem(await api().patch(`/api/setups/${id}`).set('Content-Type', 'application/merge-patch+json').send('{}'), 428);
    problem(await mergePatch(id, 'x"', {}), 400);
    problem(await api().patch(`/api/setups/${id}`).set('If-Match', '"1"').send({ name: 'x' }), 415);
    problem(
      await api().patch(`/api/setups/${id}`).set('If-Match', '"1"').set('Content-Type', 'application/merge-patch+json').send('[1]'),
      422,
    );
  });
  it('refuse a body that is too large', async () => {
    const { id } = await created();
    problem(await mergePatch(id, 1, { brief: 'x'.repeat(1_200_000) }), 413);
  });
});

describe('proofs', () => {
  const png = () => Buffer.from(writePng(4, 5, new Uint8Array(80), setup));
  const send = (id: string, body: Buffer) => api().post(`/api/setups/${id}/proofs?name=First`).set('Content-Type', 'image/png').send(body);
  it('are a picture and its setup together', async () => {
    const { id } = await created();
    const { body } = await send(id, png()).expect(201);
    expect(body).toMatchObject({ name: 'First', width: 4, height: 5, document: setup });
    expect((await api().get(`/api/setups/${id}/proofs`)).body).toHaveLength(1);
    expect((await api().get('/api/setups')).body.find((s: { id: string }) => s.id === id).picture).toBe(body.picture);
    await api().delete(`/api/proofs/${body.id}`).expect(204);
    problem(await api().delete(`/api/proofs/${body.id}`), 404);
  });
  it('are refused when the PNG carries no setup, is none, or belongs nowhere', async () => {
    const { id } = await created();
    expect(problem(await send(id, Buffer.from(writePng(4, 5, new Uint8Array(80)))), 422).errors![0]).toEqual({
      field: 'picture',
      reason: 'the PNG carries no setup',
    });
    expect(problem(await send(id, Buffer.from('not a picture')), 422).detail).toContain('not a PNG');
    problem(await send(NOWHERE, png()), 404);
  });
});

describe('the door', () => {
  it('answers under loopback names only', async () => {
    problem(await api().get('/api/health').set('Host', 'evil.example'), 403);
    await api().get('/api/health').set('Host', 'localhost:4870').expect(200);
  });
  it('refuses writes from pages of another origin', async () => {
    const { id } = await created();
    problem(await mergePatch(id, 1, { name: 'x' }).set('Origin', 'http://evil.example'), 403);
    const same = mergePatch(id, 1, { name: 'x' }).set('Host', '127.0.0.1:9').set('Origin', 'http://127.0.0.1:9');
    await same.expect(200);
  });
  it('isolates the page, so that threads may share memory', async () => {
    const { headers } = await api().get('/api/health');
    expect(headers['cross-origin-opener-policy']).toBe('same-origin');
    expect(headers['cross-origin-embedder-policy']).toBe('require-corp');
    expect(headers['content-security-policy']).toContain("script-src 'self' 'wasm-unsafe-eval'");
  });
  it('describes itself: every route of the contract stands in the OpenAPI document', async () => {
    const { body } = await api().get('/api/openapi.json').expect(200);
    expect(body).toEqual(JSON.parse(JSON.stringify(openApiDocument('0.1.0'))));
    for (const path of ['/api/setups/{id}', '/api/assets', '/api/setups/{id}/proofs', '/api/blobs/{sha256}'])
      expect(Object.keys(body.paths)).toContain(path);
    expect(body.paths['/api/setups/{id}'].patch.requestBody.content).toHaveProperty('application/merge-patch+json');
  });
});

describe('blobs', () => {
  it('leave nothing aside and are swept when no row needs them', async () => {
    const folder = mkdtempSync(join(tmpdir(), 'plinket-'));
    const store = new BlobStore(folder);
    const [a, b] = [await store.put(Buffer.from('a')), await store.put(Buffer.from('b'))];
    expect(await store.put(Buffer.from('a'))).toBe(a);
    expect(readdirSync(join(folder, 'aside'))).toEqual([]);
    expect(await store.sweep(new Set([a]))).toBe(0);
    expect(await store.sweep(new Set([a]), -1)).toBe(1);
    expect([store.has(a), store.has(b)]).toEqual([true, false]);
  });
});

describe('a database that goes away', () => {
  it('is told as 503, and all goes on when it is back', async () => {
    const { id } = await created();
    cluster.stop();
    const body = problem(await mergePatch(id, 1, { name: 'x' }), 503);
    expect(body.detail).toContain('Nothing was kept');
    expect((await api().get('/api/health')).body.database).toBe('down');
    cluster.start();
    const again = await mergePatch(id, 1, { name: 'back' });
    expect(again.status).toBe(200);
    expect(again.body).toMatchObject({ revision: 2, document: { name: 'back' } });
  }, 60_000);
});

describe('files for lights', () => {
  const post = (body: Buffer, name: string) =>
    api().post(`/api/light-files?name=${name}`).set('Content-Type', 'application/octet-stream').send(body);
  /** Two by one pixels of a Radiance picture. */
  const picture = Buffer.from([...Buffer.from('#?RADIANCE\n\n-Y 1 +X 2\n'), 128, 64, 32, 129, 9, 9, 9, 128]);
  it('are read before they are kept, and the reason is named when they cannot be', async () => {
    const cut = problem(await post(picture.subarray(0, picture.length - 4), 'cove.hdr'), 422);
    expect(cut.errors![0]).toEqual({ field: 'cove.hdr', reason: 'The file ends in row 1.' });
    const odd = problem(await post(Buffer.from('hello'), 'hello.txt'), 422);
    expect(odd.detail).toContain('no .hdr, .exr, .ies or .png');
  });
  it('say what they are, and are swept only when no setup names them', async () => {
    const kept = (await post(picture, 'cove.hdr').expect(201)).body as { sha256: string };
    expect(kept).toMatchObject({ kind: 'dome', width: 2, height: 1, fileName: 'cove.hdr', layers: [''] });
    const record = await created();
    const light = dome({ fill: { kind: 'picture', asset: kept.sha256, name: 'cove.hdr', layer: '' } });
    const order = [...record.document.lights.order, 'cove'];
    expect((await mergePatch(record.id, 1, { lights: { order, items: { cove: light } } })).status).toBe(200);
    expect((await new SetupService(db, blobs).neededBlobs()).has(kept.sha256)).toBe(true);
  });
});

describe('files that were never brought in', () => {
  const nowhere = 'd'.repeat(64);
  it('are refused where a setup names them, with the field', async () => {
    const { id, document } = await created();
    const order = [...document.lights.order, 'cove'];
    const cove = dome({ fill: { kind: 'picture', asset: nowhere, name: 'cove.hdr', layer: '' } });
    for (const [patch, field] of [
      [{ lights: { order, items: { cove } } }, 'lights.items.cove.fill.asset'],
      [{ plate: { kind: 'picture', asset: nowhere } }, 'plate.asset'],
      [{ look: { view: 'lut', lut: nowhere } }, 'look.lut'],
    ] as const) {
      const { errors } = problem(await mergePatch(id, 1, patch), 422);
      expect(errors).toEqual([{ field, reason: 'no file with this SHA-256 has been brought in' }]);
    }
    const fresh = { ...document, plate: { ...document.plate, kind: 'picture', asset: nowhere } };
    expect(problem(await api().post('/api/setups').send({ document: fresh }), 422).errors![0]!.field).toBe('plate.asset');
    expect((await api().get(`/api/setups/${id}`)).body).toMatchObject({ revision: 1 });
  });
  it('that a setup named before they were lost keep nobody from going on', async () => {
    const { id } = await created();
    await db.query(`UPDATE setup SET document = jsonb_set(document, '{plate}', $2) WHERE id = $1`, [
      id,
      JSON.stringify({ ...setup.plate, kind: 'picture', asset: nowhere }),
    ]);
    expect((await mergePatch(id, 1, { brief: 'goes on' })).status).toBe(200);
    problem(await mergePatch(id, 2, { plate: { asset: 'e'.repeat(64) } }), 422);
    expect((await mergePatch(id, 2, { plate: { kind: 'none', asset: null } })).status).toBe(200);
    // once it is gone it is as any other that is not here
    problem(await mergePatch(id, 3, { plate: { kind: 'picture', asset: nowhere } }), 422);
  });
});

describe('look-up tables', () => {
  const post = (body: string, name = 'warm.cube') =>
    api().post(`/api/luts?name=${name}`).set('Content-Type', 'text/plain').send(Buffer.from(body));
  const table = 'TITLE "Warm"\nLUT_3D_SIZE 2\n' + Array.from({ length: 8 }, () => '1 0.9 0.8').join('\n');
  it('are read before they are kept, and the line is named when they cannot be', async () => {
    const body = problem(await post('LUT_3D_SIZE 2\n0 0 x\n'), 422);
    expect(body.errors![0]).toEqual({ field: 'warm.cube', reason: 'Line 2: “0 0 x” is not three numbers.' });
  });
  it('are swept only when no setup names them', async () => {
    const { sha256, title } = (await post(table).expect(201)).body as { sha256: string; title: string };
    expect(title).toBe('Warm');
    const record = await created();
    expect(await new SetupService(db, blobs).neededBlobs()).not.toContain(sha256);
    expect((await mergePatch(record.id, 1, { look: { view: 'lut', lut: sha256 } })).status).toBe(200);
    expect((await new SetupService(db, blobs).neededBlobs()).has(sha256)).toBe(true);
  });
});

describe('setups that an older version kept', () => {
  it('are read, patched and restored in today’s version', async () => {
    const record = await created();
    const { props: _, haze: __, ...older } = record.document;
    const document = { ...older, schemaVersion: 1, look: { view: 'plain' } };
    await db.query('UPDATE setup SET document = $1 WHERE id = $2', [JSON.stringify(document), record.id]);
    const read = setupRecordSchema.parse((await api().get(`/api/setups/${record.id}`).expect(200)).body);
    expect(read.document).toMatchObject({ schemaVersion: SCHEMA_VERSION, look: { view: 'plain', contrast: 1 }, haze: { density: 0 } });
    const patched = await mergePatch(record.id, 1, { look: { grain: 0.2 } });
    expect(patched.status).toBe(200);
    const back = setupRecordSchema.parse((await api().get(`/api/setups/${record.id}/revisions/1`).expect(200)).body);
    expect(back.document.look.grain).toBe(0);
  });
});
