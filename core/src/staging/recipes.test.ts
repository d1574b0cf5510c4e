import { describe, expect, it } from '@jest/globals';
import {
  addLightsPatch,
  applyPatch,
  compileLights,
  exposureFactor,
  lightRadiance,
  orderOf,
  parseSetup,
  rectangleInWorld,
  rectangleIrradiance,
  setupHead,
  SHELF,
  skyPatch,
  type RectangleLight,
  type Setup,
} from '../index.ts';
import { panelLight, setupWith } from '../testing/setups.ts';

const setup = setupWith({ key: panelLight(), fill: panelLight({ name: 'Fill', role: 'fill' }) });
const after = (s: Setup, patch: object): Setup => parseSetup(applyPatch(s, patch));

describe('the shelf', () => {
  it.each(SHELF)('$name comes complete, named, in its role, and can be traced', (item) => {
    const { patch, ids } = addLightsPatch(setup, item.make(setup));
    const next = after(setup, patch);
    expect(ids.length).toBeGreaterThan(0);
    expect(orderOf(next.lights).slice(-ids.length)).toEqual(ids);
    expect(compileLights(next)).toHaveLength(orderOf(next.lights).length);
    expect(next.lights.items[ids[0]!]!.name.length).toBeGreaterThan(0);
  });
  it('a key stands round 45°, up 35°, and brings skin to 0.45 of what the camera shows', () => {
    const light = SHELF.find((i) => i.id === 'key')!.make(setup)[0] as RectangleLight;
    expect(light.place).toMatchObject({ azimuth: 45, elevation: 35 });
    const head = setupHead(setup);
    const towards = [0, 1, 2].map((k) => rectangleInWorld(head, light).corner[k]! - head.origin[k]!);
    const l = Math.hypot(...towards);
    const E = rectangleIrradiance(rectangleInWorld(head, light), head.origin, towards.map((v) => v / l) as [number, number, number]);
    const shown = ((E * lightRadiance({ ...light, kelvin: 6504 })[1] * 0.4) / Math.PI) * exposureFactor(setup.camera.ev);
    expect(shown).toBeGreaterThan(0.38);
    expect(shown).toBeLessThan(0.48);
  });
  it('follows the size of the head: a giant’s key is as much larger and further', () => {
    const subject = {
      rank: 'a0',
      name: 'G',
      asset: 'a'.repeat(64),
      visible: true,
      position: [0, 0, 0] as [number, number, number],
      turn: 0,
      scale: 1,
      materials: {},
    };
    const head = {
      origin: [0, 3, 0] as [number, number, number],
      forward: [0, 0, 1] as [number, number, number],
      up: [0, 1, 0] as [number, number, number],
      height: 0.46,
      source: 'file' as const,
    };
    const giant = setupWith({}, { subjects: { items: { g: { ...subject, head } } } });
    const light = SHELF.find((i) => i.id === 'key')!.make(giant)[0] as RectangleLight;
    expect(light.place.distance).toBeCloseTo(3, 2);
    expect(light.width).toBeCloseTo(1, 2);
  });
  it('the fill stands 90° round from the key, one stop under it', () => {
    const [fill] = SHELF.find((i) => i.id === 'fill')!.make(setup) as [RectangleLight];
    expect(fill.place.azimuth).toBe(-45);
    const right = after(setup, { lights: { items: { key: { place: { azimuth: -40 } } } } });
    expect((SHELF.find((i) => i.id === 'fill')!.make(right)[0] as RectangleLight).place.azimuth).toBe(45);
  });
  it('sun and sky are one day: they move together, as dim as the camera wants', () => {
    const { patch, ids } = addLightsPatch(setup, SHELF.find((i) => i.id === 'daylight')!.make(setup));
    const day = after(setup, patch);
    const where = { latitude: 54, longitude: 8, at: '2026-10-04T16:30Z', north: 0 };
    const moved = after(day, skyPatch(day, ids[0]!, { elevation: 3, bearing: -20, where }));
    expect(moved.lights.items[ids[0]!]).toMatchObject({ where });
    expect(moved.lights.items[ids[1]!]).not.toHaveProperty('where');
    for (const id of ids) expect(moved.lights.items[id]).toMatchObject({ elevation: 3, bearing: -20 });
    expect(day.lights.items[ids[0]!]!.stops).toBe(day.lights.items[ids[1]!]!.stops);
    expect(day.lights.items[ids[0]!]!.stops).toBeLessThan(0);
  });
});
