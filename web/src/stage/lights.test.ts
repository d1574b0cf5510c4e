// What the Stage does with lights: cards, files, the contact sheet.
import { describe, expect, it } from '@jest/globals';
import {
  applyPatch,
  ball,
  dome,
  exposureFactor,
  glow,
  luminance,
  outputIn,
  parseSetup,
  profiled,
  profileLevel,
  rectangle,
  sky,
  spot,
  sun,
  tube,
  type Light,
  type RectangleLight,
  type Setup,
} from '@plinket/core';
import { panelLight, setupWith } from '../../../core/src/testing/setups.ts';
import { fromHex, toHex } from '../parts/colour.ts';
import { colourOf, letterOf } from '../parts/identity.ts';
import { captionOf, contactLayout } from '../parts/contact.ts';
import { lightFilePatch } from './LightFiles.tsx';
import { byRole, placeWords, soloed, sourceWords, stacks } from './Shares.tsx';

const setup = setupWith({ key: panelLight(), fill: panelLight({ name: 'Fill', role: 'fill' }) });
const after = (s: Setup, patch: object): Setup => parseSetup(applyPatch(s, patch));
const profile = { asset: 'a'.repeat(64), name: 'Harbour', peak: 1000, flux: 800 };

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

  it('are heard alone one at a time, or joined', () => {
    expect(soloed([], 'a', false)).toEqual(['a']);
    expect(soloed(['a'], 'b', false)).toEqual(['b']);
    expect(soloed(['a'], 'b', true)).toEqual(['a', 'b']);
    expect(soloed(['a', 'b'], 'a', true)).toEqual(['b']);
  });
  it('gives every light a letter and one of eight colours', () => {
    expect([0, 1, 25, 26, 59].map(letterOf)).toEqual(['A', 'B', 'Z', 'A2', 'H3']);
    expect(new Set(Array.from({ length: 8 }, (_, i) => colourOf(i))).size).toBe(8);
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
