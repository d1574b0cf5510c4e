import { describe, expect, it } from '@jest/globals';
import fc from 'fast-check';
import { posix } from 'node:path';
import { setupWith } from '../testing/setups.ts';
import type { Setup } from '../setup/index.ts';
import {
  chosenOf,
  frameSize,
  laterBy,
  nameBy,
  nameOfValue,
  NAME_TEMPLATE,
  NAME_WORDS,
  templateProblem,
  versionWord,
  frameWord,
} from './index.ts';

const one = { frames: false, shots: false };

describe('names of finished pictures', () => {
  it('are filled in by their words', () => {
    expect(nameBy(NAME_TEMPLATE, NAME_WORDS)).toBe('lamp-room/v001/lr-020.1001');
    expect(templateProblem(NAME_TEMPLATE, { frames: true, shots: true })).toBeUndefined();
    expect([versionWord(7), versionWord(1234), frameWord(12), frameWord(100_101)]).toEqual(['v007', 'v1234', '0012', '100101']);
  });
  it('never leave their folder, whatever template and values say', () => {
    const value = fc.oneof(fc.string({ unit: 'binary' }), fc.constantFrom('..', '../../x', '/etc', 'a/b', '\\x', '.', 'C:', ''));
    const piece = fc.constantFrom('{job}', '{shot}', '{version}', '{frame}', '/', '..', '.', 'x', '\\', '{', ' ', 'C:');
    fc.assert(
      fc.property(fc.array(piece, { maxLength: 12 }), value, value, (pieces, job, shot) => {
        const template = pieces.join('');
        if (templateProblem(template, one)) return;
        const name = nameBy(template, { job, shot, version: 'v001', frame: '0001' });
        // Node's own reading of paths
        expect(posix.normalize(`/in/${name}`)).toBe(`/in/${name}`);
        expect(name).toMatch(/^[A-Za-z0-9._/-]+$/);
      }),
    );
  });
  it.each([
    ['', /empty/],
    ['{job}/../{version}', /\.\. in it/],
    ['/{job}/{version}', /no \/ at its beginning/],
    ['C:{version}', /at its beginning/],
    ['{job}//{version}', /between two/],
    ['{job}\\{version}', /not by/],
    ['{jub}/{version}', /\{jub\} says nothing/],
    ['{job/{version}', /says nothing/],
    ['{job}/{shot}', /needs \{version\}/],
    ['.{version}', /begins with a dot/],
    ['{version} a', /cannot stand/],
    [`{version}${'x'.repeat(200)}`, /longer/],
  ])('the template %j is refused with its reason', (template, reason) => {
    expect(templateProblem(template, one)).toMatch(reason);
  });
  it('tell apart what is made', () => {
    expect(templateProblem('{version}.{shot}', { frames: true, shots: true })).toMatch(/\{frame\}/);
    expect(templateProblem('{version}.{frame}', { frames: true, shots: true })).toMatch(/\{shot\}/);
  });
  it('keep what letters they can', () => {
    expect(['Lámp Röom', 'straße Øst', '???', '..', 'A--B.', 'x'.repeat(99)].map(nameOfValue)).toEqual([
      'lamp-room',
      'strasse-ost',
      'unnamed',
      'unnamed',
      'a-b',
      'x'.repeat(60),
    ]);
  });
});

describe('frames', () => {
  it('of a shot: its first, three of it, or all', () => {
    const shot = { first: 1001, last: 1006 };
    expect([chosenOf(shot, 'one'), chosenOf(shot, 'three'), chosenOf(shot, 'all').length]).toEqual([[1001], [1001, 1003, 1006], 6]);
    expect(chosenOf({ first: 5, last: 6 }, 'three')).toEqual([5, 6]);
  });
  it('have the shape of the camera', () => {
    expect(frameSize({ camera: { aspect: 16 / 9 } } as Setup, 1920)).toEqual({ width: 1920, height: 1080 });
    expect(frameSize({ camera: { aspect: 0.8 } } as Setup, 1000)).toEqual({ width: 800, height: 1000 });
  });
  it('later in a shot have their clips go on, round and round', () => {
    const base = setupWith({});
    const id = 'figure';
    const subject = { asset: 'a'.repeat(64), pose: { clip: 'turn', time: 1.5, range: [1, 3] } };
    const posed = { ...base, subjects: { items: { [id]: subject } } } as unknown as Setup;
    const timeAfter = (s: number) => laterBy(posed, s, () => 10).subjects.items[id]!.pose!.time;
    expect([0, 1, 1.5, 2, 21].map(timeAfter)).toEqual([1.5, 2.5, 1, 1.5, 2.5]);
    expect(laterBy(posed, 1, () => undefined).subjects.items[id]!.pose!.time).toBe(1.5);
  });
});
