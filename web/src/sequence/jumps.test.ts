import { describe, expect, it } from '@jest/globals';
import { collected, TOLERANCE, type KeptReading } from '@plinket/core';
import { framesTyped, jumpsOf, nextCode, type Standing } from './jumps.ts';

const shot = (code: string) => ({ code, first: 1001, last: 1010, state: 'to light' as const, brief: '', notes: '' });
const reading = (azimuth: number): KeptReading => ({ pattern: 'loop', key: { name: 'Key', azimuth, elevation: 30 }, catchlights: [] });
const standing = (id: string, read?: KeptReading): [string, Standing] => [
  id,
  {
    id,
    gone: false,
    updatedAt: '',
    characters: [],
    departures: [],
    behind: false,
    proof: { id, picture: '', createdAt: '', ...(read ? { reading: read } : {}) },
  },
];

describe('jumps of a sequence', () => {
  it('are met at the later of two neighbours that were read', () => {
    const shots = collected({ a: shot('1'), b: shot('2'), c: shot('3'), d: shot('4') });
    const jumps = jumpsOf(
      { shots, tolerance: TOLERANCE },
      new Map([standing('a', reading(40)), standing('b', reading(45)), standing('c', reading(-45)), standing('d')]),
    );
    expect([...jumps].map(([id, j]) => [id, j.map((x) => x.kind)])).toEqual([
      ['b', []],
      ['c', ['direction']],
    ]);
  });
});
describe('what is typed of shots', () => {
  it.each([
    ['1001–1125', { first: 1001, last: 1125 }],
    [' 1001 - 1001 ', { first: 1001, last: 1001 }],
    ['10 to 12', { first: 10, last: 12 }],
    ['1125-1001', undefined],
    ['a-b', undefined],
    ['', undefined],
  ])('frames “%s”', (text, frames) => expect(framesTyped(text)).toEqual(frames));
  it.each([
    [[], '010'],
    [['SW_010', 'SW_030'], 'SW_040'],
    [['SW_010', 'SW_020', 'SW_010'], 'SW_030'],
    [['095a'], '105a'],
    [['x'], '010'],
  ])('after %j comes %s', (codes, next) => expect(nextCode(codes)).toBe(next));
});
