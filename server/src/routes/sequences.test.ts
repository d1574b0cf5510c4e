import { afterAll, beforeAll, describe, expect, it } from '@jest/globals';
import {
  boardSchema,
  productionsSchema,
  sequenceRecordSchema,
  setupListSchema,
  setupRecordSchema,
  touchedSchema,
  type SequenceRecord,
} from '@plinket/contract';
import { TOLERANCE, type Patch, type Setup } from '@plinket/core';
import { NOWHERE, problem, TestServer } from '../testing/fixture.ts';

let server: TestServer, base: string, sequence: SequenceRecord;
const shot = (code: string) => ({ code, first: 1001, last: 1125, state: 'to light', brief: '', notes: '' });
const sequenceOf = (setup: string, more: object = {}) => ({
  schemaVersion: 1,
  name: 'Sea wall',
  brief: '',
  notes: '',
  rank: 'a0',
  setup,
  tolerance: TOLERANCE,
  shots: { items: {} },
  ...more,
});
const add = (id: string, body: object) => server.api().post(`/api/sequences/${id}/shots`).send(body);
const setupOf = async (id: string) => setupRecordSchema.parse((await server.api().get(`/api/setups/${id}`).expect(200)).body);
const idOf = (record: SequenceRecord, code: string) => Object.entries(record.document.shots.items).find(([, s]) => s.code === code)![0];
const firstLight = (setup: Setup) => Object.keys(setup.lights.items)[0]!;
const change = async (id: string, patch: Patch) => {
  const { revision } = await setupOf(id);
  return setupRecordSchema.parse((await server.patch(id, revision, patch).expect(200)).body);
};

beforeAll(async () => {
  server = await TestServer.start();
  await server.bring().expect(201);
  base = (await server.created({ name: 'Sea wall, its light' })).id;
  const made = await server
    .api()
    .post('/api/sequences')
    .send({ document: sequenceOf(base) })
    .expect(201);
  sequence = sequenceRecordSchema.parse(
    (await add((made.body as { id: string }).id, { shots: ['010', '020', '030'].map(shot) }).expect(201)).body,
  );
}, 120_000);
afterAll(() => server?.stop());

describe('shots follow their sequence', () => {
  it('come in order, each a setup with the light of the sequence', async () => {
    const items = Object.values(sequence.document.shots.items).sort((a, b) => (a.rank < b.rank ? -1 : 1));
    expect(items.map((s) => s.code)).toEqual(['010', '020', '030']);
    const { document } = await setupOf(idOf(sequence, '010'));
    expect(document).toMatchObject({ name: 'Sea wall 010', follows: { setup: base, revision: 1 } });
    expect(document.lights).toEqual((await setupOf(base)).document.lights);
    const between = sequenceRecordSchema.parse(
      (await add(sequence.id, { shots: [shot('015')], after: idOf(sequence, '010') }).expect(201)).body,
    );
    const order = Object.values(between.document.shots.items).sort((a, b) => (a.rank < b.rank ? -1 : 1));
    expect(order.map((s) => s.code)).toEqual(['010', '015', '020', '030']);
  });
  it('what changes in the sequence changes in them, but where they depart; each time is told in their history', async () => {
    const [one, two] = ['010', '020'].map((code) => idOf(sequence, code)) as [string, string];
    const key = firstLight((await setupOf(base)).document);
    await change(one, { lights: { items: { [key]: { stops: -1 } } } });
    await change(base, { lights: { items: { [key]: { stops: 2, kelvin: 3000 } } }, name: 'Another name' });
    const [a, b] = await Promise.all([setupOf(one), setupOf(two)]);
    expect(a.document.lights.items[key]).toMatchObject({ stops: -1, kelvin: 3000 });
    expect(b.document.lights.items[key]).toMatchObject({ stops: 2, kelvin: 3000 });
    expect(b.document.name).toBe('Sea wall 020');
    const { body } = await server.api().get(`/api/setups/${two}/history`).expect(200);
    expect((body as { items: { words: string }[] }).items[0]!.words).toMatch(/^from its sequence: .*3000 K/);
    const { body: departed } = await server.api().get(`/api/setups/${one}/history`).expect(200);
    expect((departed as { items: { words: string }[] }).items[0]!.words).toMatch(/hidden by what departs here: .*stops$/);
    // asked again, nothing happens
    expect((await setupOf(two)).revision).toBe(b.revision);
  });
  it('many who ask at once bring one up to date once', async () => {
    const id = idOf(sequence, '030'),
      before = (await setupOf(id)).revision;
    await change(base, { camera: { ev: 6.5 } });
    const all = await Promise.all(Array.from({ length: 8 }, () => setupOf(id)));
    expect(new Set(all.map((r) => r.revision))).toEqual(new Set([before + 1]));
    expect(all.every((r) => r.document.camera.ev === 6.5)).toBe(true);
  });
  it('a light that is gone from the sequence takes its departure along, and the history says so', async () => {
    const id = idOf(sequence, '020'),
      lights = Object.keys((await setupOf(base)).document.lights.items),
      last = lights.at(-1)!;
    await change(id, { lights: { items: { [last]: { stops: 3 } } } });
    await change(base, { lights: { items: { [last]: null } } });
    expect((await setupOf(id)).document.lights.items[last]).toBeUndefined();
    const { body } = await server.api().get(`/api/setups/${id}/history`).expect(200);
    expect((body as { items: { words: string }[] }).items[0]!.words).toMatch(/left out: .*stops/);
  });
  it('whom a setup follows is said by its sequence alone', async () => {
    const id = idOf(sequence, '010');
    const { revision, document } = await setupOf(id);
    expect(setupRecordSchema.parse((await server.patch(id, revision, { follows: null }).expect(200)).body).document.follows).toEqual(
      document.follows,
    );
    const copy = await server.created({ ...document, name: 'A copy' });
    expect(copy.document.follows).toBeUndefined();
  });
  it('departures outlive versions of the schema', async () => {
    const made = (await server.created({ name: 'Kept long ago' })).id,
      key = firstLight(server.setup);
    const { body } = await server
      .api()
      .post('/api/sequences')
      .send({ document: sequenceOf(made) })
      .expect(201);
    const record = sequenceRecordSchema.parse((await add((body as { id: string }).id, { shots: [shot('A')] }).expect(201)).body),
      id = idOf(record, 'A');
    await change(id, { lights: { items: { [key]: { stops: -1 } } } });
    // both as kept by the version before
    const older = (document: string) => `jsonb_set(${document}, '{schemaVersion}', '5')`;
    await server.db.query(`UPDATE document SET document = ${older('document')} WHERE id = ANY($1::uuid[])`, [[made, id]]);
    await change(made, { lights: { items: { [key]: { kelvin: 4100 } } } });
    const { document } = await setupOf(id);
    expect(document.lights.items[key]).toMatchObject({ stops: -1, kelvin: 4100 });
    expect(document.schemaVersion).toBe(server.setup.schemaVersion);
    const { shots } = boardSchema.parse((await server.api().get(`/api/sequences/${record.id}/board`).expect(200)).body);
    expect(shots[0]!.departures).toHaveLength(1);
    await server.api().delete(`/api/sequences/${record.id}`).expect(204);
  });
  it('a sequence whose setup is thrown away leaves its shots as they are', async () => {
    const made = (await server.created({ name: 'Short-lived' })).id;
    const { body } = await server
      .api()
      .post('/api/sequences')
      .send({ document: sequenceOf(made) })
      .expect(201);
    const record = sequenceRecordSchema.parse((await add((body as { id: string }).id, { shots: [shot('A')] }).expect(201)).body);
    await server.api().delete(`/api/setups/${made}`).expect(204);
    expect((await setupOf(idOf(record, 'A'))).revision).toBe(1);
    problem(await add(record.id, { shots: [shot('B')] }), 410);
    expect(boardSchema.parse((await server.api().get(`/api/sequences/${record.id}/board`).expect(200)).body).shots).toHaveLength(1);
    await server.api().delete(`/api/sequences/${record.id}`).expect(204);
  });
});

describe('sequences', () => {
  it('say how their shots stand', async () => {
    const { shots } = boardSchema.parse((await server.api().get(`/api/sequences/${sequence.id}/board`).expect(200)).body);
    const one = shots.find((s) => s.id === idOf(sequence, '010'))!;
    expect(one).toMatchObject({ gone: false, characters: [expect.any(String)], departures: [expect.stringMatching(/stop$/)] });
    expect(one.proof).toBeUndefined();
    await change(base, { camera: { ev: 6 } });
    const later = boardSchema.parse((await server.api().get(`/api/sequences/${sequence.id}/board`).expect(200)).body);
    expect(later.shots.every((s) => s.behind)).toBe(true);
    expect(later.shots.find((s) => s.id === one.id)!.departures).toEqual(one.departures);
  });
  it('are found by a shot, and by the setup that is followed', async () => {
    for (const id of [base, idOf(sequence, '020')])
      expect((await server.api().get(`/api/setups/${id}/sequence`).expect(200)).body).toMatchObject({ id: sequence.id });
    await server.api().get(`/api/setups/${NOWHERE}/sequence`).expect(204);
  });
  it('tell which shots a change would be seen in', async () => {
    const key = firstLight((await setupOf(base)).document),
      touched = async (patch: object) =>
        touchedSchema.parse((await server.api().post(`/api/sequences/${sequence.id}/touched`).send({ patch }).expect(200)).body);
    // the first shot departs in this light's level
    const louder = await touched({ lights: { items: { [key]: { stops: 2.5 } } } });
    expect(louder.hidden).toEqual([idOf(sequence, '010')]);
    expect(louder.seen).toHaveLength(3);
    expect((await touched({ camera: { ev: 3 } })).hidden).toEqual([]);
  });
  it('stand in productions; setups of theirs are not among those that belong to none', async () => {
    const document = { schemaVersion: 1, name: 'Harbour', brief: '', notes: '', fps: 24 };
    const { id } = (await server.api().post('/api/productions').send({ document }).expect(201)).body as { id: string };
    const { revision } = (await server.api().get(`/api/sequences/${sequence.id}`).expect(200)).body as { revision: number };
    await server
      .api()
      .patch(`/api/sequences/${sequence.id}`)
      .set('Content-Type', 'application/merge-patch+json')
      .set('If-Match', `"${revision}"`)
      .send(JSON.stringify({ production: id }))
      .expect(200);
    const board = productionsSchema.parse((await server.api().get('/api/board').expect(200)).body);
    expect(board.productions).toMatchObject([{ id, name: 'Harbour', fps: 24 }]);
    expect(board.sequences).toMatchObject([{ id: sequence.id, production: id, shots: 4, states: { 'to light': 4 } }]);
    const loose = await server.created({ name: 'On its own' });
    const list = setupListSchema.parse((await server.api().get('/api/setups?loose=true').expect(200)).body);
    expect(list.items.map((s) => s.name)).toContain(loose.document.name);
    expect(list.items.map((s) => s.id)).not.toContain(base);
    expect(list.items.map((s) => s.id)).not.toContain(idOf(sequence, '010'));
  });
  it.each<[string, () => object, string]>([
    ['a setup that is not there', () => sequenceOf(NOWHERE), 'setup'],
    ['a production that is not there', () => sequenceOf(base, { production: NOWHERE }), 'production'],
    [
      'a shot without a setup',
      () => sequenceOf(base, { shots: { items: { [NOWHERE]: { ...shot('X'), rank: 'a0' } } } }),
      `shots.items.${NOWHERE}`,
    ],
  ])('%s is refused by name', async (_name, document, field) => {
    expect(problem(await server.api().post('/api/sequences').send({ document: document() }), 422).errors!.map((e) => e.field)).toEqual([
      field,
    ]);
  });
  it('shots whose frames run backwards are refused by name, and nothing of them is kept', async () => {
    const before = (await server.api().get(`/api/sequences/${sequence.id}`)).body as SequenceRecord;
    const refused = problem(await add(sequence.id, { shots: [shot('040'), { ...shot('050'), last: 1 }] }), 422);
    expect(refused.errors).toEqual([{ field: 'shots.1.last', reason: 'a shot ends no earlier than it begins' }]);
    expect(((await server.api().get(`/api/sequences/${sequence.id}`)).body as SequenceRecord).revision).toBe(before.revision);
  });
});
