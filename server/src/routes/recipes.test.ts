import { afterAll, beforeAll, describe, expect, it } from '@jest/globals';
import { BRIEFS, type Recipe } from '@plinket/core';
import { recipeRecordSchema, setupListSchema } from '@plinket/contract';
import { problem, TestServer } from '../testing/fixture.ts';

let server: TestServer;
beforeAll(async () => {
  server = await TestServer.start();
}, 120_000);
afterAll(() => server?.stop());

const { id: _, name: __, words, ...light } = BRIEFS[0]!;
const document: Recipe = { schemaVersion: 1, name: 'Harbour at five', brief: words, light };
const keep = (what: object) => server.api().post('/api/recipes').send({ document: what });

describe('intentions of one’s own', () => {
  it('are kept, listed, had, thrown away and had back', async () => {
    const made = await keep(document).expect(201);
    const { id } = recipeRecordSchema.parse(made.body);
    expect(made.headers['location']).toBe(`/api/recipes/${id}`);
    const list = async () => setupListSchema.parse((await server.api().get('/api/recipes').expect(200)).body).items;
    expect(await list()).toMatchObject([{ id, name: 'Harbour at five', brief: words }]);
    expect((await server.api().get(`/api/recipes/${id}`).expect(200)).body).toMatchObject({ revision: 1, document });
    await server.api().delete(`/api/recipes/${id}`).expect(204);
    expect(await list()).toEqual([]);
    problem(await server.api().get(`/api/recipes/${id}`), 410);
    await server.api().post(`/api/recipes/${id}/restore`).expect(200);
    expect(await list()).toHaveLength(1);
  });
  it('are no setups, and setups none of them', async () => {
    const { id } = recipeRecordSchema.parse((await keep(document).expect(201)).body);
    problem(await server.api().get(`/api/setups/${id}`), 404);
    const { items } = setupListSchema.parse((await server.api().get('/api/setups')).body);
    expect(items.map((s) => s.id)).not.toContain(id);
  });
  it('are refused with the field and the reason', async () => {
    const wrong = { ...document, name: '', light: { ...light, key: { ...light.key, pattern: 'zigzag', share: -1 } } };
    const { errors } = problem(await keep(wrong), 422);
    expect(errors!.map((e) => e.field)).toEqual(expect.arrayContaining(['name', 'light.key.pattern', 'light.key.share']));
    problem(await keep({ ...document, schemaVersion: 2 }), 422);
  });
});
