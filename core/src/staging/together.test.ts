import { describe, expect, it } from '@jest/globals';
import { applyPatch, dome, LIMITS, parseSetup, spot, sun, type Light, type Patch } from '../index.ts';
import { panelLight, setupWith } from '../testing/setups.ts';
import { togetherPatch } from './together.ts';

const setup = setupWith({
  key: panelLight({ stops: 0, width: 0.5, height: 0.5 }),
  rim: panelLight({
    stops: -1,
    width: 0.2,
    height: 1,
    locked: false,
    kelvin: 3250,
    place: { azimuth: 170, elevation: 20, distance: 3, aim: [0, 0, 0] },
  }),
  spot: spot({ diameter: 0.02, stops: 2 }),
  dome: dome(),
});
const after = (ids: string[], change: Patch, from = setup) =>
  parseSetup(applyPatch(from, togetherPatch(from, ids, change))).lights.items as Record<string, Light & Record<string, never>>;

describe('lights that are changed together', () => {
  it('go up by as many stops: their ratio stays', () => {
    const now = after(['key', 'rim', 'spot', 'dome'], { stops: 1 / 3 });
    expect(['key', 'rim', 'spot', 'dome'].map((id) => now[id]!.stops)).toEqual([
      1 / 3,
      expect.closeTo(-2 / 3, 4),
      expect.closeTo(7 / 3, 4),
      expect.closeTo(1 / 3, 4),
    ]);
  });
  it('grow and step back by the same factor, as far as they have that measure', () => {
    const now = after(['key', 'rim', 'spot'], { width: 1, place: { distance: 3 } });
    expect(now['rim']).toMatchObject({ width: 0.4, height: 1, place: { distance: 6 } });
    expect(now['spot']).toMatchObject({ diameter: 0.02 });
    expect((now['spot'] as unknown as { place: { distance: number } }).place.distance).toBeGreaterThan(1);
  });
  it('turn by as much, round the circle', () => {
    const now = after(['key', 'rim'], { place: { azimuth: 70 } });
    expect(now['rim']!.place).toMatchObject({ azimuth: -160, elevation: 20 });
  });
  it('warm by the same factor, take the same gel, switch alike', () => {
    const now = after(['key', 'rim'], { kelvin: 3250, gel: 'sea', on: false });
    expect(now['rim']).toMatchObject({ kelvin: 1625, gel: 'sea', on: false });
  });
  it('stop at their limits, each by itself', () => {
    expect(after(['key', 'spot'], { stops: LIMITS.stops[1] })['spot']!.stops).toBe(LIMITS.stops[1]);
    expect(after(['key', 'rim'], { place: { distance: 150 } })['rim']!.place).toMatchObject({ distance: LIMITS.distance[1] });
  });
  it('stay where they are when locked, and still change their level', () => {
    const locked = applyPatch(setup, { lights: { items: { rim: { locked: true } } } });
    const now = after(['key', 'rim'], { place: { azimuth: 90 }, stops: 2 }, locked);
    expect(now['rim']).toMatchObject({ place: { azimuth: 170 }, stops: 1 });
  });
  it('alone, or with one that is gone, is the plain change', () => {
    expect(togetherPatch(setup, ['key'], { stops: 1, diameter: 3 })).toEqual({ lights: { items: { key: { stops: 1 } } } });
    expect(togetherPatch(setup, ['key', 'ghost'], { stops: 1 })).toEqual({ lights: { items: { key: { stops: 1 } } } });
    expect(togetherPatch(setup, [], { stops: 1 })).toEqual({});
  });
  it('a sun’s place and time come in where there was none', () => {
    const day = setupWith({ sun: sun() });
    const where = { latitude: 10, longitude: 20, at: '2026-06-01T10:00', north: 0 };
    expect(togetherPatch(day, ['sun'], { where })).toEqual({ lights: { items: { sun: { where } } } });
  });
});
