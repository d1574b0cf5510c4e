import { describe, expect, it } from '@jest/globals';
import { inOrder, kitOf, nameOfValue, type Kit, type Setup } from '@plinket/core';
import { panelLight, setupWith } from '../../../core/src/testing/setups.ts';
import type { JobWish } from '@plinket/contract';
import type { EntityManager } from 'typeorm';
import { planFrames, type Documents } from './plan.ts';

const setup = (name: string, stops: number): Setup => ({
  ...setupWith({ key: panelLight({ stops }), rim: panelLight({ name: 'Rim' }) }),
  name,
});
const setups: Record<string, Setup> = { a: setup('The keeper', 0), b: setup('The signaller', 1), c: setup('The keeper', 2) };
const kit = (name: string, light: Setup): Kit => kitOf(light, ['rig'], { name, notes: '', tags: [] } as never).kit;
const kits: Record<string, Kit> = {
  loop: kit('Loop', setupWith({ key: panelLight({ name: 'Only key' }) })),
  split: kit('Split', setupWith({ key: panelLight({ name: 'Side' }), fill: panelLight({ name: 'Fill' }) })),
};
const of = <D>(all: Record<string, D>) => ({ get: (id: string) => Promise.resolve({ id, document: all[id]! } as never) });
const documents = { setups: of(setups), kits: of(kits) } as unknown as Documents;
const plan = (source: JobWish['source']) => planFrames({ source } as JobWish, {} as EntityManager, documents);

describe('characters under kits', () => {
  it('are every setup with every kit in place of its own light', async () => {
    const frames = await plan({ kind: 'kits', setups: ['a', 'b'], kits: ['loop', 'split'] });
    expect(frames.map((f) => [f.label, inOrder(f.setup.lights).map((l) => l.name)])).toEqual([
      ['Loop, The keeper', ['Only key']],
      ['Split, The keeper', ['Side', 'Fill']],
      ['Loop, The signaller', ['Only key']],
      ['Split, The signaller', ['Side', 'Fill']],
    ]);
    for (const f of frames) expect(f.setup.subjects).toEqual(setups['a']!.subjects);
  });
});

describe('what is called the same', () => {
  it('is told apart, as a label and as a file', async () => {
    const stills = await plan({ kind: 'setups', setups: ['a', 'c', 'b'] });
    expect(stills.map((f) => f.label)).toEqual(['The keeper', '2 The keeper', 'The signaller']);
    const long = 'x'.repeat(100);
    setups['d'] = setup(`${long} one`, 0);
    setups['e'] = setup(`${long} two`, 0);
    const cut = await plan({ kind: 'setups', setups: ['d', 'e'] });
    expect(new Set(cut.map((f) => nameOfValue(f.label))).size).toBe(2);
  });
});
