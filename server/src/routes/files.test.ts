import { createHash } from 'node:crypto';
import { existsSync, readdirSync, statSync, utimesSync } from 'node:fs';
import { dirname } from 'node:path';
import { afterAll, beforeAll, describe, expect, it } from '@jest/globals';
import { dome, readingText, writePng } from '@plinket/core';
import { MAX_ORIGINALS } from '@plinket/contract';
import { TooLarge, type BlobStore } from '../data/blobs.ts';
import { neededBlobs, tidy } from '../services/upkeep.ts';
import { keeperGlb, keeperSha, NOWHERE, problem, temporaryBlobs, TestServer } from '../testing/fixture.ts';

let server: TestServer;
beforeAll(async () => {
  server = await TestServer.start();
}, 120_000);
afterAll(() => server?.stop());

describe('characters', () => {
  it('are refused with file and reason before anything is kept', async () => {
    const body = problem(
      await server.api().post('/api/assets?name=goat.glb').set('Content-Type', 'model/gltf-binary').send(keeperGlb.subarray(0, 5000)),
      422,
    );
    expect(body.errors![0]!.field).toBe('goat.glb');
    expect(body.detail).toContain('cut off');
    expect((await server.api().get('/api/assets')).body).toEqual({ items: [] });
  });
  it('are wanted as GLB', async () => {
    problem(await server.api().post('/api/assets?name=x.glb').set('Content-Type', 'text/plain').send('hello'), 415);
  });
  it('are kept under their SHA-256, once, and come back as they were', async () => {
    for (let i = 0; i < 2; i++) {
      const { body } = await server
        .api()
        .post('/api/assets?name=keeper.glb')
        .set('Content-Type', 'model/gltf-binary')
        .send(keeperGlb)
        .expect(201);
      expect(body).toMatchObject({ sha256: keeperSha, name: 'The old keeper', bytes: keeperGlb.length });
      expect(body.triangles).toBeGreaterThan(80_000);
    }
    expect((await server.api().get('/api/assets')).body.items).toHaveLength(1);
    const back = await server
      .api()
      .get(`/api/blobs/${keeperSha}`)
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
    ).toBe(keeperSha);
    problem(await server.api().get(`/api/blobs/${'0'.repeat(64)}`), 404);
  });
  it('keep beside them the files that they were made of, which nothing sweeps away', async () => {
    const keep = (asset: string, name: string, bytes: string) =>
      server
        .api()
        .post(`/api/assets/${asset}/originals?name=${encodeURIComponent(name)}`)
        .set('Content-Type', 'application/octet-stream')
        .send(Buffer.from(bytes));
    const first = (await keep(keeperSha, 'keeper & son.obj', 'v 0 0 0').expect(201)).body as { sha256: string };
    expect(first).toEqual({ sha256: createHash('sha256').update('v 0 0 0').digest('hex'), fileName: 'keeper & son.obj', bytes: 7 });
    await keep(keeperSha, 'keeper.mtl', 'newmtl a').expect(201);
    // the same name again is the newer file
    await keep(keeperSha, 'keeper & son.obj', 'v 1 1 1').expect(201);
    const { body } = await server.api().get(`/api/assets/${keeperSha}/originals`).expect(200);
    expect((body as { fileName: string }[]).map((o) => o.fileName).sort()).toEqual(['keeper & son.obj', 'keeper.mtl']);
    const needed = await neededBlobs(server.db.manager);
    for (const o of body as { sha256: string }[]) expect(needed.has(o.sha256)).toBe(true);
    expect(needed.has(first.sha256)).toBe(false);
    problem(await keep('0'.repeat(64), 'a.obj', 'x'), 404);
    problem(await keep('nonsense', 'a.obj', 'x'), 404);
    problem(await server.api().get(`/api/assets/${'0'.repeat(64)}/originals`), 404);
    problem(await server.api().post(`/api/assets/${keeperSha}/originals?name=a`).set('Content-Type', 'text/plain').send('x'), 415);
  });
  it('have so many files beside them and no more', async () => {
    for (let k = 0; k < MAX_ORIGINALS - 2; k++)
      await server
        .api()
        .post(`/api/assets/${keeperSha}/originals?name=more-${k}`)
        .set('Content-Type', 'application/octet-stream')
        .send(Buffer.from('x'))
        .expect(201);
    const more = await server
      .api()
      .post(`/api/assets/${keeperSha}/originals?name=last`)
      .set('Content-Type', 'application/octet-stream')
      .send(Buffer.from('x'));
    expect(problem(more, 409).detail).toContain(String(MAX_ORIGINALS));
  });
});

describe('proofs', () => {
  const png = () => Buffer.from(writePng(4, 5, new Uint8Array(80), server.setup));
  const send = (id: string, body: Buffer) =>
    server.api().post(`/api/setups/${id}/proofs?name=First`).set('Content-Type', 'image/png').send(body);
  it('are a picture and its setup together', async () => {
    const { id } = await server.created();
    const { body } = await send(id, png()).expect(201);
    expect(body).toMatchObject({ name: 'First', width: 4, height: 5, document: server.setup });
    expect((await server.api().get(`/api/setups/${id}/proofs`)).body.items).toHaveLength(1);
    expect((await server.api().get('/api/setups')).body.items.find((s: { id: string }) => s.id === id).picture).toBe(body.picture);
    await server.api().delete(`/api/proofs/${body.id}`).expect(204);
    problem(await server.api().delete(`/api/proofs/${body.id}`), 404);
  });
  it('are refused when the PNG carries no setup, is none, or belongs nowhere', async () => {
    const { id } = await server.created();
    expect(problem(await send(id, Buffer.from(writePng(4, 5, new Uint8Array(80)))), 422).errors![0]).toEqual({
      field: 'picture',
      reason: 'the PNG carries no setup',
    });
    expect(problem(await send(id, Buffer.from('not a picture')), 422).detail).toContain('not a PNG');
    problem(await send(NOWHERE, png()), 404);
  });
});

describe('all proofs', () => {
  const reading = { pattern: 'loop', ratio: 3, catchlights: [] };
  const kept = async (id: string, name: string, read?: typeof reading) =>
    (
      await server
        .api()
        .post(`/api/setups/${id}/proofs?name=${name}`)
        .set('Content-Type', 'image/png')
        .send(Buffer.from(writePng(4, 5, new Uint8Array(80), server.setup, readingText(read))))
        .expect(201)
    ).body as { id: string; createdAt: string };
  const names = async (query: string) =>
    ((await server.api().get(`/api/proofs?${query}`).expect(200)).body as { items: { name: string; setupName: string }[] }).items.map(
      (p) => p.name,
    );

  it('are found by words, setup, pattern and character, the latest first, page by page', async () => {
    const one = await server.created({ name: 'Lamp room' }),
      other = await server.created({ name: 'Cellar' });
    await kept(one.id, 'Early', reading);
    await kept(one.id, 'Late');
    await kept(other.id, 'Elsewhere', { ...reading, pattern: 'split' });
    expect((await names('')).slice(0, 3)).toEqual(['Elsewhere', 'Late', 'Early']);
    expect(await names('search=lamp')).toEqual(['Late', 'Early']);
    expect(await names(`setup=${other.id}`)).toEqual(['Elsewhere']);
    expect(await names('pattern=loop')).toEqual(['Early']);
    expect((await names(`character=${keeperSha}`)).length).toBeGreaterThanOrEqual(3);
    expect(await names(`character=${'0'.repeat(64)}`)).toEqual([]);
    const first = (await server.api().get('/api/proofs?search=lamp&limit=1')).body as { next: string };
    expect(await names(`search=lamp&limit=1&cursor=${first.next}`)).toEqual(['Early']);
    problem(await server.api().get('/api/proofs?character=keeper'), 422);
  });

  it('keep what is said of them; picture, setup and reading stay what they were', async () => {
    const { id: setup } = await server.created({ name: 'Said' });
    const { id } = await kept(setup, 'Mute', reading);
    const change = { name: 'Told', notes: 'more rim', pins: [{ at: [0.5, 0.25], text: 'brow' }] };
    const { body } = await server.api().patch(`/api/proofs/${id}`).send(change).expect(200);
    expect(body).toMatchObject({ ...change, reading, setupName: 'Said', width: 4 });
    expect((await server.api().get(`/api/proofs/${id}`)).body).toEqual(body);
    expect(await names('search=more rim')).toEqual(['Told']);
    const refused = (wrong: object) => server.api().patch(`/api/proofs/${id}`).send(wrong);
    for (const wrong of [
      {},
      { name: ' ' },
      { pins: [{ at: [2, 0], text: 'x' }] },
      { pins: [{ at: [0, 0], text: '' }] },
      { picture: keeperSha },
    ])
      problem(await refused(wrong), 422);
    expect((await server.api().get(`/api/proofs/${id}`)).body).toEqual(body);
    problem(await server.api().patch(`/api/proofs/${NOWHERE}`).send({ notes: 'x' }), 404);
  });

  it('of a setup that was thrown away are there still', async () => {
    const { id } = await server.created({ name: 'Gone since' });
    await kept(id, 'Stays');
    await server.api().delete(`/api/setups/${id}`).expect(204);
    expect(await names('search=gone since')).toEqual(['Stays']);
  });
});

describe('files for lights', () => {
  const post = (body: Buffer, name: string) =>
    server.api().post(`/api/light-files?name=${name}`).set('Content-Type', 'application/octet-stream').send(body);
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
    const record = await server.created();
    const light = dome({ fill: { kind: 'picture', asset: kept.sha256, name: 'cove.hdr', layer: '' } });
    expect((await server.patch(record.id, 1, { lights: { items: { cove: light } } })).status).toBe(200);
    expect((await neededBlobs(server.db.manager)).has(kept.sha256)).toBe(true);
  });
});

describe('files that were never brought in', () => {
  const nowhere = 'd'.repeat(64);
  it('are refused where a setup names them, with the field', async () => {
    const { id, document } = await server.created();
    const cove = dome({ fill: { kind: 'picture', asset: nowhere, name: 'cove.hdr', layer: '' } });
    for (const [patch, field] of [
      [{ lights: { items: { cove } } }, 'lights.items.cove.fill.asset'],
      [{ plate: { kind: 'picture', asset: nowhere } }, 'plate.asset'],
      [{ look: { view: 'lut', lut: nowhere } }, 'look.lut'],
    ] as const) {
      const { errors } = problem(await server.patch(id, 1, patch), 422);
      expect(errors).toEqual([{ field, reason: 'no file with this SHA-256 has been brought in' }]);
    }
    const fresh = { ...document, plate: { ...document.plate, kind: 'picture', asset: nowhere } };
    expect(problem(await server.api().post('/api/setups').send({ document: fresh }), 422).errors![0]!.field).toBe('plate.asset');
    expect((await server.api().get(`/api/setups/${id}`)).body).toMatchObject({ revision: 1 });
  });
  it('that a setup named before they were lost keep nobody from going on', async () => {
    const { id } = await server.created();
    await server.db.query(`UPDATE document SET document = jsonb_set(document, '{plate}', $2) WHERE id = $1`, [
      id,
      JSON.stringify({ ...server.setup.plate, kind: 'picture', asset: nowhere }),
    ]);
    expect((await server.patch(id, 1, { brief: 'goes on' })).status).toBe(200);
    problem(await server.patch(id, 2, { plate: { asset: 'e'.repeat(64) } }), 422);
    expect((await server.patch(id, 2, { plate: { kind: 'none', asset: null } })).status).toBe(200);
    // once it is gone it is as any other that is not here
    problem(await server.patch(id, 3, { plate: { kind: 'picture', asset: nowhere } }), 422);
  });
});

describe('look-up tables', () => {
  const post = (body: string, name = 'warm.cube') =>
    server.api().post(`/api/luts?name=${name}`).set('Content-Type', 'text/plain').send(Buffer.from(body));
  const table = 'TITLE "Warm"\nLUT_3D_SIZE 2\n' + Array.from({ length: 8 }, () => '1 0.9 0.8').join('\n');
  it('are read before they are kept, and the line is named when they cannot be', async () => {
    const body = problem(await post('LUT_3D_SIZE 2\n0 0 x\n'), 422);
    expect(body.errors![0]).toEqual({ field: 'warm.cube', reason: 'Line 2: “0 0 x” is not three numbers.' });
  });
  it('are swept only when no setup names them', async () => {
    const { sha256, title } = (await post(table).expect(201)).body as { sha256: string; title: string };
    expect(title).toBe('Warm');
    const record = await server.created();
    expect(await neededBlobs(server.db.manager)).not.toContain(sha256);
    expect((await server.patch(record.id, 1, { look: { view: 'lut', lut: sha256 } })).status).toBe(200);
    expect((await neededBlobs(server.db.manager)).has(sha256)).toBe(true);
  });
});

describe('files that many bring at once', () => {
  it('are all taken, and kept once', async () => {
    const answers = await Promise.all(Array.from({ length: 12 }, () => server.bring()));
    expect(answers.map((a) => a.status)).toEqual(Array.from({ length: 12 }, () => 201));
    expect((await server.api().get('/api/assets')).body.items).toHaveLength(1);
  });
});

describe('names of files', () => {
  const post = (name: string) =>
    server.api().post(`/api/luts?name=${name}`).set('Content-Type', 'text/plain').send('LUT_3D_SIZE 2\n0 0 x\n');
  it('are cut between characters, not inside one', async () => {
    const long = problem(await post(encodeURIComponent('\u{1F3AD}'.repeat(300))), 422).errors![0]!.field;
    expect([...long]).toEqual(Array.from({ length: 200 }, () => '\u{1F3AD}'));
  });
  it('hold no NUL', async () => {
    expect(problem(await post('a%00b'), 422).errors![0]!.field).toBe('name');
  });
});

describe('a character that is thrown away', () => {
  const withoutSetups = async () => {
    const { items } = (await server.api().get('/api/setups?limit=200')).body as { items: { id: string }[] };
    for (const s of items) await server.api().delete(`/api/setups/${s.id}`).expect(204);
  };
  it('is one that nothing needs; those who need it are named', async () => {
    await withoutSetups();
    const { id } = await server.created({ name: 'Needs the keeper' });
    expect(problem(await server.api().delete(`/api/assets/${keeperSha}`), 409).detail).toContain('“Needs the keeper”');
    await withoutSetups();
    await server.api().delete(`/api/assets/${keeperSha}`).expect(204);
    expect((await server.api().get('/api/assets')).body.items).toEqual([]);
    // a setup cannot begin with what was thrown away
    problem(await server.api().post('/api/setups').send({ document: server.setup }), 422);
    await server.api().post(`/api/assets/${keeperSha}/restore`).expect(200);
    await server.api().post(`/api/setups/${id}/restore`).expect(200);
    expect((await server.api().get('/api/assets')).body.items).toHaveLength(1);
  });
  it('is here again when somebody brings it again', async () => {
    await withoutSetups();
    await server.api().delete(`/api/assets/${keeperSha}`).expect(204);
    await server.bring().expect(201);
    expect((await server.api().get('/api/assets')).body.items).toHaveLength(1);
    problem(await server.api().delete('/api/assets/x'), 404);
  });
});

describe('what undo needs', () => {
  it('is not swept: a table that was taken out of a setup can be had back', async () => {
    const table = 'LUT_3D_SIZE 2\n' + Array.from({ length: 8 }, (_, i) => `${i / 8} 0.5 0.25`).join('\n');
    const kept = await server.api().post('/api/luts?name=x.cube').set('Content-Type', 'text/plain').send(table).expect(201);
    const { sha256 } = kept.body as { sha256: string };
    const { id } = await server.created();
    await server.patch(id, 1, { look: { view: 'lut', lut: sha256 } }).expect(200);
    await server.patch(id, 2, { look: { view: 'neutral', lut: null } }).expect(200);
    const old = new Date(Date.now() - 3 * 24 * 3600_000);
    utimesSync(server.blobs.path(sha256), old, old);
    await tidy(server.db.manager, server.blobs);
    expect(server.blobs.has(sha256)).toBe(true);
    await server.patch(id, 3, { look: { view: 'lut', lut: sha256 } }).expect(200);
  });
});

describe('blobs', () => {
  const old = new Date(Date.now() - 2 * 24 * 3600_000);
  const age = (store: BlobStore, sha256: string) => utimesSync(store.path(sha256), old, old);
  it('are swept when no row needs them and they are a day old', async () => {
    const store = temporaryBlobs();
    const [a, b] = [await put(store, 'a'), await put(store, 'b')];
    expect(await store.sweep(new Set([a]))).toBe(0);
    for (const sha256 of [a, b]) age(store, sha256);
    expect(await store.sweep(new Set([a]))).toBe(1);
    expect([store.has(a), store.has(b)]).toEqual([true, false]);
  });
  it('are renewed by being brought again: the sweep leaves them', async () => {
    const store = temporaryBlobs();
    const a = await put(store, 'a');
    age(store, a);
    expect(await put(store, 'a')).toBe(a);
    expect(await store.sweep(new Set())).toBe(0);
    expect(store.has(a)).toBe(true);
  });
  it('can be read by their owner alone', async () => {
    const store = temporaryBlobs();
    expect(statSync(store.path(await put(store, 'a'))).mode & 0o777).toBe(0o600);
  });
  it('that were left half written are swept after a day, not before', async () => {
    const store = temporaryBlobs();
    const { path } = await store.receive(chunks('half'));
    expect(await store.sweep(new Set())).toBe(0);
    utimesSync(path, old, old);
    expect(await store.sweep(new Set())).toBe(1);
    expect(existsSync(path)).toBe(false);
  });
  it('that are larger than allowed leave nothing', async () => {
    const store = temporaryBlobs();
    const { path } = await store.receive(chunks('four'), 4);
    await expect(store.receive(chunks('four', '!'), 4)).rejects.toThrow(TooLarge);
    expect(readdirSync(dirname(path))).toHaveLength(1);
  });
});

/** Keeps a text as bringing it does. */
const put = async (store: BlobStore, text: string): Promise<string> => store.keep(await store.receive(chunks(text)));

/** Bytes as they come over a wire. */
async function* chunks(...texts: string[]): AsyncGenerator<Uint8Array> {
  for (const text of texts) yield Buffer.from(text);
}
