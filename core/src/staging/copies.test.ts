import { describe, expect, it } from '@jest/globals';
import {
  addFlagPatch,
  aimsOf,
  applyPatch,
  ball,
  copyPatch,
  dome,
  glow,
  isPlaced,
  lightPatch,
  lightsPatch,
  mirrorPatch,
  orderOf,
  parseSetup,
  removeLightsPatch,
  sizeChange,
  spot,
  spreadToTwins,
  sun,
  tube,
  walkChange,
  type RectangleLight,
  type Setup,
} from '../index.ts';
import { panelLight, setupWith } from '../testing/setups.ts';

const setup = setupWith({ key: panelLight(), fill: panelLight({ name: 'Fill', role: 'fill' }) });
const after = (s: Setup, patch: object): Setup => parseSetup(applyPatch(s, patch));

describe('copies, mirrors, twins', () => {
  it('a mirror stands on the other side of the face', () => {
    const next = after(
      setup,
      mirrorPatch('key', panelLight({ roll: 10, place: { azimuth: 40, elevation: 35, distance: 1.5, aim: [0.1, 0, 0] } })),
    );
    expect(next.lights.items['key']).toMatchObject({ roll: -10, place: { azimuth: -40, elevation: 35, aim: [-0.1, 0, 0] } });
  });
  it('a copy that stands where its light stands is one in all but name and rank', () => {
    const { id, patch } = copyPatch(setup, 'key', 'here', 'abc');
    const { name, rank, ...copy } = after(setup, patch).lights.items[id]!,
      { name: before, rank: first, twin: _, ...light } = setup.lights.items['key']!;
    expect(copy).toEqual(light);
    expect(name).not.toBe(before);
    expect(rank > first).toBe(true);
  });
  it('a copy is free, a twin below shares all but its place: a clamshell from one strip', () => {
    const free = copyPatch(setup, 'key', 'copy');
    const one = after(setup, free.patch);
    expect(orderOf(one.lights)).toEqual(['key', free.id, 'fill']);
    expect(one.lights.items[free.id]!.twin).toBeUndefined();
    const made = copyPatch(setup, 'key', 'below');
    const pair = after(setup, made.patch);
    expect(pair.lights.items[made.id]).toMatchObject({ place: { azimuth: 40, elevation: -35, distance: 1.5 } });
    const wider = after(pair, spreadToTwins(pair, lightPatch('key', { width: 1.5 })));
    expect((wider.lights.items[made.id] as RectangleLight).width).toBe(1.5);
    const opposite = after(setup, copyPatch(setup, 'key', 'opposite').patch);
    expect(Object.values(opposite.lights.items).filter((l) => isPlaced(l) && l.place.azimuth === -40)).toHaveLength(1);
  });
});

describe('several lights in hand', () => {
  it('are changed alike as far as they have what is changed', () => {
    const mixed = setupWith({ key: panelLight(), dome: dome(), lamp: spot() });
    const patch = lightsPatch(mixed, ['key', 'dome', 'lamp', 'gone'], { kelvin: 3000, width: 2 });
    expect(patch).toEqual({ lights: { items: { key: { kelvin: 3000, width: 2 }, dome: { kelvin: 3000 }, lamp: { kelvin: 3000 } } } });
  });
  it('are taken away together; a flag that stood before them alone is switched off, not put before all', () => {
    const made = addFlagPatch(setup, 'key');
    const flagged = after(setup, made.patch);
    const next = after(flagged, removeLightsPatch(flagged, ['key', 'fill']));
    expect(orderOf(next.lights)).toEqual([]);
    expect(next.flags.items[made.id]).toMatchObject({ on: false, lights: [] });
  });
});

describe('moves of every kind of light', () => {
  it('size what has a size', () => {
    expect(sizeChange(tube({ length: 1 }), 2)).toEqual({ length: 2 });
    expect(sizeChange(ball({ diameter: 0.3 }), 2)).toEqual({ diameter: 0.6 });
    expect(sizeChange(sun({ angle: 1 }), 0.5)).toEqual({ angle: 0.5 });
    expect(sizeChange(dome(), 2)).toBeUndefined();
  });
  it('walk what stands somewhere', () => {
    expect(walkChange(panelLight(), 1, 0)).toEqual({ place: { azimuth: 41, elevation: 35 } });
    expect(walkChange(sun({ bearing: 179, elevation: 89 }), 2, 5)).toEqual({ bearing: -179, elevation: 90 });
    expect(walkChange(dome(), 10, 0)).toEqual({ bearing: 10, tilt: 0 });
    expect(walkChange(glow(), 1, 1)).toBeUndefined();
  });
  it('aim at eyes, head, chest', () => {
    expect(aimsOf(setup, panelLight()).map(([name]) => name)).toEqual(['eyes', 'head', 'chest']);
    const [, [, head], [, chest]] = aimsOf(setup, panelLight());
    expect(head![2]).toBeLessThan(0);
    expect(chest![1]).toBeLessThan(-0.3);
  });
});
