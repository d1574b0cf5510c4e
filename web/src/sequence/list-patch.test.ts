import { describe, expect, it } from '@jest/globals';
import { applyPatch, collected, compareShots, orderOf, type Sequence } from '@plinket/core';
import { listPatch } from './list-patch.ts';

const shot = (code: string) => ({ code, first: 1001, last: 1010, state: 'to light' as const, brief: '', notes: '' });
const before = { shots: collected({ a: shot('A'), b: shot('B'), c: shot('C') }) };
/** What a list makes of a sequence whose new shots have been added at its end. */
function taken(list: { code: string; first?: number; last?: number }[], out: boolean): Pick<Sequence, 'shots'> {
  const report = compareShots(before, list);
  const added = Object.fromEntries(report.added.map((s) => [s.code.toLowerCase(), { ...shot(s.code), rank: `z${s.at}` }]));
  const now = { shots: { items: { ...before.shots.items, ...added } } };
  return applyPatch(now, listPatch(now, report, out));
}
const codes = ({ shots }: Pick<Sequence, 'shots'>) => orderOf(shots).map((id) => shots.items[id]!.code);

describe('a shot list taken over', () => {
  it('sets the order, the frames, and new shots in their places; those it has not stay behind the one they stood behind', () => {
    const now = taken([{ code: 'C' }, { code: 'X' }, { code: 'a', first: 1, last: 5 }], false);
    expect(codes(now)).toEqual(['C', 'X', 'A', 'B']);
    expect(now.shots.items['a']).toMatchObject({ first: 1, last: 5, code: 'A' });
  });
  it('takes those out that it has not, where that is wished', () => {
    expect(codes(taken([{ code: 'C' }, { code: 'A' }], true))).toEqual(['C', 'A']);
  });
  it('that says the same changes nothing', () => {
    const report = compareShots(before, [{ code: 'A' }, { code: 'B' }, { code: 'C' }]);
    expect(listPatch(before, report, true)).toEqual({});
  });
});
