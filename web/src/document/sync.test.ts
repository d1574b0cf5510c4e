import { describe, expect, it } from '@jest/globals';
import { dome, parseSetup, SCHEMA_VERSION, type Patch } from '@plinket/core';
import fc from 'fast-check';
import { Unreachable } from '../api/client.ts';
import { azimuth, begun, Page, settle, setup, status, type Server } from './sync.fixture.ts';
import { TRANSITIONS, type SyncState } from './sync.ts';

describe('saving', () => {
  it('waits a quiet moment, joins quick changes into one request, and is idle', async () => {
    const { server, page } = begun();
    page.sync.add(azimuth(50));
    page.sync.add({ brief: 'b' });
    expect(page.states).toEqual(['waiting']);
    await page.rest();
    expect(server.calls).toBe(1);
    expect(server.document).toMatchObject({ brief: 'b', lights: { items: { key: { place: { azimuth: 50 } } } } });
    expect(page.states).toEqual(['waiting', 'sending', 'idle']);
    expect(page.kept).toBeUndefined();
    expect(page.waits).toEqual([350]);
  });
  it('sends what was done meanwhile after what is on its way', async () => {
    const { server, page } = begun();
    page.sync.add(azimuth(50));
    const going = page.tick();
    page.sync.add({ brief: 'meanwhile' });
    await going;
    await page.rest();
    expect(server.revision).toBe(3);
    expect(page.states).toEqual(['waiting', 'sending', 'waiting', 'sending', 'idle']);
  });
  it('takes a light away and puts another kind in its place under the same name, before the server heard of either', async () => {
    const { server, page } = begun();
    page.sync.add({ lights: { items: { key: null } } });
    page.sync.add({ lights: { items: { key: { ...dome(), name: 'Sky' } as unknown as Patch } } });
    await page.rest();
    expect(server.calls).toBe(1);
    expect(parseSetup(server.document).lights.items['key']).toEqual({ ...dome(), name: 'Sky' });
  });
  it('stops when the page closes and leaves the rest for the next visit', async () => {
    const { server, page } = begun();
    page.sync.add({ brief: 'late' });
    page.sync.stop();
    await page.rest();
    await page.sync.settled();
    expect(server.calls).toBe(0);
    expect(page.kept).toEqual({ version: SCHEMA_VERSION, sending: [], patch: { brief: 'late' } });
  });
});

describe('what is not taken', () => {
  it.each<[string, Error]>([
    ['a server that is gone', new Unreachable('The server does not answer.')],
    ['500', status(500)],
    ['429', new Unreachable('Too much was sent within a minute.')],
    ['507', status(507)],
    ['404', status(404)],
    ['410, a setup that was thrown away', status(410)],
    ['401', status(401)],
    ['409', status(409)],
    ['an answer that cannot be read', new SyntaxError('Unexpected token')],
  ])('is sent again after %s, until it is, and nothing is lost', async (_name, error) => {
    const { server, page } = begun();
    server.trouble = Array.from({ length: 6 }, () => ({ before: error }));
    page.sync.add(azimuth(50));
    await page.tick();
    expect(page.state).toBe(`offline: ${error.message}`);
    page.sync.add({ brief: 'made while away' });
    expect(page.kept).toMatchObject({ sending: [{ patch: azimuth(50) }], patch: { brief: 'made while away' } });
    await page.rest();
    expect(page.waits.slice(1, 7)).toEqual([1000, 2000, 3000, 5000, 5000, 5000]);
    expect(server.document).toMatchObject({ brief: 'made while away', lights: { items: { key: { place: { azimuth: 50 } } } } });
    expect(page.state).toBe('idle');
    expect(page.refused).toBeUndefined();
  });
  it('waits as long as the server asks for', async () => {
    const { server, page } = begun();
    server.trouble = [{ before: new Unreachable('Too much was sent within a minute.', 42) }];
    page.sync.add(azimuth(50));
    await page.rest();
    expect(page.waits).toEqual([350, 42_000]);
  });
  it('is tried at once when the network is back', async () => {
    const { server, page } = begun();
    server.trouble = [{ before: new Unreachable('gone') }];
    page.sync.add(azimuth(50));
    await page.tick();
    page.sync.nudge();
    await settle();
    expect(page.states).toEqual(['waiting', 'sending', 'offline: gone', 'sending', 'idle']);
    page.sync.nudge();
    expect(server.calls).toBe(2);
  });
  it.each([400, 413, 422])('but %i is final: it is dropped, the server’s document shown, and why is said', async (code) => {
    const { server, page } = begun();
    server.trouble = [{ before: status(code, { errors: [{ field: 'lights.items.key.stops', reason: 'too big' }] }) }];
    page.sync.add({ lights: { items: { key: { stops: 900 } } } });
    await page.rest();
    expect(page.refused).toBe('lights.items.key.stops: too big');
    expect(page.rebased).toEqual(setup);
    expect(page.states).toEqual(['waiting', 'sending', 'refused: lights.items.key.stops: too big']);
    expect(page.kept).toBeUndefined();
    page.sync.add({ brief: 'goes on' });
    await page.rest();
    expect(server.document.brief).toBe('goes on');
  });
  it('keeps what was done after a change that is refused', async () => {
    const { server, page } = begun();
    server.trouble = [{ before: status(422) }];
    page.sync.add({ name: '' });
    const going = page.tick();
    page.sync.add({ brief: 'kept' });
    await going;
    await page.rest();
    expect(server.document).toMatchObject({ name: setup.name, brief: 'kept' });
    expect(page.states.slice(-3)).toEqual(['waiting', 'sending', 'idle']);
  });
});

describe('an answer that is lost after the change was taken', () => {
  it('is asked for again under the same id: the change is taken once, and nothing is rebased', async () => {
    const { server, page } = begun();
    server.trouble = [{ lost: true }, { lost: true }];
    page.sync.add(azimuth(50));
    await page.rest();
    expect(server.calls).toBe(3);
    expect(server.revision).toBe(2);
    expect(page.rebased).toBeUndefined();
    expect(page.state).toBe('idle');
  });
  it('is asked for by the next visit, too, which sees what others did since', async () => {
    const { server, page } = begun();
    server.trouble = [{ lost: true }];
    page.sync.add(azimuth(50));
    await page.tick();
    page.sync.add({ brief: 'not yet sent' });
    page.sync.stop();
    server.change(azimuth(70));
    const next = new Page(server, [page.kept!]);
    await next.rest();
    expect(server.document).toMatchObject({ brief: 'not yet sent', lights: { items: { key: { place: { azimuth: 70 } } } } });
    expect(next.sync.document()).toEqual(server.document);
    expect(server.revision).toBe(4);
  });
});

describe('a newer document', () => {
  it('is rebased upon: both people’s changes stand', async () => {
    const { server, page } = begun();
    server.change({ name: 'Theirs' });
    page.sync.add(azimuth(50));
    await page.rest();
    expect(server.document).toMatchObject({ name: 'Theirs', lights: { items: { key: { place: { azimuth: 50 } } } } });
    expect(page.rebased!.name).toBe('Theirs');
    expect(page.sync.revision).toBe(3);
    expect(page.states).toEqual(['waiting', 'sending', 'waiting', 'sending', 'idle']);
  });
});

describe('changes of others that are heard of', () => {
  const heard = (server: Server, patch: Patch, request?: string) => {
    server.change(patch);
    return { revision: server.revision, request, patch };
  };
  it('are there at once, under what is not yet saved', async () => {
    const { server, page } = begun();
    page.sync.add(azimuth(50));
    page.sync.hear(heard(server, { name: 'Theirs', ...azimuth(70) }));
    expect(page.rebased).toMatchObject({ name: 'Theirs', lights: { items: { key: { place: { azimuth: 50 } } } } });
    await page.rest();
    expect(server.calls).toBe(1);
    expect(server.document).toEqual(page.sync.document());
  });
  it('are passed by when they are known, and the whole document is asked for when some were missed', async () => {
    const { server, page } = begun();
    const old = heard(server, { name: 'one' });
    page.sync.hear(old);
    page.rebased = undefined;
    page.sync.hear(old);
    expect(page.rebased).toBeUndefined();
    server.change({ brief: 'missed' });
    page.sync.hear(heard(server, { name: 'three' }));
    await settle();
    expect(page.rebased).toMatchObject({ name: 'three', brief: 'missed' });
    expect(page.sync.revision).toBe(4);
  });
  it('may be the page’s own, before its answer comes or after it was lost', async () => {
    for (const lost of [true, false]) {
      const { server, page } = begun();
      if (lost) server.trouble = [{ lost: true }];
      page.sync.add({ brief: 'mine' });
      const going = page.tick();
      const { id } = page.kept!.sending[0]!;
      page.sync.hear({ revision: 2, request: id, patch: { brief: 'mine' } });
      page.sync.hear({ revision: 3, patch: { name: 'Theirs' } });
      await going;
      expect(page.state).toBe('idle');
      expect(page.sync.document()).toMatchObject({ brief: 'mine', name: 'Theirs' });
      expect(server.calls).toBe(1);
      expect(page.kept).toBeUndefined();
    }
  });
  it('take a thing away that is being changed here: it is gone, and nothing is refused', async () => {
    const { server, page } = begun();
    page.sync.add({ ...azimuth(50), brief: 'stays' });
    page.sync.hear(heard(server, { lights: { items: { key: null } } }));
    expect(Object.keys(page.rebased!.lights.items)).toEqual(['rim']);
    await page.rest();
    expect(page.refused).toBeUndefined();
    expect(server.document).toMatchObject({ brief: 'stays' });
    parseSetup(server.document);
  });
});

describe('a value that two change at once', () => {
  const AT = 'lights.items.key.place.azimuth';
  const heard = (server: Server, patch: Patch, by?: string) => {
    server.change(patch);
    return { revision: server.revision, by, patch };
  };
  it('is this page’s own, and what the other made of it is not lost', async () => {
    const { server, page } = begun();
    page.sync.add({ ...azimuth(50), brief: 'mine alone' });
    page.sync.hear(heard(server, { ...azimuth(70), name: 'theirs alone' }, 'Bo'));
    expect(page.conflicts).toEqual([{ path: AT, mine: 50, theirs: 70, by: 'Bo' }]);
    await page.rest();
    expect(server.document).toMatchObject({
      brief: 'mine alone',
      name: 'theirs alone',
      lights: { items: { key: { place: { azimuth: 50 } } } },
    });
    expect(page.conflicts).toHaveLength(1);
  });
  it('is found, too, by a change that comes too late, and where some were missed', async () => {
    const { server, page } = begun();
    server.change(azimuth(70));
    page.sync.add(azimuth(50));
    await page.rest();
    expect(page.conflicts).toEqual([{ path: AT, mine: 50, theirs: 70, by: undefined }]);
    page.conflicts = [];
    page.sync.add(azimuth(20));
    server.change({ brief: 'missed' });
    page.sync.hear(heard(server, azimuth(30)));
    await settle();
    expect(page.conflicts).toEqual([{ path: AT, mine: 20, theirs: 30, by: undefined }]);
  });
  it('is none where it is the page’s own, heard before its answer, or both say the same', async () => {
    const { server, page } = begun();
    page.sync.add(azimuth(50));
    const going = page.tick();
    const { id } = page.kept!.sending[0]!;
    page.sync.add(azimuth(60));
    page.sync.hear({ revision: 2, request: id, patch: azimuth(50) });
    await going;
    page.sync.hear(heard(server, azimuth(60)));
    await page.rest();
    expect(page.conflicts).toEqual([]);
    // known as a whole, with the page’s own in it
    page.sync.add(azimuth(10));
    server.trouble = [{ lost: true }];
    await page.tick();
    page.sync.add(azimuth(15));
    server.change({ brief: 'missed' });
    page.sync.hear(heard(server, { name: 'three' }));
    await settle();
    expect(page.conflicts).toEqual([]);
  });
  it('is found in a thing that was taken away while a part of it was changed', () => {
    const { server, page } = begun();
    page.sync.add({ lights: { items: { key: { stops: 2 } } } });
    page.sync.hear(heard(server, { lights: { items: { key: null } } }, 'Bo'));
    expect(page.conflicts).toMatchObject([{ path: 'lights.items.key', mine: { stops: 2 }, theirs: undefined, by: 'Bo' }]);
  });
});

describe('the states', () => {
  it('follow each other only as the table says, whatever happens, and nothing that was done is lost', async () => {
    const seen = new Set<string>();
    const event = fc.constantFrom('add', 'tick', 'theirs', 'gone', 'lost', 'refuse', 'nudge');
    await fc.assert(
      fc.asyncProperty(fc.array(event, { maxLength: 40 }), async (events) => {
        const { server, page } = begun();
        let n = 0;
        for (const e of events) {
          if (e === 'add') page.sync.add({ lights: { items: { key: { notes: `${++n}` } } }, brief: `mine ${n}` });
          else if (e === 'tick') await page.tick();
          else if (e === 'theirs') server.change({ name: `Theirs ${server.revision}` });
          else if (e === 'gone') server.trouble.push({ before: new Unreachable('gone') });
          else if (e === 'lost') server.trouble.push({ lost: true });
          else if (e === 'refuse') server.trouble.push({ before: status(422) });
          else {
            page.sync.nudge();
            await settle();
          }
        }
        const refusedBefore = page.refused !== undefined;
        await page.rest();
        const names = ['idle', ...page.states.map((s) => s.split(':')[0]!)] as SyncState[];
        for (let i = 1; i < names.length; i++) {
          expect(TRANSITIONS[names[i - 1]!]).toContain(names[i]);
          seen.add(`${names[i - 1]} ${names[i]}`);
        }
        expect(page.kept).toBeUndefined();
        if (n > 0 && !refusedBefore && page.refused === undefined) expect(server.document.brief).toBe(`mine ${n}`);
      }),
      { numRuns: 200, seed: 7 },
    );
    const all = Object.entries(TRANSITIONS).flatMap(([from, tos]) => tos.map((to) => `${from} ${to}`));
    expect([...seen].sort()).toEqual(all.sort());
  });
});
