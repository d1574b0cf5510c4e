import { describe, expect, it } from '@jest/globals';
import type { Reading, Score } from '../face/index.ts';
import { keptReadingSchema } from '../setup/index.ts';
import { panelLight } from '../testing/setups.ts';
import { keptReading, nearMiss, placedWords, ratioWords, readingWords, reasonWords, moveWords } from './index.ts';

const features = {
  azimuth: 40,
  elevation: 35,
  shades: new Uint8Array(1),
  lit: 0.68,
  litLeft: 0.9,
  litRight: 0.45,
  side: 'right',
  eyeWidth: 31,
  noseLength: 54,
} as const;
const score = (pattern: Score['pattern'], value: number, holds: boolean[]): Score => ({
  pattern,
  score: value,
  reasons: holds.map((h, i) => ({ claim: `claim ${i}`, measure: 12.4, unit: 'mm', limit: { at: 'least', value: 3 }, holds: h })),
});
const reading = (more: Partial<Reading> = {}): Reading => ({
  key: { id: 'k', azimuth: 40, elevation: 35 },
  byKey: [score('loop', 0.9, [true]), score('closed triangle', 0, [true, false]), score('split', 0, [false, false])],
  byAll: [score('loop', 0.7, [true])],
  features: { ...features, gap: 0.0052, nose: { cells: [], area: 1e-4, share: 0.05, slant: -41.2, reach: 0.62 } },
  ratio: { value: 4, stops: 2, lights: [] },
  turn: -13,
  side: 'short',
  catchlights: [{ eye: 'left', light: 'k', clock: 10.2, out: 0.4, seen: true }],
  ...more,
});

describe('a reading for keeping', () => {
  const { items } = { items: { k: panelLight({ name: 'Key' }) } };
  it('keeps what it says, with lights by name, hours in full and each once, hidden ones not', () => {
    const left = { eye: 'left', light: 'k', clock: 10.2, out: 0.4, seen: true } as const;
    const kept = keptReading(
      { lights: { items } },
      reading({ catchlights: [left, { ...left, eye: 'right', clock: 9.8 }, { ...left, clock: 0.3 }, { ...left, clock: 6, seen: false }] }),
    );
    expect(kept).toEqual({
      pattern: 'loop',
      all: 'loop',
      key: { name: 'Key', azimuth: 40, elevation: 35 },
      ratio: 4,
      lit: 0.68,
      side: 'short',
      catchlights: [
        { light: 'Key', hour: 10 },
        { light: 'Key', hour: 12 },
      ],
    });
    expect(keptReadingSchema.parse(kept)).toEqual(kept);
  });
  it('says nothing where no light falls, nor of a ratio without end', () => {
    expect(keptReading({ lights: { items } }, { byKey: [], byAll: [], turn: 0, catchlights: [] })).toEqual({ catchlights: [] });
    const dark = keptReading({ lights: { items } }, reading({ ratio: { value: Infinity, stops: Infinity, lights: [] } }));
    expect(dark.ratio).toBeUndefined();
    expect(keptReadingSchema.safeParse(dark).success).toBe(true);
  });
});

describe('a reading in words', () => {
  it('says pattern, shadow, nearest miss, ratio, share, side and catchlights with the numbers that were measured', () => {
    expect(readingWords(reading(), () => 'Key')).toEqual([
      'Loop, by Key.',
      'The nose’s shadow slants 41° to the figure’s right, ends 62 % of the way to the corner of the mouth, 5 mm clear of the cheek’s shadow.',
      'Nearest to it: closed triangle; not so: claim 1 (12 mm, at least 3 mm).',
      'Lit side to shadow side 4.0 : 1, 2.0 stops.',
      '68 % of the face’s front is lit.',
      'The head is turned 13° away: short light.',
      'Catchlights: Key in the left eye at 10 o’clock.',
    ]);
  });
  it('says what hides a catchlight, unless it is only the lids', () => {
    const of = (hidden: 'lids' | 'brow' | 'other') =>
      readingWords(reading({ catchlights: [{ eye: 'right', light: 'k', clock: 11, out: 0.4, seen: false, hidden }] }), () => 'Key').slice(
        -2,
      );
    expect(of('brow')).toEqual(['No catchlight is seen.', 'Key is hidden from the right eye by the brow.']);
    expect(of('other')[1]).toBe('Key is hidden from the right eye by something else.');
    expect(of('lids')[1]).toBe('No catchlight falls between the lids.');
  });
  it('says nothing that was not measured', () => {
    const { key: _, features: __, ...dark } = reading();
    expect(readingWords(dark, () => 'Key')).toEqual(['No light reaches this face.']);
    const { ratio: ___, side: ____, ...bare } = reading({ byKey: [score('loop', 0.1, [false])], byAll: [], catchlights: [], features });
    expect(readingWords(bare, () => 'Key')).toEqual([
      'No pattern that has a name, by Key.',
      'Nearest: loop; not so: claim 0 (12 mm, at least 3 mm).',
      '68 % of the face’s front is lit.',
      'No catchlight falls between the lids.',
    ]);
  });
  it('says that all lights together draw something else', () => {
    expect(readingWords(reading({ byAll: [score('flat', 0.9, [true])] }), () => 'Key')).toContain('With all lights: flat.');
  });
  it('the nearest miss is what lacks least, and says what it lacks most', () => {
    expect(nearMiss(reading().byKey)?.pattern).toBe('closed triangle');
    const far = score('split', 0, [false, false, false, false]);
    const near: Score = {
      pattern: 'flat',
      score: 0,
      reasons: [
        { claim: 'lit', measure: 74, unit: '%', limit: { at: 'least', value: 84 }, holds: false },
        { claim: 'lean', measure: 12, unit: '°', limit: { at: 'least', value: 18 }, holds: false },
      ],
    };
    expect(nearMiss([score('loop', 1, [true]), far, near])).toMatchObject({ pattern: 'flat', lacks: { claim: 'lean' } });
    expect(nearMiss([score('loop', 1, [true]), far])).toBeUndefined();
    // where nothing has a name the best of what is shown may itself be the nearest
    expect(nearMiss([score('loop', 0.1, [true, false])])?.pattern).toBe('loop');
  });
  it('a measure far beyond its limit is no number', () => {
    expect(reasonWords({ claim: 'it meets', measure: 99, unit: 'mm', limit: { at: 'most', value: 3 }, holds: false })).toBe(
      'not so: it meets (far apart, at most 3 mm)',
    );
    expect(reasonWords({ claim: 'there is light', measure: 0, unit: '%', holds: false })).toBe('not so: there is light');
  });
});

describe('a placing in words', () => {
  it('says where the light went, or what it cannot do', () => {
    expect(placedWords('Key', 'Loop', { azimuth: -24, elevation: 28, reached: true })).toBe(
      'Loop: Key stands 24° to the figure’s right, 28° up.',
    );
    expect(
      placedWords('Key', 'Split', {
        azimuth: 0,
        elevation: -4,
        reached: false,
        instead: 'Flat',
        lacks: { claim: 'the far half is dark', measure: 60, unit: '%', limit: { at: 'most', value: 16 }, holds: false },
      }),
    ).toBe(
      'Split is not to be had on this face by Key: it draws flat at the best place; not so: the far half is dark (60 %, at most 16 %). Key stands straight in front, 4° down.',
    );
    expect(ratioWords('Fill', 4, -1.25, 4)).toBe('Fill −1.3 stops: 4.0 : 1.');
    expect(ratioWords('Fill', 2, 10, 2.6, [2.6, 9])).toMatch(/^2 : 1 is out of reach of Fill, which can do 2\.6 to 9\.0 : 1\./);
  });
});

describe('a move', () => {
  it('is told from where the light stands, round and up, and over the nose', () => {
    expect(moveWords('Key', { azimuth: 30, elevation: 20 }, { azimuth: 42, elevation: 26 })).toBe(
      'Key 12° further round and 6° higher would do it',
    );
    expect(moveWords('Key', { azimuth: -60, elevation: 20 }, { azimuth: -48, elevation: 20 })).toBe('Key 12° nearer the nose would do it');
    expect(moveWords('Key', { azimuth: 5, elevation: 20 }, { azimuth: -10, elevation: 14 })).toBe(
      'Key to the other side of the nose and 6° lower would do it',
    );
    expect(moveWords('Key', { azimuth: 5, elevation: 20 }, { azimuth: 5, elevation: 20 })).toBe('Key is all but there');
  });
});
