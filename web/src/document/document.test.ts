import { describe, expect, it } from '@jest/globals';
import type { SetupRecord } from '@plinket/contract';
import { applyPatch, dome, joinPatches, parseSetup, type Patch, type Setup } from '@plinket/core';
import { panelLight, setupWith } from '../../../core/src/testing/setups.ts';
import { ApiProblem, Unreachable } from '../api/client.ts';
import { stepBack, stepForward, take, type History } from './history.ts';
import { Sync, type SyncPorts } from './sync.ts';

const setup = setupWith({ key: panelLight(), rim: panelLight({ name: 'Rim' }) });
const azimuth = (a: number): Patch => ({ lights: { items: { key: { place: { azimuth: a } } } } });
const start: History = { setup, undo: [], redo: [] };

describe('undo and redo', () => {
  it('go back to the very beginning and forward to the end again', () => {
    let h = take(start, azimuth(50), undefined, 0);
    h = take(h, { brief: 'x' }, undefined, 10);
    h = take(h, { lights: { order: ['key'], items: { rim: null } } }, undefined, 20);
    const end = h.setup;
    for (let i = 0; i < 3; i++) h = stepBack(h)!.history;
    expect(h.setup).toEqual(setup);
    expect(stepBack(h)).toBeUndefined();
    for (let i = 0; i < 3; i++) h = stepForward(h)!.history;
    expect(h.setup).toEqual(end);
    expect(stepForward(h)).toBeUndefined();
  });
  it('take a drag as one step, named by all it did', () => {
    let h = start;
    for (let i = 1; i <= 20; i++) h = take(h, azimuth(40 + i), 'drag-1', i * 16);
    expect(h.undo).toHaveLength(1);
    expect(h.undo[0]!.words).toBe('key: round to 60°');
    expect(stepBack(h)!.history.setup).toEqual(setup);
  });
  it('take two drags, or one with a long rest, as two', () => {
    let h = take(start, azimuth(50), 'drag-1', 0);
    h = take(h, azimuth(55), 'drag-2', 10);
    h = take(h, azimuth(60), 'drag-2', 5000);
    expect(h.undo).toHaveLength(3);
  });
  it('forget the future once something new is done, and ignore what changes nothing', () => {
    let h = stepBack(take(start, azimuth(50), undefined, 0))!.history;
    expect(h.redo).toHaveLength(1);
    expect(take(h, azimuth(40), undefined, 1)).toBe(h);
    h = take(h, azimuth(45), undefined, 2);
    expect(h.redo).toHaveLength(0);
  });
});

/** A server in memory that can be told to fail. */
function server(document: Setup = setup) {
  const state = { revision: 1, document, calls: 0, fail: [] as ((revision: number) => Error)[] };
  const record = (): SetupRecord => ({ id: 'x', revision: state.revision, document: state.document, createdAt: '', updatedAt: '' });
  const send: SyncPorts['send'] = async (revision, patch) => {
    state.calls++;
    const fail = state.fail.shift();
    if (fail) throw fail(revision);
    if (revision !== state.revision)
      throw new ApiProblem({ type: 't', title: 'stale', status: 412, current: { revision: state.revision, document: state.document } });
    state.revision++;
    state.document = applyPatch(state.document, patch);
    return record();
  };
  return { state, record, send };
}

function saver(s: ReturnType<typeof server>) {
  const log = {
    states: [] as string[],
    kept: undefined as Patch | undefined,
    rebased: undefined as Setup | undefined,
    refused: undefined as string | undefined,
    waits: [] as number[],
  };
  const sync = new Sync(s.record(), {
    send: s.send,
    keep: (p) => (log.kept = p),
    onState: (state) => log.states.push(state),
    onRebased: (d) => (log.rebased = d),
    onRefused: (m) => (log.refused = m),
    wait: async (ms) => void log.waits.push(ms),
  });
  return { sync, log };
}

describe('saving', () => {
  it('joins quick changes into one request', async () => {
    const s = server(),
      { sync, log } = saver(s);
    sync.add(azimuth(50));
    sync.add(azimuth(51));
    sync.add({ brief: 'b' });
    await sync.settled();
    expect(s.state.calls).toBe(1);
    expect(s.state.document.brief).toBe('b');
    expect(log.states.at(-1)).toBe('saved');
    expect(log.kept).toBeUndefined();
  });
  it('keeps the work while the server or its database is gone, says so, and sends it when it is back', async () => {
    const s = server(),
      { sync, log } = saver(s);
    s.state.fail = Array.from({ length: 6 }, () => () => new Unreachable('The database does not answer.'));
    sync.add(azimuth(50));
    await Promise.resolve();
    sync.add({ brief: 'made while away' });
    expect(log.kept).toEqual(joinPatches(azimuth(50), { brief: 'made while away' }));
    await sync.settled();
    expect(log.states).toContain('offline');
    expect(s.state.document.lights.items['key']).toMatchObject({ place: { azimuth: 50 } });
    expect(s.state.document.brief).toBe('made while away');
    expect(log.waits.slice(1, 6)).toEqual([1000, 2000, 3000, 5000, 5000]);
  });
  it('rebases on a newer document: both people’s changes stand', async () => {
    const s = server(),
      { sync, log } = saver(s);
    s.state.revision = 7;
    s.state.document = applyPatch(setup, { name: 'Theirs' });
    sync.add(azimuth(50));
    await sync.settled();
    expect(s.state.document.name).toBe('Theirs');
    expect(s.state.document.lights.items['key']).toMatchObject({ place: { azimuth: 50 } });
    expect(log.rebased!.name).toBe('Theirs');
    expect(sync.revision).toBe(8);
  });
  it('drops what the server will never take, shows its document and says why', async () => {
    const s = server(),
      { sync, log } = saver(s);
    s.state.fail = [
      () => new ApiProblem({ type: 't', title: 'no', status: 422, errors: [{ field: 'lights.items.key.stops', reason: 'too big' }] }),
    ];
    sync.add({ lights: { items: { key: { stops: 900 } } } });
    await sync.settled();
    expect(log.refused).toBe('lights.items.key.stops: too big');
    expect(log.rebased).toEqual(setup);
    expect(log.states.at(-1)).toBe('saved');
  });
  it('takes a light away and puts another kind in its place under the same name, before the server heard of either', async () => {
    const s = server(),
      { sync } = saver(s);
    sync.add({ lights: { order: ['rim'], items: { key: null } } });
    sync.add({ lights: { order: ['rim', 'key'], items: { key: { ...dome(), name: 'Sky' } as unknown as Patch } } });
    await sync.settled();
    expect(s.state.calls).toBe(1);
    expect(parseSetup(s.state.document).lights.items['key']).toEqual({ ...dome(), name: 'Sky' });
  });
  it('stops when the page closes and leaves the rest for the next visit', async () => {
    const s = server(),
      { sync, log } = saver(s);
    sync.add({ brief: 'late' });
    sync.stop();
    await sync.settled();
    expect(s.state.calls).toBe(0);
    expect(log.kept).toEqual({ brief: 'late' });
  });
});
