import { randomUUID } from 'node:crypto';
import type { AddressInfo } from 'node:net';
import { afterAll, beforeAll, describe, expect, it } from '@jest/globals';
import { acceptedChangeSchema, handsToldSchema, type AcceptedChange, type Hand, type SequenceRecord } from '@plinket/contract';
import { TOLERANCE } from '@plinket/core';
import { serverOf } from '../index.ts';
import { NOWHERE, problem, TestServer } from '../testing/fixture.ts';

let server: TestServer, url: string, http: ReturnType<typeof serverOf>;
beforeAll(async () => {
  server = await TestServer.start();
  await server.bring();
  http = serverOf(server.app);
  await new Promise<void>((resolve) => http.listen(0, '127.0.0.1', resolve));
  url = `http://127.0.0.1:${(http.address() as AddressInfo).port}`;
}, 120_000);
afterAll(async () => {
  http.closeAllConnections();
  http.close();
  await server.stop();
});

/** Listens until so many changes came. */
async function heard(
  id: string,
  count: number,
  how: { after?: number; last?: string } = {},
  meanwhile = async () => undefined as unknown,
  kind = 'setups',
) {
  const stop = new AbortController();
  const response = await fetch(`${url}/api/${kind}/${id}/events${how.after === undefined ? '' : `?after=${how.after}`}`, {
    signal: stop.signal,
    headers: how.last === undefined ? {} : { 'Last-Event-ID': how.last },
  });
  expect(response.headers.get('content-type')).toBe('text/event-stream');
  const changes: AcceptedChange[] = [];
  let text = '';
  const reading = (async () => {
    for await (const part of response.body as unknown as AsyncIterable<Uint8Array>) {
      text += Buffer.from(part).toString();
      for (let end = text.indexOf('\n\n'); end >= 0; end = text.indexOf('\n\n')) {
        const data = /^data: (.*)$/m.exec(text.slice(0, end));
        text = text.slice(end + 2);
        if (data) changes.push(acceptedChangeSchema.parse(JSON.parse(data[1]!)));
        if (changes.length === count) return;
      }
    }
  })();
  await meanwhile();
  await reading;
  stop.abort();
  return changes;
}

describe('who has a setup open', () => {
  it('hears of every change that is accepted, once, with the id under which it was sent', async () => {
    const { id } = await server.created();
    const sent = randomUUID();
    const changes = await heard(id, 2, {}, async () => {
      await server.patch(id, 1, { brief: 'one', lights: { items: { ghost: null } } }, sent).expect(200);
      // the same again, a stale one and one that changes nothing are no change
      await server.patch(id, 1, { brief: 'one' }, sent).expect(200);
      await server.patch(id, 1, { brief: 'stale' }).expect(412);
      await server.patch(id, 2, { brief: 'one' }).expect(200);
      await server.patch(id, 2, { name: 'two' }).expect(200);
    });
    expect(changes).toEqual([
      { revision: 2, request: sent, patch: { brief: 'one' } },
      { revision: 3, patch: { name: 'two' } },
    ]);
  });
  it('is told first what came since it last heard, by either way of saying when that was', async () => {
    const { id } = await server.created();
    for (let revision = 1; revision <= 3; revision++) await server.patch(id, revision, { brief: String(revision) }).expect(200);
    expect((await heard(id, 2, { after: 2 })).map((c) => c.revision)).toEqual([3, 4]);
    expect((await heard(id, 3, { last: '1' })).map((c) => c.revision)).toEqual([2, 3, 4]);
    const both = await heard(id, 2, { after: 3 }, () => server.patch(id, 4, { name: 'now' }));
    expect(both.map((c) => c.revision)).toEqual([4, 5]);
  });
  it('is told where there is nothing to hear', async () => {
    problem(await server.api().get(`/api/setups/${NOWHERE}/events`), 404);
    const { id } = await server.created();
    await server.api().delete(`/api/setups/${id}`).expect(204);
    problem(await server.api().get(`/api/setups/${id}/events`), 410);
  });
  it('hears at once what changes in the setup that it follows', async () => {
    const { id: base } = await server.created();
    const document = {
      schemaVersion: 1,
      name: 'S',
      brief: '',
      notes: '',
      rank: 'a0',
      setup: base,
      tolerance: TOLERANCE,
      shots: { items: {} },
    };
    const { id } = (await server.api().post('/api/sequences').send({ document }).expect(201)).body as { id: string };
    const shots = [{ code: '010', first: 1, last: 2, state: 'to light', brief: '', notes: '' }];
    const added = (await server.api().post(`/api/sequences/${id}/shots`).send({ shots }).expect(201)).body as SequenceRecord;
    const [shot] = Object.keys(added.document.shots.items) as [string];
    const changes = await heard(shot, 1, {}, () => server.patch(base, 1, { camera: { ev: 5.5 } }).expect(200));
    expect(changes).toMatchObject([{ revision: 2, patch: { camera: { ev: 5.5 }, follows: { revision: 2 } } }]);
    // what is said of the sequence is told, too
    const later = () =>
      server
        .api()
        .patch(`/api/sequences/${id}`)
        .set('Content-Type', 'application/merge-patch+json')
        .set('If-Match', `"${added.revision}"`)
        .send(JSON.stringify({ brief: 'later' }))
        .expect(200);
    expect(await heard(id, 1, {}, later, 'sequences')).toMatchObject([{ patch: { brief: 'later' } }]);
  });
});

/** A page that listens to a document, and what it was told last of the others. */
class Listener {
  readonly client = randomUUID();
  hands: Hand[] | undefined;
  private readonly stop = new AbortController();
  private told: () => void = () => undefined;
  private readonly path: string;
  constructor(path: string) {
    this.path = path;
  }
  async listen(own = true): Promise<this> {
    const response = await fetch(`${url}/api/${this.path}/events${own ? `?client=${this.client}` : ''}`, { signal: this.stop.signal });
    void (async () => {
      for await (const part of response.body as unknown as AsyncIterable<Uint8Array>)
        for (const [, data] of Buffer.from(part)
          .toString()
          .matchAll(/^data: (.*)$/gm)) {
          this.hands = handsToldSchema.parse(JSON.parse(data!)).hands;
          this.told();
        }
    })().catch(() => undefined);
    return this;
  }
  hold(lights: string[], sequence?: string) {
    return server
      .api()
      .post(`/api/${this.path}/hand`)
      .send({ client: this.client, lights, ...(sequence ? { sequence } : {}) });
  }
  /** Waits until what was told of the others is so. */
  async until(met: (hands: Hand[]) => boolean): Promise<Hand[]> {
    while (!this.hands || !met(this.hands)) await new Promise<void>((resolve) => (this.told = resolve));
    return this.hands;
  }
  leave = () => this.stop.abort();
}

describe('who is in a setup', () => {
  it('sees who else is, and what they have in hand, until they leave', async () => {
    const { id } = await server.created();
    const [a, b] = [await new Listener(`setups/${id}`).listen(), await new Listener(`setups/${id}`).listen()];
    expect(await a.until((h) => h.length === 1)).toEqual([{ client: b.client, document: id, lights: [] }]);
    await b.hold(['key', 'rim']).expect(204);
    expect(await a.until((h) => h[0]!.lights.length === 2)).toEqual([{ client: b.client, document: id, lights: ['key', 'rim'] }]);
    // one that listens anew is there once, and its old stream does not take it away
    const again = new Listener(`setups/${id}`);
    Object.assign(again, { client: b.client });
    await again.listen();
    await a.until((h) => h[0]!.lights.length === 0);
    b.leave();
    await again.hold(['fill']).expect(204);
    await a.until((h) => h.length === 1 && h[0]!.lights[0] === 'fill');
    again.leave();
    expect(await a.until((h) => h.length === 0)).toEqual([]);
    // who does not listen is not there
    await again.hold(['key']).expect(204);
    expect((await new Listener(`setups/${id}`).listen()).hands).toBeUndefined();
    a.leave();
  });
  it('is seen in the other shots of the sequence, and on its board', async () => {
    const [one, two, sequence] = [await server.created(), await server.created(), randomUUID()];
    const made = (
      await server
        .api()
        .post('/api/sequences')
        .send({
          document: {
            schemaVersion: 1,
            name: 'S',
            brief: '',
            notes: '',
            rank: 'a0',
            setup: one.id,
            tolerance: TOLERANCE,
            shots: { items: {} },
          },
        })
        .expect(201)
    ).body as { id: string };
    const [a, b] = [await new Listener(`setups/${one.id}`).listen(), await new Listener(`setups/${two.id}`).listen()];
    const board = await new Listener(`sequences/${made.id}`).listen(false);
    await a.hold(['key'], made.id).expect(204);
    await b.hold(['rim'], made.id).expect(204);
    expect(await a.until((h) => h.length === 1)).toMatchObject([{ document: two.id, lights: ['rim'] }]);
    expect((await board.until((h) => h.length === 2)).map((h) => h.document).sort()).toEqual([one.id, two.id].sort());
    await b.hold(['rim'], sequence).expect(204);
    expect(await board.until((h) => h.length === 1)).toMatchObject([{ document: one.id }]);
    for (const page of [a, b, board]) page.leave();
  });
  it('says what it has in hand as the contract has it', async () => {
    const { id } = await server.created();
    expect(problem(await server.api().post(`/api/setups/${id}/hand`).send({ client: 'me', lights: [] }), 422).errors![0]!.field).toBe(
      'client',
    );
  });
});
