import { afterEach, beforeEach, describe, expect, it } from '@jest/globals';
import { applyPatch, orderOf, type Patch, type Setup } from '@plinket/core';
import { panelLight, setupWith } from '../../../core/src/testing/setups.ts';
import { oddsWords, openDocument, type DocumentStore } from './store.ts';
import { UnsentShelf, type UnsentPorts } from './unsent.ts';

const setup = setupWith({ key: panelLight(), rim: panelLight({ name: 'Rim' }) });
const ID = '6f1f7b5e-30a4-4d0e-9a39-5a3b8f4c9c03';
const now = '2026-11-28T04:00:00.000Z';

/** The server as the page's fetch meets it. */
class Server {
  revision = 1;
  document: Setup = setup;
  /** Statuses of the next answers that are not good. */
  trouble: number[] = [];

  record = () => ({ id: ID, revision: this.revision, document: this.document, createdAt: now, updatedAt: now });
  change(patch: Patch): void {
    this.revision++;
    this.document = applyPatch(this.document, patch);
  }
  fetch = async (_url: string, init: RequestInit): Promise<Response> => {
    const answer = (status: number, body: object) => new Response(JSON.stringify(body), { status });
    const status = this.trouble.shift();
    if (status !== undefined) return answer(status, { type: 't', title: 'No', status, detail: 'it cannot be' });
    const headers = new Headers(init.headers);
    if (headers.get('if-match') !== `"${this.revision}"`)
      return answer(412, { type: 't', title: 'stale', status: 412, current: { revision: this.revision, document: this.document } });
    this.change(JSON.parse(String(init.body)) as Patch);
    return answer(200, this.record());
  };
}

const storage = (): UnsentPorts['storage'] & { kept: Map<string, string> } => {
  const kept = new Map<string, string>();
  return {
    kept,
    get length() {
      return kept.size;
    },
    key: (i) => [...kept.keys()][i] ?? null,
    getItem: (k) => kept.get(k) ?? null,
    setItem: (k, v) => void kept.set(k, v),
    removeItem: (k) => void kept.delete(k),
  };
};

let server: Server, doc: DocumentStore | undefined;
const global = globalThis as unknown as { fetch: unknown; window: unknown };
const fetchBefore = global.fetch;
beforeEach(() => {
  server = new Server();
  global.fetch = server.fetch;
  global.window = new EventTarget();
});
afterEach(() => {
  doc?.close();
  global.fetch = fetchBefore;
  delete global.window;
});

async function opened(ports = storage()): Promise<DocumentStore> {
  doc = openDocument(server.record(), await UnsentShelf.open(ID, { storage: ports, newId: () => 'w' }));
  return doc;
}
const stops = (id: string, value: number): Patch => ({ lights: { items: { [id]: { stops: value } } } });
const levels = (d: DocumentStore) => Object.entries(d.getState().setup.lights.items).map(([id, l]) => `${id} ${l.stops}`);

describe('undo, when others change the setup, too', () => {
  it('takes back what was done here, and leaves theirs', async () => {
    const page = await opened();
    page.getState().change(stops('key', 1));
    page.getState().change(stops('key', 2));
    server.change(stops('rim', -1));
    await page.settled();
    expect(levels(page)).toEqual(['key 2', 'rim -1']);
    expect(page.getState().undo()).toBe('key: +1 stop');
    expect(levels(page)).toEqual(['key 1', 'rim -1']);
    page.getState().undo();
    page.getState().redo();
    await page.settled();
    expect(server.document.lights.items['key']!.stops).toBe(1);
    expect(server.document.lights.items['rim']!.stops).toBe(-1);
  });
  it('says what can no longer be undone, and goes on with what was before it', async () => {
    const page = await opened();
    page.getState().change({ brief: 'mine' });
    page.getState().change(stops('key', 1));
    await page.settled();
    server.change({ lights: { items: { key: null } } });
    page.getState().change(stops('rim', 1));
    await page.settled();
    expect(levels(page)).toEqual(['rim 1']);
    page.getState().undo();
    expect(page.getState().undo()).toBe('brief');
    expect(page.getState().notice?.text).toBe('“key: +1 stop” can no longer be undone: what it changed is gone.');
    expect(page.getState().setup.brief).toBe(setup.brief);
    expect(page.getState().undo()).toBeUndefined();
  });
});

describe('a change that is refused', () => {
  it('is said with its reason, and undo passes it by', async () => {
    const page = await opened();
    page.getState().change({ brief: 'taken' });
    await page.settled();
    server.trouble = [422];
    page.getState().change({ brief: 'refused' });
    await page.settled();
    expect(page.getState()).toMatchObject({ save: 'refused', notice: { text: 'A change was not kept: it cannot be' } });
    expect(page.getState().setup.brief).toBe('taken');
    page.getState().undo();
    expect(page.getState().setup.brief).toBe(setup.brief);
  });
  it('is none of 500: that is sent again', async () => {
    const page = await opened();
    server.trouble = [500];
    page.getState().change({ brief: 'kept' });
    await page.settled();
    expect(server.document.brief).toBe('kept');
    expect(page.getState()).toMatchObject({ save: 'idle', notice: undefined });
  });
});

describe('what an earlier visit left', () => {
  it('is shown and sent', async () => {
    const ports = storage();
    ports.kept.set(`plinket:unsent:${ID}`, JSON.stringify({ brief: 'from before' }));
    const page = await opened(ports);
    expect(page.getState().setup.brief).toBe('from before');
    await page.settled();
    expect(server.document.brief).toBe('from before');
    expect(ports.kept.size).toBe(0);
  });
  it('in a version before this one means what it meant: a light that was added to a list is there, in its place', async () => {
    const ports = storage();
    const { rank: _, ...light } = panelLight({ name: 'Hair' });
    const patch = { lights: { order: ['key', 'hair', 'rim'], items: { hair: light } } };
    ports.kept.set(`plinket:unsent:${ID}`, JSON.stringify(patch));
    const page = await opened(ports);
    await page.settled();
    expect(orderOf(server.document.lights)).toEqual(['key', 'hair', 'rim']);
    expect(page.getState()).toMatchObject({ save: 'idle', notice: undefined });
  });
  it('and fits nothing any more is set aside and said, and the setup opens', async () => {
    const ports = storage();
    ports.kept.set(`plinket:unsent:${ID}`, JSON.stringify({ camera: null }));
    const page = await opened(ports);
    expect(page.getState().setup).toEqual(setup);
    expect(page.getState().notice?.text).toContain('do not fit this setup any more');
    expect([...ports.kept.keys()]).toEqual([`plinket:set-aside:${ID}:w`]);
  });
});

describe('what two change at once', () => {
  it('is told from where both parted, also where the other goes on', async () => {
    server.trouble = [503, 503];
    const hears: ((change: { revision: number; patch: Patch }) => void)[] = [];
    doc = openDocument(server.record(), await UnsentShelf.open(ID, { storage: storage(), newId: () => 'w' }), (_id, _revision, hear) => {
      hears.push(hear);
      return () => undefined;
    });
    doc.getState().change(stops('key', 1));
    for (const level of [-1, -2]) {
      server.change(stops('key', level));
      hears[0]!({ revision: server.revision, patch: stops('key', level) });
    }
    const [odds] = doc.getState().atOdds;
    expect([doc.getState().atOdds.length, oddsWords(odds!, 'mine'), oddsWords(odds!, 'theirs')]).toEqual([
      1,
      'key: +1 stop',
      'key: −2 stop',
    ]);
  });
  it('is at odds until it is decided: either side can be had, by steps that can be undone', async () => {
    const page = await opened();
    page.getState().change(stops('key', 1));
    server.change(stops('key', -2));
    await page.settled();
    const odds = () => page.getState().atOdds;
    expect(odds().map((o) => [o.key, oddsWords(o, 'mine'), oddsWords(o, 'theirs')])).toEqual([
      ['lights/items/key/stops', 'key: +1 stop', 'key: −2 stop'],
    ]);
    expect(levels(page)).toEqual(['key 1', 'rim 0']);
    const { key } = odds()[0]!;
    page.getState().decide(key, 'theirs');
    expect(levels(page)).toEqual(['key -2', 'rim 0']);
    page.getState().decide(key, 'mine');
    expect(levels(page)).toEqual(['key 1', 'rim 0']);
    page.getState().undo();
    expect(levels(page)).toEqual(['key -2', 'rim 0']);
    // a hand that goes on changes its own side
    page.getState().change(stops('key', 3));
    expect(odds().map((o) => [o.mine, o.theirs])).toEqual([[3, -2]]);
    page.getState().settleOdds(key);
    expect(odds()).toEqual([]);
    await page.settled();
    expect(server.document.lights.items['key']!.stops).toBe(3);
  });
  it('brings a light back that the other took away, with what was done to it', async () => {
    const page = await opened();
    page.getState().change(stops('key', 1));
    server.change({ lights: { items: { key: null } } });
    await page.settled();
    expect(levels(page)).toEqual(['rim 0']);
    page.getState().decide(page.getState().atOdds[0]!.key, 'mine');
    expect(levels(page).sort()).toEqual(['key 1', 'rim 0']);
    await page.settled();
    expect(server.document.lights.items['key']!.stops).toBe(1);
  });
});
