import { describe, expect, it } from '@jest/globals';
import fc from 'fast-check';
import { applyPatch, parseSetup } from '../setup/index.ts';
import { panelLight, setupWith } from '../testing/setups.ts';
import { alongRounded, alongValues, numberAt, numberPatch, ramp, type AlongValue } from './along.ts';

const setup = setupWith({ key: panelLight(), rim: panelLight({ name: 'Rim' }) });
const values = alongValues(setup);
const of = (path: string): AlongValue => values.find((v) => v.path === path)!;
const kelvin = of('lights/items/key/kelvin'),
  azimuth = of('lights/items/key/place/azimuth'),
  stops = of('lights/items/key/stops');

describe('what may be planned along a sequence', () => {
  it('is there in the setup, and can be set to its least and most', () => {
    expect(values.length).toBeGreaterThan(10);
    for (const value of values)
      for (const at of [value.least, value.most]) {
        const changed = parseSetup(applyPatch(setup, numberPatch(value.path, at)));
        expect([value.path, numberAt(changed, value.path)]).toEqual([value.path, at]);
      }
    expect(numberAt(setup, 'lights/items/gone/stops')).toBeUndefined();
    expect(numberAt(setup, 'lights/items/key/name')).toBeUndefined();
  });
});

describe('a ramp', () => {
  it('begins and ends where it should, in equal steps', () => {
    expect(ramp(stops, 0, -2, 5)).toEqual([0, -0.5, -1, -1.5, -2]);
    expect(ramp(stops, 1, 3, 1)).toEqual([1]);
  });
  it('goes slowly at both ends where it is soft', () => {
    // Hermite's cubic at a quarter, half and three quarters: 5/32, 1/2, 27/32
    expect(ramp({ ...stops, step: 0.001 }, 0, 1, 5, 'soft')).toEqual([0, 0.156, 0.5, 0.844, 1]);
  });
  it('takes colour temperatures in equal shifts of mired', () => {
    // 5600 K is 178.57 mired, 3200 K 312.5 (the shift of a full orange filter, 131 to 134 mired in makers' tables; from memory): half way 245.5, 4073 K
    const [from, half, to] = ramp(kelvin, 5600, 3200, 3);
    expect([from, to]).toEqual([5600, 3200]);
    expect(Math.abs(half! - 4073)).toBeLessThanOrEqual(25);
  });
  it('turns the shorter way', () => {
    expect(ramp(azimuth, 170, -170, 3).map((v) => Math.abs(v))).toEqual([170, 180, 170]);
    expect(ramp(azimuth, -30, 30, 3)).toEqual([-30, 0, 30]);
    expect(ramp(azimuth, 90, -60, 3)).toEqual([90, 15, -60]);
  });
  it('never leaves its limits nor goes back, whatever it is of', () => {
    fc.assert(
      fc.property(
        fc.constantFrom(...values),
        fc.double({ min: 0, max: 1, noNaN: true }),
        fc.double({ min: 0, max: 1, noNaN: true }),
        fc.integer({ min: 2, max: 9 }),
        fc.constantFrom('even', 'soft'),
        (value, a, b, count, ease) => {
          const at = (t: number) => alongRounded(value, value.least + t * (value.most - value.least));
          const [from, to] = [at(a), at(b)],
            row = ramp(value, from, to, count, ease as 'even' | 'soft');
          for (const v of row) {
            expect(v).toBeGreaterThanOrEqual(value.least);
            expect(v).toBeLessThanOrEqual(value.most);
          }
          if (value.goes === 'round') return;
          const way = Math.sign(to - from);
          for (let i = 1; i < row.length; i++) expect((row[i]! - row[i - 1]!) * way).toBeGreaterThanOrEqual(0);
          expect(row.at(-1)).toBeCloseTo(to, 6);
        },
      ),
    );
  });
});
