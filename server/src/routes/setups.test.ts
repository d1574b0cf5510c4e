import { randomUUID } from 'node:crypto';
import { afterAll, beforeAll, describe, expect, it } from '@jest/globals';
import { orderOf, SCHEMA_VERSION } from '@plinket/core';
import { setupRecordSchema } from '@plinket/contract';
import { DocumentRefused, DocumentService, type KindOf } from '../services/documents.ts';
import { Live } from '../services/live.ts';
import { tidy } from '../services/upkeep.ts';
import { NOWHERE, problem, TestServer } from '../testing/fixture.ts';

let server: TestServer;
beforeAll(async () => {
  server = await TestServer.start();
  await server.bring();
}, 120_000);
afterAll(() => server?.stop());

describe('setups', () => {
  it('are created, listed and read with their revision as ETag', async () => {
    const record = await server.created();
    expect(record).toMatchObject({ revision: 1, document: server.setup });
    expect((await server.api().get('/api/setups')).body.items[0]).toMatchObject({ id: record.id, name: server.setup.name });
    expect((await server.api().get(`/api/setups/${record.id}`)).headers['etag']).toBe('"1"');
  });
  it('change by merge patches, each kept with its words', async () => {
    const { id } = await server.created();
    const first = await server.patch(id, 1, { lights: { items: { fill: { stops: -1 } } } }).expect(200);
    expect(first.body).toMatchObject({ revision: 2 });
    expect(first.headers['etag']).toBe('"2"');
    await server.patch(id, 2, { brief: 'tender' }).expect(200);
    const { body } = await server.api().get(`/api/setups/${id}/history`);
    expect((body as { items: { words: string }[] }).items.map((h) => h.words)).toEqual(['brief', 'fill: −1 stop']);
    // the list says what changed last, and nothing of what is as it was made
    const untouched = await server.created();
    const { items } = (await server.api().get('/api/setups')).body as { items: { id: string; change?: string }[] };
    expect(items.find((s) => s.id === id)!.change).toBe('brief');
    expect(items.find((s) => s.id === untouched.id)).not.toHaveProperty('change');
  });
  it('can be had as they were at any revision', async () => {
    const { id } = await server.created();
    await server.patch(id, 1, { lights: { items: { fill: null, rim: null, wall: null, dome: null } } }).expect(200);
    await server.patch(id, 2, { name: 'Later' }).expect(200);
    expect((await server.api().get(`/api/setups/${id}/revisions/1`)).body).toMatchObject({ revision: 1, document: server.setup });
    expect(Object.keys((await server.api().get(`/api/setups/${id}/revisions/2`)).body.document.lights.items as object)).toEqual(['key']);
    problem(await server.api().get(`/api/setups/${id}/revisions/9`), 404);
  });
  it('refuse a stale revision with the newer document and change nothing', async () => {
    const { id } = await server.created();
    await server.patch(id, 1, { name: 'Theirs' }).expect(200);
    const body = problem(await server.patch(id, 1, { name: 'Mine' }), 412);
    expect(body.current).toMatchObject({ revision: 2, document: { name: 'Theirs' } });
    expect((await server.api().get(`/api/setups/${id}`)).body.document.name).toBe('Theirs');
  });
  it('let only one of many writers with the same revision in', async () => {
    const { id } = await server.created();
    const answers = await Promise.all(Array.from({ length: 8 }, (_, i) => server.patch(id, 1, { name: `Writer ${i}` })));
    expect(answers.map((a) => a.status).sort()).toEqual([200, 412, 412, 412, 412, 412, 412, 412]);
    expect((await server.api().get(`/api/setups/${id}`)).body.revision).toBe(2);
  });
  it.each<[string, object, string]>([
    ['a value of the wrong kind', { lights: { items: { key: { stops: 'loud' } } } }, 'lights.items.key.stops'],
    ['a removed field', { camera: null }, 'camera'],
    ['an unknown field', { volume: 11 }, ''],
    ['a rank that is none', { lights: { items: { key: { rank: 'first' } } } }, 'lights.items.key.rank'],
    ['an order as a list', { lights: { order: ['key'] } }, 'lights'],
    [
      'a character that was never brought in',
      { subjects: { items: { keeper: { asset: 'f'.repeat(64) } } } },
      'subjects.items.keeper.asset',
    ],
  ])('refuse %s and name the field', async (_name, patch, field) => {
    const { id } = await server.created();
    const body = problem(await server.patch(id, 1, patch), 422);
    expect(body.errors!.map((e) => e.field)).toContain(field);
    expect((await server.api().get(`/api/setups/${id}`)).body).toMatchObject({ revision: 1, document: server.setup });
  });
  it('refuse what is not a document from the start', async () => {
    const body = problem(
      await server
        .api()
        .post('/api/setups')
        .send({ document: { ...server.setup, lights: 3 } }),
      422,
    );
    expect(body.errors!.map((e) => e.field)).toContain('lights');
    problem(await server.api().post('/api/setups').set('Content-Type', 'application/json').send('{"document": '), 400);
  });
  it('are not found under a wrong id', async () => {
    problem(await server.api().get(`/api/setups/${NOWHERE}`), 404);
    problem(await server.api().get('/api/setups/keeper'), 404);
    problem(await server.patch(NOWHERE, 1, { name: 'x' }), 404);
    problem(await server.api().get('/api/nothing'), 404);
  });
  it('want If-Match and the right media type', async () => {
    const { id } = await server.created();
    problem(await server.api().patch(`/api/setups/${id}`).set('Content-Type', 'application/merge-patch+json').send('{}'), 428);
    problem(await server.patch(id, 'x"', {}), 400);
    problem(await server.api().patch(`/api/setups/${id}`).set('If-Match', '"1"').send({ name: 'x' }), 415);
    problem(
      await server.api().patch(`/api/setups/${id}`).set('If-Match', '"1"').set('Content-Type', 'application/merge-patch+json').send('[1]'),
      422,
    );
  });
  it('refuse a body that is too large', async () => {
    const { id } = await server.created();
    problem(await server.patch(id, 1, { brief: 'x'.repeat(1_200_000) }), 413);
  });
});

describe('a history that goes back to a version that listed its order', () => {
  it('is shown as it was, on both sides', async () => {
    const record = await server.created();
    const order = ['rim', 'key', 'fill', 'wall', 'dome'];
    const lights = (ids: string[]) => ({
      order: ids,
      items: Object.fromEntries(ids.map((id) => [id, { ...record.document.lights.items[id], rank: undefined }])),
    });
    const listed = Object.fromEntries(
      (['subjects', 'cameras', 'props', 'flags'] as const).map((name) => [
        name,
        { order: orderOf(record.document[name]), items: record.document[name].items },
      ]),
    );
    // two changes of that time: the rim was added, then the brief changed
    const before = { ...record.document, ...listed, schemaVersion: 4, lights: lights(order), brief: 'then' };
    await server.db.query('UPDATE document SET document = $1, revision = 3 WHERE id = $2', [JSON.stringify(before), record.id]);
    const keep = (revision: number, inverse: object) =>
      server.db.query("INSERT INTO document_patch (document_id, revision, patch, inverse, words) VALUES ($1, $2, '{}', $3, 'x')", [
        record.id,
        revision,
        JSON.stringify(inverse),
      ]);
    await keep(2, { lights: { order: order.slice(1), items: { rim: null } } });
    await keep(3, { brief: 'before' });
    await server.patch(record.id, 3, { lights: { items: { key: { stops: 1 } } } }).expect(200);
    const at = async (revision: number) =>
      setupRecordSchema.parse((await server.api().get(`/api/setups/${record.id}/revisions/${revision}`).expect(200)).body).document;
    expect(orderOf((await at(3)).lights)).toEqual(order);
    expect(await at(3)).toMatchObject({ brief: 'then', lights: { items: { key: { stops: 0 } } } });
    expect((await at(2)).brief).toBe('before');
    expect(orderOf((await at(1)).lights)).toEqual(order.slice(1));
  });
});

describe('setups that an older version kept', () => {
  it('are read, patched and restored in today’s version', async () => {
    const record = await server.created();
    const { props: _, haze: __, ...older } = record.document;
    const document = { ...older, schemaVersion: 1, look: { view: 'plain' } };
    await server.db.query('UPDATE document SET document = $1 WHERE id = $2', [JSON.stringify(document), record.id]);
    const read = setupRecordSchema.parse((await server.api().get(`/api/setups/${record.id}`).expect(200)).body);
    expect(read.document).toMatchObject({ schemaVersion: SCHEMA_VERSION, look: { view: 'plain', contrast: 1 }, haze: { density: 0 } });
    const patched = await server.patch(record.id, 1, { look: { grain: 0.2 } });
    expect(patched.status).toBe(200);
    const back = setupRecordSchema.parse((await server.api().get(`/api/setups/${record.id}/revisions/1`).expect(200)).body);
    expect(back.document.look.grain).toBe(0);
  });
});

describe('a change that is sent twice', () => {
  it('is taken once and answered as the first time, also after others have come', async () => {
    const { id } = await server.created(),
      sent = randomUUID();
    const first = (await server.patch(id, 1, { brief: 'once' }, sent).expect(200)).body as { document: object };
    await server.patch(id, 2, { name: 'Somebody else’s' }).expect(200);
    const again = (await server.patch(id, 1, { brief: 'once' }, sent).expect(200)).body as { revision: number; document: object };
    expect(again).toMatchObject({ revision: 2, document: first.document });
    const now = (await server.api().get(`/api/setups/${id}`)).body as object;
    expect(now).toMatchObject({ revision: 3, document: { brief: 'once', name: 'Somebody else’s' } });
  });
  it('is taken once when it comes five times at the same moment', async () => {
    const { id } = await server.created(),
      sent = randomUUID();
    const answers = await Promise.all(Array.from({ length: 5 }, () => server.patch(id, 1, { brief: 'once' }, sent)));
    expect(answers.map((a) => [a.status, (a.body as { revision: number }).revision])).toEqual(Array.from({ length: 5 }, () => [200, 2]));
  });
  it('has an id that is a UUID', async () => {
    const { id } = await server.created();
    problem(await server.patch(id, 1, { brief: 'x' }, 'again'), 422);
  });
});

describe('what a patch may hold', () => {
  const many = Object.fromEntries(Array.from({ length: 50_001 }, (_, i) => [`k${i}`, null]));
  it.each<[string, string, string]>([
    ['NUL in a text', String.raw`{"name":"a\u0000b"}`, 'name'],
    ['half of a character', String.raw`{"brief":"\ud800"}`, 'brief'],
    ['half of a character in the name of a member', String.raw`{"lights":{"items":{"a\udc00":null}}}`, 'lights.items'],
    ['more levels than any setup has', `{"name":${'['.repeat(5000)}${']'.repeat(5000)}}`, `name${'.0'.repeat(31)}`],
    ['more members than any setup has', JSON.stringify({ lights: { items: many } }), ''],
  ])('refuses %s and names the field', async (_name, patch, field) => {
    const { id } = await server.created();
    expect(problem(await server.patch(id, 1, patch), 422).errors!.map((e) => e.field)).toContain(field);
    expect((await server.api().get(`/api/setups/${id}`)).body.revision).toBe(1);
  });
  it('is kept as what it changes: names of nothing are not written down', async () => {
    const { id } = await server.created();
    const nothings = Object.fromEntries(Array.from({ length: 2000 }, (_, i) => [`k${i}`, null]));
    await server.patch(id, 1, { brief: 'one thing', lights: { items: nothings }, name: server.setup.name }).expect(200);
    const [row] = await server.db.query<object[]>('SELECT patch, inverse FROM document_patch WHERE document_id = $1', [id]);
    expect(row).toEqual({ patch: { brief: 'one thing' }, inverse: { brief: server.setup.brief } });
    // and what changes nothing makes no revision
    expect((await server.patch(id, 2, { lights: { items: { ghost: null } } }).expect(200)).body.revision).toBe(2);
  });
  it('comes for a revision that is a whole number', async () => {
    const { id } = await server.created();
    for (const revision of ['1.5', '-1', '0', '99999999999', '1e3', '']) problem(await server.patch(id, revision, { brief: 'x' }), 400);
    for (const revision of ['1.5', '0', '-1', 'x', '99999999999'])
      problem(await server.api().get(`/api/setups/${id}/revisions/${revision}`), 404);
  });
});

describe('the history', () => {
  const keep = (id: string, revision: number, brief: string) =>
    server.db.query('INSERT INTO document_patch (document_id, revision, patch, inverse, words) VALUES ($1, $2, $3, $3, $4)', [
      id,
      revision,
      JSON.stringify({ brief }),
      `to ${revision}`,
    ]);
  it('comes in pages bounded by their bytes, without a gap', async () => {
    const { id } = await server.created();
    // 30 patches of 40 kB are three pages of half a megabyte
    for (let revision = 2; revision <= 31; revision++) await keep(id, revision, String(revision).padStart(2, '0').repeat(20_000));
    const seen: number[] = [];
    let pages = 0;
    for (let before: number | undefined; pages === 0 || before !== undefined; pages++) {
      const answer = await server.api().get(`/api/setups/${id}/history${before === undefined ? '' : `?before=${before}`}`);
      const { items, next } = answer.body as { items: { revision: number }[]; next?: number };
      expect(answer.text.length).toBeLessThan(700_000);
      seen.push(...items.map((h) => h.revision));
      before = next;
    }
    expect(pages).toBe(3);
    expect(seen).toEqual(Array.from({ length: 30 }, (_, i) => 31 - i));
    problem(await server.api().get(`/api/setups/${id}/history?before=1.5`), 422);
  });
  it('shows a patch that is larger than a page', async () => {
    const { id } = await server.created();
    await keep(id, 2, 'x'.repeat(700_000));
    expect((await server.api().get(`/api/setups/${id}/history`)).body.items).toHaveLength(1);
  });
});

describe('lists', () => {
  const page = async (query: string) =>
    (await server.api().get(`/api/setups?${query}`).expect(200)).body as { items: { id: string; name: string }[]; next?: string };
  it('come in pages, each setup once, while others are being made', async () => {
    const made: string[] = [];
    for (let i = 0; i < 7; i++) made.push((await server.created({ name: `Paged 100%_ ${i}` })).id);
    const seen: string[] = [];
    let cursor: string | undefined;
    do {
      const { items, next } = await page(`search=${encodeURIComponent('paged 100%_')}&limit=3${cursor ? `&cursor=${cursor}` : ''}`);
      expect(items.length).toBeLessThanOrEqual(3);
      seen.push(...items.map((s) => s.id));
      cursor = next;
      await server.created({ name: 'Paged 100%_ later' });
    } while (cursor);
    expect(seen).toEqual(made.reverse());
  });
  it('find by words of name or brief, and take signs as they are', async () => {
    await server.created({ name: 'Zebra crossing', brief: 'the rain has stopped' });
    expect((await page('search=RAIN%20has')).items.map((s) => s.name)).toEqual(['Zebra crossing']);
    expect((await page('search=ze_ra')).items).toEqual([]);
    expect((await page('search=nothing%20of%20the%20kind')).items).toEqual([]);
  });
  it('refuse what is no page', async () => {
    for (const query of ['limit=0', 'limit=1.5', 'search=%00']) problem(await server.api().get(`/api/setups?${query}`), 422);
    for (const cursor of ['x', `["now()","'"]`, '{}'])
      problem(await server.api().get(`/api/setups?cursor=${Buffer.from(cursor).toString('base64url')}`), 400);
  });
});

describe('a setup that is thrown away', () => {
  it('is in no list, takes no change, and can be had back as it was', async () => {
    const { id } = await server.created({ name: 'Thrown' });
    await server.patch(id, 1, { brief: 'kept' }).expect(200);
    await server.api().delete(`/api/setups/${id}`).expect(204);
    problem(await server.api().delete(`/api/setups/${id}`), 404);
    problem(await server.api().get(`/api/setups/${id}`), 410);
    problem(await server.patch(id, 2, { brief: 'lost' }), 410);
    expect((await server.api().get('/api/setups?search=Thrown')).body.items).toEqual([]);
    await server.api().post(`/api/setups/${id}/restore`).expect(200);
    const back = (await server.api().get(`/api/setups/${id}`)).body as object;
    expect(back).toMatchObject({ revision: 2, document: { name: 'Thrown', brief: 'kept' } });
    expect((await server.api().get('/api/setups?search=Thrown')).body.items).toHaveLength(1);
    problem(await server.api().post(`/api/setups/${NOWHERE}/restore`), 404);
  });
  it('goes for good after a month, with its history', async () => {
    const { id } = await server.created();
    await server.patch(id, 1, { brief: 'x' }).expect(200);
    await server.api().delete(`/api/setups/${id}`).expect(204);
    await tidy(server.db.manager, server.blobs);
    expect(await server.db.query('SELECT FROM document WHERE id = $1', [id])).toHaveLength(1);
    await server.db.query("UPDATE document SET deleted_at = now() - interval '31 days' WHERE id = $1", [id]);
    await tidy(server.db.manager, server.blobs);
    for (const where of ['document WHERE id', 'document_patch WHERE document_id', 'blob_ref WHERE owner'])
      expect(await server.db.query(`SELECT FROM ${where} = $1`, [id])).toHaveLength(0);
  });
});

describe('documents of another kind', () => {
  interface Note {
    schemaVersion: number;
    name: string;
    brief: string;
    lines: Record<string, string>;
  }
  const kind: KindOf<Note> = {
    kind: 'note' as never,
    noun: 'note',
    version: 2,
    migrate: (d) => ({ ...(d as Note), schemaVersion: 2 }),
    parse: (d) => {
      const note = d as Note;
      if (typeof note.name === 'string') return note;
      throw new DocumentRefused('name: it needs one', [{ field: 'name', reason: 'it needs one' }]);
    },
    describe: (_before, change) => Object.keys(change).join(', '),
    blobs: ({ lines }) => Object.values(lines).filter((l) => l.length === 64),
    missing: (_manager, { lines }, before) =>
      Promise.resolve(
        Object.keys(lines).flatMap((k) => (lines[k] === 'gone' && !before?.lines[k] ? [{ field: `lines.${k}`, reason: 'gone' }] : [])),
      ),
  };
  const told: unknown[] = [];
  const live = new Live();
  const notes = () => new DocumentService(server.db.manager, kind, live);
  const note = (more: Partial<Note> = {}): Note => ({ schemaVersion: 2, name: 'N', brief: 'b', lines: {}, ...more });

  it('have revisions, a history in their own words, blobs that they need, and are told of', async () => {
    const made = await notes().create(note({ lines: { a: 'f'.repeat(64) } }));
    const stop = live.listen(made.id, (change) => told.push(change));
    const record = await notes().patch(made.id, { revision: 1 }, { lines: { b: 'two' }, brief: 'c' });
    stop();
    expect(record).toMatchObject({ revision: 2, document: { brief: 'c', lines: { b: 'two' } } });
    expect(told).toEqual([{ revision: 2, request: undefined, patch: { lines: { b: 'two' }, brief: 'c' } }]);
    expect((await notes().history(made.id)).items.map((h) => h.words)).toEqual(['brief, lines']);
    expect((await notes().at(made.id, 1)).document.lines).toEqual({ a: 'f'.repeat(64) });
    const refs = await server.db.query<{ sha256: string }[]>('SELECT sha256 FROM blob_ref WHERE owner = $1', [made.id]);
    expect(refs.map((r) => r.sha256)).toEqual(['f'.repeat(64)]);
  });
  it('refuse what their own schema or what they name forbids, and are no setups', async () => {
    const made = await notes().create(note());
    await expect(notes().patch(made.id, { revision: 1 }, { name: null })).rejects.toMatchObject({
      problem: { status: 422, title: 'The note was not kept.', errors: [{ field: 'name', reason: 'it needs one' }] },
    });
    await expect(notes().patch(made.id, { revision: 1 }, { lines: { x: 'gone' } })).rejects.toMatchObject({ problem: { status: 422 } });
    await expect(notes().patch(made.id, { revision: 7 }, {})).rejects.toMatchObject({
      problem: { status: 412, title: 'The note has changed meanwhile.', current: { revision: 1 } },
    });
    problem(await server.api().get(`/api/setups/${made.id}`), 404);
    const { body } = await server.api().get('/api/setups?limit=100');
    expect((body as { items: { id: string }[] }).items.some((s) => s.id === made.id)).toBe(false);
    expect((await notes().list({ limit: 10 })).items.map((n) => n.name)).toContain('N');
  });
  it('are brought up to date when they are read, and their first change keeps them as they were', async () => {
    const made = await notes().create(note({ schemaVersion: 1 }));
    expect((await notes().get(made.id)).document.schemaVersion).toBe(2);
    await notes().patch(made.id, { revision: 1 }, { brief: 'new' });
    const [row] = await server.db.query<{ snapshot: Note }[]>('SELECT snapshot FROM document_patch WHERE document_id = $1', [made.id]);
    expect(row!.snapshot.schemaVersion).toBe(1);
  });
});
