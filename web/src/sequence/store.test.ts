import { describe, expect, it } from '@jest/globals';
import type { SequenceRecord } from '@plinket/contract';
import { applyPatch, collected, TOLERANCE, type Patch, type Sequence } from '@plinket/core';
import { ApiProblem, Unreachable } from '../api/client.ts';
import { SequenceStore } from './store.ts';

const shot = (code: string) => ({ code, first: 1001, last: 1010, state: 'to light' as const, brief: '', notes: '' });
const made: Sequence = {
  schemaVersion: 1,
  name: 'S',
  brief: '',
  notes: '',
  rank: 'a0',
  setup: '',
  tolerance: TOLERANCE,
  shots: collected({ a: shot('1'), b: shot('2') }),
};
const items = (of: object): Patch => ({ shots: { items: of } }) as Patch;
const settle = async () => {
  for (let i = 0; i < 20; i++) await Promise.resolve();
};

/** A server that answers when it is told to. */
function bench() {
  let record = { id: 'x', revision: 1, document: made, createdAt: '', updatedAt: '' } as SequenceRecord;
  const waiting: {
      id: string;
      patch: Patch;
      revision: number;
      answer(): void;
      give(record: SequenceRecord): void;
      fail(error: Error): void;
    }[] = [],
    refused: string[] = [];
  let ids = 0;
  let later: (() => void) | undefined;
  const take = (patch: Patch) => (record = { ...record, revision: record.revision + 1, document: applyPatch(record.document, patch) });
  const stale = () => new ApiProblem({ type: '', title: 'stale', status: 412 });
  const store = new SequenceStore(record, {
    newId: () => `id-${ids++}`,
    send: ({ id, revision, patch }) =>
      new Promise((resolve, reject) =>
        waiting.push({
          id,
          revision,
          patch,
          answer: () => (revision === record.revision ? resolve(take(patch)) : reject(stale())),
          give: resolve,
          fail: reject,
        }),
      ),
    fetch: () => Promise.resolve(record),
    onRefused: (reason) => refused.push(reason),
    after: (_, then) => {
      later = then;
      return () => undefined;
    },
  });
  const now = () => store.state.getState();
  return {
    store,
    waiting,
    refused,
    now,
    others: take,
    server: () => record,
    tick: () => later?.(),
    codes: () => Object.values(now().document.shots.items).map((s) => s.code),
  };
}

describe('an open sequence', () => {
  it('sends one change at a time, in their order, those made meanwhile together', async () => {
    const { store, waiting, server, now } = bench();
    store.change(items({ a: { code: 'x' } }), 'code');
    store.change(items({ a: { code: 'y' } }), 'code');
    store.change(items({ b: { state: 'agreed' } }), 'state');
    expect(waiting.map((w) => w.patch)).toEqual([items({ a: { code: 'x' } })]);
    waiting[0]!.answer();
    await settle();
    expect(waiting.map((w) => [w.revision, w.patch])).toEqual([
      [1, items({ a: { code: 'x' } })],
      [2, items({ a: { code: 'y' }, b: { state: 'agreed' } })],
    ]);
    waiting[1]!.answer();
    await settle();
    expect(server().document).toEqual(now().document);
    expect(now().save).toBe('idle');
  });
  it('goes back and forth, however fast', async () => {
    const { store, waiting, codes, now, server } = bench();
    store.change(items({ b: null }), 'out');
    store.change(items({ a: { code: 'x' } }), 'code');
    for (let i = 0; i < 3; i++) store.undo();
    expect(codes().sort()).toEqual(['1', '2']);
    store.redo();
    expect(codes()).toEqual(['1']);
    expect([now().undo.length, now().redo.length]).toEqual([1, 1]);
    waiting[0]!.answer();
    await settle();
    expect(server().document).toEqual(now().document);
  });
  it('takes back what is on its way', async () => {
    const { store, waiting, server, codes } = bench();
    store.change(items({ a: { code: 'x' } }), 'code');
    store.undo();
    waiting[0]!.answer();
    await settle();
    expect(codes()).toEqual(['1', '2']);
    waiting[1]!.answer();
    await settle();
    expect(server().document.shots.items['a']!.code).toBe('1');
  });
  it('takes back what is on its way, also where that is heard before it is answered', async () => {
    const { store, waiting, server, codes, others } = bench();
    store.change(items({ a: null }), 'out');
    store.undo();
    // taken, and told, and others' after it, before the answer comes
    const { id, patch } = waiting[0]!;
    const taken = others(patch);
    store.hear({ revision: 2, request: id, patch });
    expect(codes().sort()).toEqual(['1', '2']);
    others({ brief: 'theirs' });
    store.hear({ revision: 3, patch: { brief: 'theirs' } });
    waiting[0]!.give(taken);
    await settle();
    expect(store.revision).toBe(3);
    waiting[1]!.answer();
    await settle();
    expect([Object.keys(server().document.shots.items).sort(), server().document.brief]).toEqual([['a', 'b'], 'theirs']);
  });
  it('puts what others did under what is not sent; a part of a shot that they took out is left', async () => {
    const { store, waiting, others, server, now, codes } = bench();
    store.change(items({ a: { code: 'x' }, b: { code: 'z' } }), 'codes');
    others({ brief: 'theirs', ...items({ b: null }) });
    waiting[0]!.answer();
    await settle();
    expect(waiting[1]).toMatchObject({ revision: 2, patch: items({ a: { code: 'x' } }) });
    waiting[1]!.answer();
    await settle();
    expect([codes(), now().document.brief]).toEqual([['x'], 'theirs']);
    expect(server().document).toEqual(now().document);
    // what is heard is theirs, and no step of one's own
    others({ name: 'Theirs' });
    store.hear({ revision: server().revision, patch: { name: 'Theirs' } });
    expect([now().document.name, now().undo.length]).toEqual(['Theirs', 1]);
  });
  it('asks a server again that does not answer, and drops what is refused, saying why', async () => {
    const { store, waiting, refused, now, tick, codes } = bench();
    store.change(items({ a: { code: 'x' } }), 'code');
    waiting[0]!.fail(new Unreachable('gone'));
    await settle();
    expect(now().save).toBe('offline');
    tick();
    expect(waiting[1]!.patch).toEqual(items({ a: { code: 'x' } }));
    waiting[1]!.fail(new ApiProblem({ type: '', title: 'no such code', status: 422 }));
    await settle();
    expect([refused, codes(), now().undo]).toEqual([['no such code'], ['1', '2'], []]);
  });
});
