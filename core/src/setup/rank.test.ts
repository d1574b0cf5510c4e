import { describe, expect, it } from '@jest/globals';
import fc from 'fast-check';
import { panelLight, setupWith } from '../testing/setups.ts';
import {
  applyPatch,
  applyVersion,
  collected,
  diff,
  freeId,
  inOrder,
  isRank,
  migrateSetup,
  orderChange,
  orderOf,
  parseSetup,
  ranksAt,
  rebased,
  withRanks,
  type Patch,
  type Setup,
} from './index.ts';

const lights = (ids: string[]) => collected(Object.fromEntries(ids.map((id) => [id, panelLight({ name: id })])));
const base = setupWith(Object.fromEntries(['key', 'fill', 'rim', 'hair', 'kick'].map((id) => [id, panelLight({ name: id })])));
const put = (setup: Setup, patch: unknown): Setup => parseSetup(applyPatch(setup, patch));

describe('the order of things', () => {
  it('is that in which they came, and the same array for the same items', () => {
    const c = lights(['z', 'a', 'm']);
    expect(orderOf(c)).toEqual(['z', 'a', 'm']);
    expect(orderOf(c)).toBe(orderOf({ items: c.items }));
    expect(inOrder(c).map((l) => l.name)).toEqual(['z', 'a', 'm']);
  });
  it('takes something in anywhere', () => {
    for (const [place, expected] of [
      [0, 'n z a m'],
      [1, 'z n a m'],
      [undefined, 'z a m n'],
      [99, 'z a m n'],
    ] as const) {
      const c = lights(['z', 'a', 'm']);
      expect(orderOf({ items: { ...c.items, ...withRanks(c, { n: panelLight() }, place) } }).join(' ')).toBe(expected);
    }
  });
  it('goes by id where two windows gave one rank, and still takes things in between and after', () => {
    const rank = ranksAt(lights(['a']), 1)[0]!;
    const c = { items: { ...lights(['a']).items, two: { ...panelLight(), rank }, one: { ...panelLight(), rank } } };
    expect(orderOf(c)).toEqual(['a', 'one', 'two']);
    for (const place of [0, 1, 2, 3]) expect(() => withRanks(c, { n: panelLight() }, place)).not.toThrow();
    expect(orderOf({ items: { ...c.items, ...withRanks(c, { n: panelLight() }) } }).at(-1)).toBe('n');
  });
  it('can be set to any other, by as few changes as need be', () => {
    const order = fc.shuffledSubarray(['a', 'b', 'c', 'd', 'e'], { minLength: 5 });
    fc.assert(
      fc.property(order, (ids) => {
        const c = lights(['a', 'b', 'c', 'd', 'e']);
        const change = orderChange(c, ids);
        expect(orderOf(applyPatch(c, { items: change }))).toEqual(ids);
      }),
      { seed: 5 },
    );
    expect(orderChange(lights(['a', 'b']), ['a', 'b'])).toEqual({});
  });
  it('refuses ranks that nothing could stand beside', () => {
    for (const text of ['', 'a', 'a00', '0', 'zz', 'a-1', ' a0', 'a0\n']) expect(isRank(text)).toBe(false);
    for (const text of ['a0', 'Zz', 'a0V', 'b00']) expect(isRank(text)).toBe(true);
    expect(() => put(base, { lights: { items: { key: { rank: 'zz' } } } })).toThrow('rank');
  });
  it('has ids that are free, and no property of every object is one', () => {
    expect(freeId({ 'rim-1': 0 }, 'rim')).toBe('rim-2');
    expect(freeId({}, 'rim', 'xyz')).toBe('rim-1xyz');
    expect(freeId({}, 'constructor')).toBe('constructor-1');
  });
});

/** One window's history: what it adds, moves, changes and removes, step by step. */
const history = (who: string) =>
  fc
    .array(
      fc.oneof(
        fc.record({ do: fc.constant('add' as const), place: fc.nat(6) }),
        fc.record({ do: fc.constant('move' as const), which: fc.nat(9), place: fc.nat(6) }),
        fc.record({ do: fc.constant('change' as const), which: fc.nat(9), stops: fc.integer({ min: -9, max: 9 }) }),
        fc.record({ do: fc.constant('remove' as const), which: fc.nat(9) }),
      ),
      { maxLength: 8 },
    )
    .map((steps) => {
      let setup = base,
        n = 0;
      for (const step of steps) {
        const ids = orderOf(setup.lights);
        const id = 'which' in step ? ids[step.which % Math.max(1, ids.length)] : undefined;
        if (step.do === 'add')
          setup = put(setup, { lights: { items: withRanks(setup.lights, { [`${who}-${n++}`]: panelLight() }, step.place) } });
        else if (id === undefined) continue;
        else if (step.do === 'move')
          setup = put(setup, { lights: { items: { [id]: { rank: ranksAt(setup.lights, 1, step.place)[0]! } } } });
        else if (step.do === 'change') setup = put(setup, { lights: { items: { [id]: { stops: step.stops } } } });
        else setup = put(setup, { lights: { items: { [id]: null } } });
      }
      return setup;
    });

describe('two windows', () => {
  it('add, move, change and remove: in either order all that only one of them touched is there', () => {
    fc.assert(
      fc.property(history('hers'), history('his'), (hers, his) => {
        const [a, b] = [diff(base, hers), diff(base, his)];
        for (const [first, second] of [
          [a, b],
          [b, a],
        ] as [Patch, Patch][]) {
          const one = put(base, first);
          const both = put(one, rebased(second, one));
          for (const id of new Set([
            ...Object.keys(hers.lights.items),
            ...Object.keys(his.lights.items),
            ...Object.keys(base.lights.items),
          ])) {
            const [was, mine, theirs] = [base, hers, his].map((s) => s.lights.items[id]);
            const changed = (l: unknown) => JSON.stringify(l) !== JSON.stringify(was);
            // who alone touched it has it as it was left
            if (changed(mine) && !changed(theirs)) expect(both.lights.items[id]).toEqual(mine);
            if (!changed(mine)) expect(both.lights.items[id]).toEqual(theirs);
          }
          expect(orderOf(both.lights)).toHaveLength(Object.keys(both.lights.items).length);
        }
      }),
      { seed: 11, numRuns: 300 },
    );
  });
  it('one takes a thing away, the other changes it: it is gone, and the rest of the change stands', () => {
    const gone = put(base, { lights: { items: { rim: null } } });
    const change = { lights: { items: { rim: { stops: 1 }, key: { stops: 2 } } }, brief: 'x' };
    expect(rebased(change, gone)).toEqual({ lights: { items: { key: { stops: 2 } } }, brief: 'x' });
    expect(rebased({ lights: { items: { rim: { stops: 1 } } } }, gone)).toEqual({});
    // the whole thing comes back
    const whole = { lights: { items: { rim: base.lights.items['rim'] } } } as unknown as Patch;
    expect(rebased(whole, gone)).toEqual(whole);
  });
});

describe('documents that list their order', () => {
  const older = (setup: Setup, order: string[]) => ({
    ...setup,
    schemaVersion: 4,
    ...Object.fromEntries(
      (['subjects', 'cameras', 'props', 'flags'] as const).map((name) => [name, { order: orderOf(setup[name]), items: setup[name].items }]),
    ),
    lights: { order, items: Object.fromEntries(order.map((id) => [id, without(setup.lights.items[id]!)])) },
  });
  const without = ({ rank: _, ...light }: { rank: string }) => light;
  it('are read in that order', () => {
    const order = ['rim', 'key', 'kick', 'fill', 'hair'];
    const now = parseSetup(older(base, order));
    expect(orderOf(now.lights)).toEqual(order);
    expect(JSON.stringify(now)).not.toContain('"order"');
  });
  it('lose nothing that their list forgets, and nothing that it names twice or that is not there comes in', () => {
    const now = migrateSetup({
      ...older(base, ['rim', 'key']),
      lights: { order: ['rim', 'rim', 'ghost', 'key'], items: base.lights.items },
    }) as Setup;
    expect(orderOf(now.lights).slice(0, 2)).toEqual(['rim', 'key']);
    expect(orderOf(now.lights)).toHaveLength(5);
  });
  it('take changes that were made for them: one that lists an order, too', () => {
    const added = { lights: { order: ['new', 'key', 'fill', 'rim', 'hair', 'kick'], items: { new: without(panelLight()) } } };
    const now = parseSetup(applyVersion(base, added, 4));
    expect(orderOf(now.lights)).toEqual(['new', 'key', 'fill', 'rim', 'hair', 'kick']);
    // those that stay where they were keep their ranks
    for (const id of orderOf(base.lights)) expect(now.lights.items[id]!.rank).toBe(base.lights.items[id]!.rank);
    const removed = parseSetup(applyVersion(base, { lights: { order: ['key', 'rim', 'hair', 'kick'], items: { fill: null } } }, 4));
    expect(orderOf(removed.lights)).toEqual(['key', 'rim', 'hair', 'kick']);
  });
});
