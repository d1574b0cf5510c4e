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
    expect(problem(await keep({ ...kit, schemaVersion: 2 }), 422).errors).toMatchObject([{ field: 'schemaVersion' }]);
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
});
