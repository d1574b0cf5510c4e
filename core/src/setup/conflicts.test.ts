import { describe, expect, it } from '@jest/globals';
import fc from 'fast-check';
import { choicePatch, conflictsOf, valueAt } from './conflicts.ts';
import { applyPatch, diff, isEmptyPatch, type Json, type Patch } from './patch.ts';

const base = { name: 'a', lights: { items: { key: { stops: 0, place: { azimuth: 10, elevation: 20 } }, rim: { stops: 1 } } } };
const key = (change: Json): Patch => ({ lights: { items: { key: change } } });

describe('two changes at once', () => {
  it('join where they change different values of one thing', () => {
    expect(conflictsOf(base, key({ stops: 1 }), key({ place: { azimuth: 30 } }))).toEqual([]);
    expect(conflictsOf(base, key({ place: { elevation: 1 } }), key({ place: { azimuth: 30 } }))).toEqual([]);
    expect(conflictsOf(base, key({ stops: 2 }), key({ stops: 2 }))).toEqual([]);
    expect(conflictsOf(base, key(null), key(null))).toEqual([]);
  });
  it('are at odds in the values that both change, each to another', () => {
    const mine = key({ stops: 1, place: { azimuth: 5, elevation: 6 } }),
      theirs = { ...key({ stops: 2, place: { azimuth: 7 } }), name: 'b' };
    expect(conflictsOf(base, mine, theirs)).toEqual([
      { path: ['lights', 'items', 'key', 'stops'], mine: 1, theirs: 2 },
      { path: ['lights', 'items', 'key', 'place', 'azimuth'], mine: 5, theirs: 7 },
    ]);
  });
  it('are at odds in the whole thing where one takes it away', () => {
    const path = ['lights', 'items', 'key'];
    const changed = { stops: 3, place: { azimuth: 10, elevation: 20 } };
    expect(conflictsOf(base, key({ stops: 3 }), key(null))).toEqual([{ path, mine: changed, theirs: undefined }]);
    expect(conflictsOf(base, key(null), key({ stops: 3 }))).toEqual([{ path, mine: undefined, theirs: changed }]);
  });
  it('may both add the same thing, and are then at odds in it', () => {
    const added = (stops: number): Patch => ({ lights: { items: { fill: { stops } } } });
    expect(conflictsOf(base, added(1), added(2))).toEqual([
      { path: ['lights', 'items', 'fill'], mine: { stops: 1 }, theirs: { stops: 2 } },
    ]);
  });
});

describe('choosing', () => {
  it('puts a value, or the whole thing, where it belongs, and changes nothing else', () => {
    const path = ['lights', 'items', 'key', 'stops'];
    expect(choicePatch(base, path, 3)).toEqual(key({ stops: 3 }));
    expect(choicePatch(base, path, 0)).toEqual({});
    const gone = applyPatch(base, key(null));
    const back = applyPatch(gone, choicePatch(gone, ['lights', 'items', 'key'], base.lights.items.key));
    expect(back).toEqual(base);
    expect(choicePatch(base, ['lights', 'items', 'key'], undefined)).toEqual(key(null));
    // its light is gone: there is nothing to put the level on
    expect(choicePatch(gone, path, 3)).toEqual({});
    expect(choicePatch(base, ['name'], 'b')).toEqual({ name: 'b' });
  });
});

/** Documents of few keys: changes meet often. */
const document = fc.letrec<{ node: Json }>((tie) => ({
  node: fc.oneof(
    { maxDepth: 3, depthSize: 'small' },
    fc.integer({ min: 0, max: 2 }),
    fc.array(fc.integer({ min: 0, max: 2 }), { maxLength: 2 }),
    fc.dictionary(fc.constantFrom('a', 'b', 'c'), tie('node'), { maxKeys: 3 }),
  ),
})).node;
const root = fc.dictionary(fc.constantFrom('a', 'b', 'c'), document, { maxKeys: 3 });

it('whatever two do: what is not at odds is as both want it, and each side can be had', () => {
  fc.assert(
    fc.property(root, root, root, (from, a, b) => {
      const mine = diff(from, a),
        theirs = diff(from, b);
      const found = conflictsOf(from, mine, theirs);
      const joined = applyPatch(applyPatch(from, theirs), mine);
      // without the places at odds it does not matter who comes first
      const other = applyPatch(applyPatch(from, mine), theirs);
      const settled = (d: unknown, side: 'mine' | 'theirs') =>
        found.reduce((now, c) => applyPatch(now, choicePatch(now, c.path, c[side])), d);
      for (const side of ['mine', 'theirs'] as const) {
        expect(isEmptyPatch(diff(settled(joined, side), settled(other, side)))).toBe(true);
        for (const c of found) expect(valueAt(settled(joined, side), c.path)).toEqual(c[side]);
      }
    }),
    { numRuns: 300 },
  );
});
