// What the Stage does with lights: the shelf, twins, groups, flags, words, the contact sheet.
import { describe, expect, it } from '@jest/globals';
import {
  orderOf,
  applyPatch,
  ball,
  dome,
  exposureFactor,
  glow,
  isPlaced,
  lightRadiance,
  luminance,
  outputIn,
  parseSetup,
  profiled,
  rectangle,
  rectangleInWorld,
  rectangleIrradiance,
  setupHead,
  sky,
  spot,
  spreadToTwins,
  sun,
  tube,
  type Light,
  type RectangleLight,
  type Setup,
} from '@plinket/core';
import { compileLights } from '../../../core/src/scene/index.ts';
import { panelLight, setupWith } from '../../../core/src/testing/setups.ts';
import { fromHex, toHex } from '../parts/colour.ts';
import { captionOf, contactLayout } from './contact.ts';
import { lightFilePatch } from './LightFiles.tsx';
import {
  addFlagPatch,
  addLightsPatch,
  aimsOf,
  copyPatch,
  lightPatch,
  lightsPatch,
  mirrorPatch,
  removeFlagPatch,
  removeLightsPatch,
  sizeChange,
  skyPatch,
  walkChange,
} from './moves.ts';
import { flagOutline, flatView, hull, lightOutline, sunFrom, sunOnPaper } from './projection.ts';
import { profileLevel, SHELF } from './recipes.ts';
import { byRole, placeWords, soloed, sourceWords, stacks } from './Shares.tsx';

const setup = setupWith({ key: panelLight(), fill: panelLight({ name: 'Fill', role: 'fill' }) });
const after = (s: Setup, patch: object): Setup => parseSetup(applyPatch(s, patch));
const profile = { asset: 'a'.repeat(64), name: 'Harbour', peak: 1000, flux: 800 };

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

describe('copies, mirrors, twins', () => {
  it('a mirror stands on the other side of the face', () => {
    const next = after(
      setup,
      mirrorPatch('key', panelLight({ roll: 10, place: { azimuth: 40, elevation: 35, distance: 1.5, aim: [0.1, 0, 0] } })),
    );
    expect(next.lights.items['key']).toMatchObject({ roll: -10, place: { azimuth: -40, elevation: 35, aim: [-0.1, 0, 0] } });
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
  it('are heard alone one at a time, or joined', () => {
    expect(soloed([], 'a', false)).toEqual(['a']);
    expect(soloed(['a'], 'b', false)).toEqual(['b']);
    expect(soloed(['a'], 'b', true)).toEqual(['a', 'b']);
    expect(soloed(['a', 'b'], 'a', true)).toEqual(['b']);
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
    expect(aimsOf(setup).map(([name]) => name)).toEqual(['eyes', 'head', 'chest']);
    const [, [, head], [, chest]] = aimsOf(setup);
    expect(head![2]).toBeLessThan(0);
    expect(chest![1]).toBeLessThan(-0.3);
  });
});

describe('cards', () => {
  const lights: [string, Light, RegExp][] = [
    ['rectangle', rectangle(), /50 × 50 cm/],
    ['ball', ball(), /ball 30 cm/],
    ['tube', tube(), /tube 120 cm/],
    ['spot', spot(), /spot 25°/],
    ['profile', profiled(profile), /measured/],
    ['sun', sun(), /sun 0.53°/],
    ['sky', sky(), /sky/],
    ['dome', dome(), /even/],
    ['glow', glow(), /glows/],
  ];
  it.each(lights)('%s says what and where it is', (_name, light, words) => {
    expect(sourceWords(light)).toMatch(words);
    expect(placeWords(light).length).toBeGreaterThan(5);
  });
  const grouped = setupWith({
    dome: dome(),
    a: panelLight({ group: 'window', role: 'fill' }),
    b: panelLight({ group: 'window', role: 'key' }),
    c: panelLight({ role: 'rim' }),
    d: panelLight({ role: 'key' }),
  }).lights;
  it('of one group stand together and fold', () => {
    expect(stacks(grouped, ['window'])).toEqual([
      { group: '', ids: ['dome'], folded: false },
      { group: 'window', ids: ['a', 'b'], folded: true },
      { group: '', ids: ['c'], folded: false },
      { group: '', ids: ['d'], folded: false },
    ]);
  });
  it('are sorted by role, groups kept together where their first role is', () => {
    expect(byRole(grouped)).toEqual(['d', 'b', 'a', 'c', 'dome']);
  });
});

describe('symbols in PLAN and SIDE', () => {
  const plan = flatView(setup, 'plan'),
    side = flatView(setup, 'side');
  const wide = (points: [number, number][], k: 0 | 1) => Math.max(...points.map((p) => p[k])) - Math.min(...points.map((p) => p[k]));
  const place = { azimuth: 0, elevation: 0, distance: 2, aim: [0, 0, 0] as [number, number, number] };
  it('are to scale: a tube is long, a ball is round, a spot shows its beam', () => {
    const upright = lightOutline(side, tube({ length: 1.2, diameter: 0.04, place }));
    expect(wide(upright.body, 1)).toBeCloseTo(1.24, 2);
    const round = lightOutline(plan, ball({ diameter: 0.5, place }));
    expect(wide(round.body, 0)).toBeCloseTo(0.5, 2);
    expect(wide(round.body, 1)).toBeCloseTo(0.5, 2);
    const narrow = lightOutline(plan, spot({ angle: 20, place })),
      broad = lightOutline(plan, spot({ angle: 60, place }));
    expect(wide(broad.wedge, 0)).toBeGreaterThan(2 * wide(narrow.wedge, 0));
    expect(lightOutline(plan, rectangle({ roll: 90, width: 1, height: 0.2, place })).body.length).toBeGreaterThan(1);
  });
  it('flags are drawn as thick and wide as they are', () => {
    const flag = { ...Object.values(addFlagPatch(setup, 'key').patch['flags'] as { items: never }).at(-1) };
    expect(flag).toBeDefined();
    const { patch, id } = addFlagPatch(setup, undefined);
    const item = after(setup, patch).flags.items[id]!;
    const box = flagOutline(plan, { ...item, kind: 'box', width: 0.5, depth: 0.3, place: { ...place, distance: 1 } });
    expect([wide(box.body, 0), wide(box.body, 1)].map((v) => Number(v.toFixed(3)))).toEqual([0.5, 0.3]);
    expect(after(after(setup, patch), removeFlagPatch(id)).flags.items).toEqual({});
  });
  it('a sun stands at the edge where it comes from, and is dragged round and up', () => {
    const at = sunOnPaper(plan, { elevation: 10, bearing: 90 }, 2, 2);
    // +X is the picture's right for a camera on +Z
    expect(at[0]).toBeGreaterThan(1.5);
    expect(sunFrom(plan, { elevation: 10, bearing: 0 }, [1, 0]).bearing).toBe(90);
    expect(sunFrom(side, { elevation: 10, bearing: 0 }, [-1, 1]).elevation).toBeGreaterThan(30);
    expect(sunFrom(side, { elevation: 10, bearing: 0 }, [-1, -1]).elevation).toBe(-2);
  });
  it('hulls keep the corners and nothing else', () => {
    expect(
      hull([
        [0, 0],
        [1, 0],
        [1, 1],
        [0, 1],
        [0.5, 0.5],
        [0.5, 0],
      ]),
    ).toHaveLength(4);
  });
});

describe('files for lights', () => {
  const kept = { sha256: 'f'.repeat(64), fileName: 'cove.hdr', notes: [] };
  it('a picture becomes a dome, or fills the one in hand', () => {
    const file = { ...kept, kind: 'dome' as const, width: 8, height: 4, layers: [''] };
    const made = lightFilePatch(setup, file, 'key');
    if (typeof made === 'string') throw new Error(made);
    expect(after(setup, made.patch).lights.items[made.id]).toMatchObject({ kind: 'dome', name: 'cove', fill: { kind: 'picture' } });
    const gradient = setupWith({
      d: dome({
        fill: {
          kind: 'gradient',
          stops: [
            { elevation: 0, colour: [1, 1, 1] },
            { elevation: 9, colour: [0, 0, 0] },
          ],
        },
      }),
    });
    const filled = lightFilePatch(gradient, file, 'd');
    if (typeof filled === 'string') throw new Error(filled);
    expect(after(gradient, filled.patch).lights.items['d']).toMatchObject({ fill: { kind: 'picture', layer: '' } });
  });
  it('a gobo goes before the light in hand, and asks for one', () => {
    const file = { ...kept, kind: 'gobo' as const, width: 8, height: 8 };
    const made = lightFilePatch(setup, file, 'key');
    if (typeof made === 'string') throw new Error(made);
    expect((after(setup, made.patch).lights.items['key'] as RectangleLight).gobo).toMatchObject({ pattern: 'picture', asset: kept.sha256 });
    expect(lightFilePatch(setup, file, undefined)).toContain('Select the light');
    expect(lightFilePatch(setupWith({ d: dome() }), file, 'd')).toContain('Select the light');
  });
  it('a profile becomes a luminaire as bright as the camera wants', () => {
    const made = lightFilePatch(
      setup,
      { ...kept, fileName: 'harbour.ies', kind: 'profile', name: 'Harbour', peak: 1000, flux: 800, watts: 60 },
      undefined,
    );
    if (typeof made === 'string') throw new Error(made);
    const light = after(setup, made.patch).lights.items[made.id]!;
    expect(light.kind).toBe('profile');
    const E = outputIn(light, 'cd') / 1.6 ** 2;
    expect((0.4 * E * exposureFactor(setup.camera.ev)) / Math.PI).toBeCloseTo(0.45, 1);
    expect(profileLevel(setup, dome())).toEqual(dome());
  });
});

describe('the contact sheet', () => {
  it('holds every share and all together, none over another', () => {
    const { cells, width, height } = contactLayout(['a', 'b', 'c', 'd', 'e'], 400, 500);
    expect(cells.map((c) => c.id)).toEqual(['a', 'b', 'c', 'd', 'e', '']);
    for (const c of cells) {
      expect(c.x + c.width).toBeLessThanOrEqual(width);
      expect(c.y + c.height).toBeLessThanOrEqual(height);
      for (const o of cells) if (o !== c) expect(Math.abs(o.x - c.x) >= 400 || Math.abs(o.y - c.y) >= 500).toBe(true);
    }
    expect(width / height).toBeGreaterThan(0.8);
    expect(width / height).toBeLessThan(2.4);
  });
  it('says what each light is set to', () => {
    expect(captionOf(setup, 'key')).toEqual(['Key', '0 st · 6500 K · 1000 cd/m²']);
    expect(captionOf(setup, '')).toEqual(['All together', 'Test']);
  });
});

describe('colours of fields', () => {
  it('go through #rrggbb and back', () => {
    for (const hex of ['#ff8000', '#123456', '#ffffff']) expect(toHex(fromHex(hex))).toBe(hex);
    expect(luminance(...fromHex('#ffffff'))).toBeCloseTo(1, 4);
  });
});
