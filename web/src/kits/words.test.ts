import { describe, expect, it } from '@jest/globals';
import { kitOf, KIT_PARTS, NO_HEAD, rectangle, sun, type Kit } from '@plinket/core';
import { panelLight, setupWith } from '../../../core/src/testing/setups.ts';
import { chosenParts, lightLines, partWords, shownWords, showsWords } from './words.ts';

const place = (azimuth: number, elevation: number, heads: number) => ({
  azimuth,
  elevation,
  distance: heads * NO_HEAD.headHeight,
  aim: [0, 0, 0] as [number, number, number],
});
const setup = setupWith({
  key: panelLight({ name: 'Key', place: place(40.4, 30, 6) }),
  fill: rectangle({ name: 'Fill', rank: 'a1', place: place(-52, -5, 8.04) }),
  top: rectangle({ name: 'Top', rank: 'a2', place: place(0, 80, 5) }),
  sun: sun({ name: 'Sun', rank: 'a3' }),
});
const kit = (more: Partial<Kit> = {}): Kit => ({
  ...kitOf(setup, ['rig', 'stage'], { name: 'Four', brief: '', notes: '', tags: [] }).kit,
  ...more,
});

describe('kits in words', () => {
  it('say how many lights there are and where each stands, in heads', () => {
    expect(partWords(kit())).toBe('4 lights, stage');
    expect(lightLines(kit())).toEqual([
      'Key: 40° to its left, 30° up, 6.0 heads away',
      'Fill: 52° to its right, 5° below, 8.0 heads away',
      'Top: in front, 80° up, 5.0 heads away',
      'Sun',
    ]);
  });
  it('say what was read, and nothing of what was not', () => {
    expect(showsWords(kit())).toBe('');
    expect(showsWords(kit({ shows: { pattern: 'closed triangle', ratio: 3.04 } }))).toBe('Closed triangle, 3.0 : 1');
    expect(shownWords({ on: 'someone', ratio: 30.9 })).toBe('> 20 : 1');
    expect(shownWords({ on: 'someone', pattern: 'zigzag' })).toBe('');
    expect(chosenParts(new Set(['look', 'rig']))).toEqual(KIT_PARTS.filter((p) => p === 'rig' || p === 'look'));
  });
});
