import { describe, expect, it } from '@jest/globals';
import { applyPatch } from '@plinket/core';
import { panelLight, setupWith } from '../../../core/src/testing/setups.ts';
import { factsOf } from './facts.ts';
import { columnsFor, inFrame, inPicture, WHOLE, within, zoomed } from './wall.ts';

describe('the crop of the wall', () => {
  it('keeps the point under the pointer where it is', () => {
    const at: [number, number] = [0.4, 0.55];
    const near = zoomed(WHOLE, 3, at);
    const before = inPicture(WHOLE, at),
      after = inPicture(near, at);
    expect(after[0]).toBeCloseTo(before[0], 9);
    expect(after[1]).toBeCloseTo(before[1], 9);
    expect(inFrame(near, after)[0]).toBeCloseTo(at[0], 9);
  });
  it('never leaves the picture, however far it is dragged or zoomed', () => {
    for (const crop of [within({ zoom: 2, x: 9, y: -9 }), zoomed({ zoom: 4, x: 0.9, y: 0.1 }, 0.01), zoomed(WHOLE, 1e9, [0, 1])]) {
      expect(crop.zoom).toBeGreaterThanOrEqual(1);
      expect(crop.zoom).toBeLessThanOrEqual(16);
      for (const [u, v] of [inPicture(crop, [0, 0]), inPicture(crop, [1, 1])])
        for (const w of [u, v]) expect(Math.abs(w - 0.5)).toBeLessThanOrEqual(0.5 + 1e-9);
    }
  });
  it('lays pictures out as large as they come', () => {
    expect(columnsFor(2, 0.8, 800, 500)).toBe(2);
    expect(columnsFor(2, 3, 800, 500)).toBe(1);
    expect(columnsFor(9, 1, 900, 900)).toBe(3);
  });
});

describe('the table of the wall', () => {
  const document = setupWith({ key: panelLight() });
  const reading = { pattern: 'loop', ratio: 4, lit: 0.5, catchlights: [{ light: 'Key', hour: 10 }] };
  it('marks what differs from the first, and nothing else', () => {
    const facts = factsOf([
      { document, reading },
      { document, reading: { ...reading, ratio: 2 } },
    ]);
    expect(facts.filter((f) => f.differs[1]).map((f) => f.label)).toEqual(['Ratio']);
    expect(facts.find((f) => f.label === 'Ratio')!.values).toEqual(['4.0 : 1, 2.0 st', '2.0 : 1, 1.0 st']);
    expect(facts.every((f) => !f.differs[0])).toBe(true);
  });
  it('says what was done since the first, and a dash for what was not read', () => {
    const later = applyPatch(document, { lights: { items: { key: { stops: 1 } } } });
    const facts = factsOf([{ document, reading }, { document: later }]);
    const of = (label: string) => facts.find((f) => f.label === label)!.values[1];
    expect(of('Against the first')).toBe('key: +1 stop');
    expect(of('Pattern')).toBe('–');
    expect(of('Lights')).toBe('1');
  });
});
