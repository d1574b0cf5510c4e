import { describe, expect, it } from '@jest/globals';
import { reachOver, reachPatch, type ObjectRef } from '@plinket/core';
import { rowOfAll, shownRows } from './rows.ts';
import { stepOf } from './table-keys.ts';

const OBJECTS: [ObjectRef, string][] = [
  ['stage/backdrop', 'backdrop'],
  ['stage/front', 'front'],
  ['props/drum', 'Drum'],
  ['subjects/a/Skin', 'A / Skin'],
  ['subjects/a/Skin/inner', 'A / Skin/inner'],
  ['subjects/a/Hair', 'A / Hair'],
  ['subjects/b/Skin', 'B / Skin'],
];
const all = rowOfAll(OBJECTS, (rule) => `<${rule}>`);
const names = (unfolded: string[], find = '') => shownRows(all, new Set(unfolded), find).map(({ row, depth }) => `${depth} ${row.name}`);

describe('rows of what may be lit', () => {
  it('are everything, the stage, things, characters; each stands for what lies below it', () => {
    expect(names([])).toEqual(['0 <*>', '1 <stage>', '1 <props/drum>', '1 <subjects/a>', '1 <subjects/b>']);
    expect(all.covers).toHaveLength(7);
    expect(all.parts.map((r) => r.covers.length)).toEqual([2, 1, 3, 1]);
    expect(names(['subjects/a', 'stage'])).toEqual([
      '0 <*>',
      '1 <stage>',
      '2 <stage/backdrop>',
      '2 <stage/front>',
      '1 <props/drum>',
      '1 <subjects/a>',
      '2 Skin',
      '2 Skin/inner',
      '2 Hair',
      '1 <subjects/b>',
    ]);
  });
  it('a part whose name is the beginning of another stands for both, as its rule does', () => {
    const skin = all.parts[2]!.parts[0]!;
    expect(skin.covers).toEqual(['subjects/a/Skin', 'subjects/a/Skin/inner']);
    const items = { key: { reach: { lights: {}, casts: {} } } };
    const patch = reachPatch({ items }, ['key'], 'lights', skin.rule, false, skin.covers) as {
      lights: { items: { key: { reach: { lights: Record<string, boolean> } } } };
    };
    expect(reachOver(patch.lights.items.key.reach.lights, skin.covers)).toBe('none');
  });
  it('are found by name with what they are in, folded or not', () => {
    expect(names([], 'hair')).toEqual(['0 <*>', '1 <subjects/a>', '2 Hair']);
    expect(names([], ' SKIN ')).toEqual(['0 <*>', '1 <subjects/a>', '2 Skin', '2 Skin/inner', '1 <subjects/b>', '2 Skin']);
    expect(names(['subjects/a'], 'drum')).toEqual(['0 <*>', '1 <props/drum>']);
  });
  it('ten thousand parts are each a row that stands for itself', () => {
    const many = Array.from({ length: 10_000 }, (_, i): [ObjectRef, string] => [`subjects/a/p${i}`, `p${i}`]);
    const { parts } = rowOfAll(many, (rule) => rule);
    expect(parts).toHaveLength(1);
    expect(parts[0]!.covers).toHaveLength(10_000);
    expect(parts[0]!.parts.every((r) => r.covers.length === 1)).toBe(true);
  });
});

describe('keys of the table', () => {
  const press = (key: string, row: number, mark: number, ctrlKey = false) => stepOf({ key, ctrlKey }, { row, mark }, 30, 10);
  it('walk by one, by ten, to the ends, and never out of it; names stand before the first mark', () => {
    expect(press('ArrowRight', 3, -1)).toEqual({ row: 3, mark: 0 });
    expect(press('ArrowLeft', 3, -1)).toEqual({ row: 3, mark: -1 });
    expect(press('ArrowRight', 3, 9)).toEqual({ row: 3, mark: 9 });
    expect(press('PageDown', 25, 2)).toEqual({ row: 29, mark: 2 });
    expect(press('PageUp', 4, 2)).toEqual({ row: 0, mark: 2 });
    expect(press('End', 4, 2)).toEqual({ row: 4, mark: 9 });
    expect(press('Home', 4, 2, true)).toEqual({ row: 0, mark: 0 });
    expect(press('x', 4, 2)).toBeUndefined();
  });
});
