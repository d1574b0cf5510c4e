import { describe, expect, it } from '@jest/globals';
import { applyPatch, LIMITS, limitsTimes, parseSetup, type Limits } from './index.ts';
import { addLightsPatch, dragTo, flatView, placeChange, SHELF, sizeChange, stopsPatch } from '../staging/index.ts';
import { setupHead } from './place.ts';
import { HEAD, panelLight, setupWith, subjectWith } from '../testing/setups.ts';

const setup = setupWith();
const taken = (patch: object) => {
  try {
    parseSetup(applyPatch(setup, patch));
    return true;
  } catch {
    return false;
  }
};
const light = (change: object) => ({ lights: { items: { key: change } } });

describe('one table of limits', () => {
  it.each<[string, Limits, (v: number) => object]>([
    ['distance', LIMITS.distance, (v) => light({ place: { distance: v } })],
    ['elevation', LIMITS.elevation, (v) => light({ place: { elevation: v } })],
    ['size', LIMITS.size, (v) => light({ width: v })],
    ['stops', LIMITS.stops, (v) => light({ stops: v })],
    ['kelvin', LIMITS.kelvin, (v) => light({ kelvin: v })],
    ['focal length', LIMITS.focal, (v) => ({ camera: { focal: v } })],
    ['focus', LIMITS.focus, (v) => ({ camera: { lens: { focus: v } } })],
    ['stage width', LIMITS.stageWidth, (v) => ({ stage: { width: v } })],
  ])('%s: its ends are taken, what is beyond the greatest is not', (_name, [min, max], change) => {
    expect(taken(change(min))).toBe(true);
    expect(taken(change(max))).toBe(true);
    expect(taken(change(max * 1.01))).toBe(false);
  });
  it('drags, keys and wheels end where the document does', () => {
    const key = panelLight();
    for (const d of [0, 1e-9, 1e9]) expect(taken(light({ place: placeChange({ distance: d }) }))).toBe(true);
    expect(placeChange({ distance: 0 })['distance']).toBe(LIMITS.distance[0]);
    expect(sizeChange(key, 1e9)).toEqual({ width: LIMITS.size[1], height: LIMITS.size[1] });
    expect(taken(stopsPatch('key', key, 1000))).toBe(true);
    const flat = flatView(setup, 'plan');
    for (const at of [
      [0, 0],
      [1e-12, 0],
      [900, 900],
    ] as [number, number][])
      expect(dragTo(flat, key.place, at).distance).toBeGreaterThanOrEqual(LIMITS.distance[0]);
    expect(dragTo(flat, key.place, [900, 900]).distance).toBe(LIMITS.distance[1]);
  });
  it.each([0.02, 0.23, 900])('the shelf keeps to it for a head of %d m', (height) => {
    const giant = parseSetup(applyPatch(setup, { subjects: { items: { s: subjectWith({ head: { ...HEAD, height } }) } } }));
    expect(setupHead(giant).headHeight).toBe(height);
    for (const item of SHELF) expect(() => parseSetup(applyPatch(giant, addLightsPatch(giant, item.make(giant)).patch))).not.toThrow();
  });
  it('is shown in other units', () => expect(limitsTimes(LIMITS.size, 100)).toEqual([0.05, 5000]));
});
