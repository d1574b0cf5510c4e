import { afterAll, beforeAll, describe, expect, it } from '@jest/globals';
import { emptySetup, kitOf, type Kit, type Patch } from '@plinket/core';
import { kitRecordSchema, setupListSchema } from '@plinket/contract';
import { problem, TestServer } from '../testing/fixture.ts';

let server: TestServer;
beforeAll(async () => {
  server = await TestServer.start();
}, 120_000);
afterAll(() => server?.stop());

const label = { name: 'Lantern corner', brief: 'one key, low and warm', notes: '', tags: ['night'] };
const { kit } = kitOf(emptySetup('From here'), ['rig', 'stage', 'cameras', 'look'], label);
const keep = (document: object) => server.api().post('/api/kits').send({ document });

describe('kits', () => {
  it('are kept, listed, found, had, thrown away and had back', async () => {
    const { id } = kitRecordSchema.parse((await keep(kit).expect(201)).body);
    const list = async (search = '') =>
      setupListSchema.parse((await server.api().get(`/api/kits?search=${search}`).expect(200)).body).items.map((k) => k.name);
    expect(await list('lantern')).toEqual(['Lantern corner']);
    expect(await list('nothing-like-it')).toEqual([]);
    expect((await server.api().get(`/api/kits/${id}`).expect(200)).body).toMatchObject({ revision: 1, document: kit });
    await server.api().delete(`/api/kits/${id}`).expect(204);
    problem(await server.api().get(`/api/kits/${id}`), 410);
    await server.api().post(`/api/kits/${id}/restore`).expect(200);
    expect(await list()).toEqual(['Lantern corner']);
    problem(await server.api().get(`/api/setups/${id}`), 404);
  });
  it('are refused with field and reason: a newer version, no part at all, a file that nobody has brought in', async () => {
    expect(problem(await keep({ ...kit, schemaVersion: 3 }), 422).errors).toMatchObject([{ field: 'schemaVersion' }]);
    expect(problem(await keep({ ...kit, parts: {} }), 422).errors).toMatchObject([{ field: 'parts' }]);
    const plate: Kit['parts'] = JSON.parse(JSON.stringify(kit.parts)) as Kit['parts'];
    Object.assign(plate.stage!.plate, { kind: 'picture', asset: 'b'.repeat(64) } satisfies Patch);
    expect(problem(await keep({ ...kit, parts: plate }), 422).errors).toEqual([
      { field: 'parts.stage.plate.asset', reason: 'no file with this SHA-256 has been brought in' },
    ]);
    const lost = JSON.parse(JSON.stringify(kit)) as Kit;
    Object.assign(lost.parts.cameras!.camera, { focal: -3 });
    expect(problem(await keep(lost), 422).errors!.map((e) => e.field)).toEqual(['parts.cameras.camera.focal']);
  });
  it('are changed by patches with words for their history, from the revision that is meant; as they were they can be had', async () => {
    const { id } = kitRecordSchema.parse((await keep(kit).expect(201)).body);
    const patch = (revision: number, body: object) =>
      server
        .api()
        .patch(`/api/kits/${id}`)
        .set('Content-Type', 'application/merge-patch+json')
        .set('If-Match', `"${revision}"`)
        .send(JSON.stringify(body));
    await patch(1, { name: 'Lantern wall', tags: ['night', 'oil lamp'] }).expect(200);
    expect(problem(await patch(1, { name: 'Another' }), 412)).toMatchObject({
      title: 'The kit has changed meanwhile.',
      current: { revision: 2, document: { name: 'Lantern wall' } },
    });
    expect(problem(await patch(2, { tags: [''] }), 422).errors).toMatchObject([{ field: 'tags.0' }]);
    expect(problem(await patch(2, { shown: [{ on: 'someone', picture: 'a'.repeat(64) }] }), 422).errors).toMatchObject([
      { field: 'shown.0.picture' },
    ]);
    await patch(2, { parts: { stage: null } }).expect(200);
    const { items } = (await server.api().get(`/api/kits/${id}/history`).expect(200)).body as { items: { words: string }[] };
    expect(items.map((i) => i.words)).toEqual(['without its stage', 'renamed “Lantern wall”, tags']);
    expect((await server.api().get(`/api/kits/${id}/revisions/1`).expect(200)).body).toMatchObject({ revision: 1, document: kit });
    // words of its tags find it
    const found = (await server.api().get('/api/kits?search=oil lamp').expect(200)).body as { items: { id: string }[] };
    expect(found.items.map((k) => k.id)).toEqual([id]);
  });
});
