import { describe, expect, it } from '@jest/globals';
import type { Patch } from '@plinket/core';
import { before, extent, putAll, type AlongPorts, type Dot } from './along.ts';

const PATH = { path: 'camera/ev' };
const dots: Dot[] = [
  { id: 'a', revision: 1, value: 5 },
  { id: 'b', revision: 1, value: 5 },
  { id: 'c', revision: 1 },
  { id: 'd', revision: 1, value: 7 },
];

/** Shots on a server. */
function shots() {
  const revisions: Record<string, number> = { a: 1, b: 1, c: 1, d: 1 },
    sent: [string, Patch][] = [];
  const ports: AlongPorts = {
    patch: (id, revision, patch) => {
      if (id === 'd') return Promise.reject(new Error('the shot was thrown away'));
      if (revision !== revisions[id]) return Promise.reject(new Error('stale'));
      sent.push([id, patch]);
      return Promise.resolve(++revisions[id]!);
    },
    revision: (id) => Promise.resolve(revisions[id]!),
    stale: (error) => (error as Error).message === 'stale',
  };
  return { ports, revisions, sent };
}

describe('changing a value along shots', () => {
  it('sends what changes, over what others did meanwhile, and says what stays', async () => {
    const { ports, revisions, sent } = shots();
    revisions['b'] = 4;
    const wanted = new Map([
      ['a', 5],
      ['b', 6],
      ['c', 6],
      ['d', 8],
    ]);
    const { dots: now, stayed } = await putAll(PATH, dots, wanted, ports);
    expect(sent).toEqual([['b', { camera: { ev: 6 } }]]);
    expect(now).toEqual([dots[0], { id: 'b', revision: 5, value: 6 }, dots[2], dots[3]]);
    expect([...stayed]).toEqual([['d', 'the shot was thrown away']]);
  });
  it('gives up on a shot that others never leave alone', async () => {
    const { ports } = shots();
    let tries = 0;
    const busy: AlongPorts = { ...ports, patch: () => (tries++, Promise.reject(new Error('stale'))) };
    expect((await putAll(PATH, dots, new Map([['a', 9]]), busy)).stayed.get('a')).toBe('stale');
    expect(tries).toBe(4);
  });
  it('can be taken back', () => {
    expect([
      ...before(
        dots,
        new Map([
          ['a', 6],
          ['c', 6],
        ]),
      ),
    ]).toEqual([['a', 5]]);
  });
});

describe('the chart', () => {
  it('shows all dots with room around them, within what can be set', () => {
    const value = { least: 0, most: 100, step: 1 };
    expect(extent(value, [40, 60])).toEqual([30, 70]);
    expect(extent(value, [2, 2])).toEqual([0, 12]);
    expect(extent(value, [])).toEqual([0, 100]);
  });
});
