import { describe, expect, it } from '@jest/globals';
import {
  addLightsPatch,
  applyPatch,
  lightPatch,
  LIMITS,
  parseSetup,
  placePatch,
  removeLightsPatch,
  sizeChange,
  stopsPatch,
  type RectangleLight,
  type Setup,
} from '../index.ts';
import { panelLight, setupWith } from '../testing/setups.ts';

const setup = setupWith({ key: panelLight(), rim: panelLight({ name: 'Rim' }) });
const key = setup.lights.items['key'] as RectangleLight;
const after = (patch: object): Setup => parseSetup(applyPatch(setup, patch));
const keyAfter = (patch: object) => after(patch).lights.items['key'] as RectangleLight;

describe('what keys and cards do to a light', () => {
  it('steps the level by thirds and stays on them', () => {
    let light: RectangleLight = key;
    for (let i = 0; i < 4; i++) light = keyAfter(stopsPatch('key', light, 1 / 3));
    expect(keyAfter(stopsPatch('key', { ...key, stops: 1 }, 1 / 3)).stops).toBeCloseTo(4 / 3, 3);
    expect(light.stops).toBeCloseTo(4 / 3, 3);
    expect(keyAfter(stopsPatch('key', { ...key, stops: 0.1 }, -1)).stops).toBe(-1);
  });
  it('wraps the azimuth and keeps elevation and distance in range', () => {
    expect(keyAfter(placePatch('key', { azimuth: 185 })).place.azimuth).toBe(-175);
    expect(keyAfter(placePatch('key', { elevation: 120 })).place.elevation).toBe(90);
    expect(keyAfter(placePatch('key', { distance: 0 })).place.distance).toBe(LIMITS.distance[0]);
  });
  it('scales both sides', () => {
    const { width, height } = keyAfter(lightPatch('key', sizeChange(key, 2)!));
    expect([width, height]).toEqual([1.2, 1.6]);
  });
  it('adds lights with free ids and takes them away again', () => {
    const one = addLightsPatch(setup, [panelLight()]);
    const first = after(one.patch);
    const two = addLightsPatch(first, [panelLight()]);
    expect(two.ids).not.toEqual(one.ids);
    expect(parseSetup(applyPatch(first, removeLightsPatch(first, one.ids)))).toEqual(setup);
  });
});
