import { describe, expect, it } from '@jest/globals';
import { peakOf, profileFlux } from '../light/index.ts';
import { panelLight, setupWith } from '../testing/setups.ts';
import {
  ball,
  disk,
  dome,
  glow,
  heldBy,
  lightColour,
  lightLevel,
  lightLuminance,
  lightRadiance,
  lightSchema,
  outputIn,
  outputValue,
  parseSetup,
  profiled,
  rectangle,
  setupGains,
  sky,
  spot,
  spreadToTwins,
  sun,
  tube,
  UNITS,
  unitsOf,
  type Light,
} from './index.ts';

const out = (held: 'luminance' | 'flux', value: number) => ({ held, value, unit: 'cd/m²' as const, efficacy: 15 });
const profile = { vertical: [0, 90], horizontal: [0], candela: [1200, 0] };
const all: [string, Light][] = [
  ['rectangle', rectangle({ width: 0.4, height: 1.2 })],
  ['two-sided rectangle', rectangle({ twoSided: true, beam: { angle: 60, keep: 'centre' } })],
  ['disk', disk({ width: 0.6, height: 0.3, beam: { angle: 40, keep: 'total' } })],
  ['ball', ball()],
  ['tube', tube()],
  ['spot', spot()],
  ['profile', profiled({ asset: 'a'.repeat(64), name: 'P', peak: peakOf(profile), flux: profileFlux(profile) })],
  ['sun', sun()],
  ['sky', sky()],
  ['dome', dome()],
  ['glow', glow()],
];

describe('units of output, worked by hand', () => {
  it('a panel of 1000 cd/m² and 0.5 m² gives π · 500 lm; two sides twice that', () => {
    const panel = rectangle({ width: 1, height: 0.5, output: out('luminance', 1000) });
    expect(outputIn(panel, 'lm')).toBeCloseTo(1570.796, 2);
    expect(outputIn({ ...panel, twoSided: true }, 'lm')).toBeCloseTo(3141.593, 2);
    expect(outputIn(panel, 'kcd/m²')).toBe(1);
    expect(outputIn(panel, 'relative')).toBe(1);
  });
  it('a 100 W source at 15 lm/W has 1500 lm: a ball of 30 cm then has 1500 / (π² 0.09) cd/m²', () => {
    const lamp = ball({ diameter: 0.3, output: { held: 'flux', value: 1500, unit: 'W', efficacy: 15 } });
    expect(outputIn(lamp, 'W')).toBe(100);
    expect(lightLuminance(lamp)).toBeCloseTo(1500 / (Math.PI ** 2 * 0.09), 6);
    expect(outputValue(lamp, 'W', 200)).toBe(3000);
  });
  it('a disk of 1 m counts π/4 m², a tube its coat', () => {
    expect(outputIn(disk({ width: 1, height: 1, output: out('luminance', 1) }), 'lm')).toBeCloseTo(Math.PI ** 2 / 4, 9);
    expect(outputIn(tube({ length: 1, diameter: 0.1, output: out('luminance', 1) }), 'lm')).toBeCloseTo(Math.PI ** 2 * 0.1, 9);
  });
  it('a spot with a hard 60° beam and 100 cd gives 2π · 100 · (1 − cos 30°) lm', () => {
    const light = spot({ angle: 60, soft: 0.01, output: { held: 'intensity', value: 100, unit: 'cd', efficacy: 15 } });
    expect(outputIn(light, 'lm') / (2 * Math.PI * 100 * (1 - Math.cos(Math.PI / 6)))).toBeCloseTo(1, 2);
    // its luminance makes that intensity: L · π r²
    expect(lightLuminance(light) * Math.PI * 0.05 ** 2).toBeCloseTo(100, 9);
  });
  it('the sun’s luminance times its solid angle is its illuminance', () => {
    const light = sun({ angle: 0.533, output: { held: 'illuminance', value: 100_000, unit: 'lx', efficacy: 15 } });
    expect(lightLuminance(light) * 6.7967e-5).toBeCloseTo(100_000, -1);
  });
});

describe('a light', () => {
  it.each(all)('%s passes the schema', (_name, light) => expect(lightSchema.safeParse(light).success).toBe(true));
  it.each(all)('%s is the same in every unit: shown and typed back', (_name, light) => {
    expect(unitsOf(light).length).toBeGreaterThan(0);
    for (const unit of unitsOf(light)) {
      expect(UNITS).toContain(unit);
      expect(outputValue(light, unit, outputIn(light, unit)) / light.output.value).toBeCloseTo(1, 12);
    }
  });
  it('keeps its luminance when something else is held, and then the held one when it is resized', () => {
    const panel = rectangle({ width: 0.5, height: 0.5, output: out('luminance', 800) });
    const byTotal = { ...panel, output: heldBy(panel, 'flux') };
    expect(lightLuminance(byTotal)).toBeCloseTo(800, 9);
    expect(lightLuminance({ ...byTotal, width: 1 })).toBeCloseTo(400, 9);
    expect(outputIn({ ...byTotal, width: 1 }, 'lm')).toBeCloseTo(outputIn(panel, 'lm'), 9);
    expect(lightLuminance({ ...panel, width: 1 })).toBe(800);
    expect(heldBy(byTotal, 'luminance').value).toBeCloseTo(800, 9);
  });
  it('narrowing its beam keeps the luminance, or the total', () => {
    const open = rectangle({ output: out('luminance', 800) });
    const centre = { ...open, beam: { angle: 40, keep: 'centre' as const } },
      total = { ...open, beam: { angle: 40, keep: 'total' as const } };
    expect(lightLuminance(centre)).toBe(800);
    expect(outputIn(centre, 'lm')).toBeLessThan(outputIn(open, 'lm') / 3);
    expect(outputIn(total, 'lm')).toBeCloseTo(outputIn(open, 'lm'), 9);
    expect(lightLuminance(total)).toBeGreaterThan(2400);
  });
});

describe('what is balance', () => {
  const level = (light: Light) => lightRadiance(light)[1];
  it('a scrim takes half a stop, and two take one', () => {
    expect(lightLevel(panelLight({ scrims: 2 }))).toBe(0.5);
    expect(level(panelLight({ scrims: 1 })) / level(panelLight())).toBeCloseTo(Math.SQRT1_2, 9);
  });
  it('a gel colours and dims, a picked colour colours at the same luminance', () => {
    const plain = lightColour(panelLight({ kelvin: 5600 }));
    const gelled = lightColour(panelLight({ kelvin: 5600, gel: 'ember' }));
    expect(gelled[0] / gelled[2]).toBeGreaterThan(2 * (plain[0] / plain[2]));
    expect(gelled[1]).toBeLessThan(plain[1]);
    const picked = lightColour(panelLight({ picked: { colour: [0, 0.2, 1], strength: 0.5 } }));
    expect(picked[2]).toBeGreaterThan(picked[0]);
  });
  it('the sun is coloured by its height, and not without air', () => {
    const low = lightColour(sun({ elevation: 5 })),
      high = lightColour(sun({ elevation: 60 }));
    expect(low[0] / low[2]).toBeGreaterThan(5 * (high[0] / high[2]));
    expect(lightColour(sun({ elevation: 5, air: false }))[2]).toBeGreaterThan(0.9);
  });
  it('fill at half the key is one stop (common practice, no source)', () => {
    const gains = setupGains(setupWith({ key: panelLight(), fill: panelLight({ stops: -1 }) }));
    expect(gains['key']!.diffuse[1] / gains['fill']!.diffuse[1]).toBe(2);
  });
  it('several can be heard alone', () => {
    const gains = setupGains(setupWith({ a: panelLight(), b: panelLight({ on: false }), c: panelLight() }), ['a', 'b']);
    expect([gains['a']!.diffuse[0] > 0, gains['b']!.diffuse[0] > 0, gains['c']!.diffuse[0] > 0]).toEqual([true, true, false]);
  });
});

describe('twins', () => {
  const twin = { pair: 'strips', own: ['stops'] };
  const setup = setupWith({ a: panelLight({ twin }), b: panelLight({ twin, name: 'Low' }), c: panelLight() });
  const patch = (change: object) => spreadToTwins(setup, { lights: { items: { a: change } } } as never);
  it('share what is said of one, except place, name and what is their own', () => {
    expect(patch({ width: 0.3, kelvin: 4000 })).toEqual({
      lights: { items: { a: { width: 0.3, kelvin: 4000 }, b: { width: 0.3, kelvin: 4000 } } },
    });
    expect(patch({ place: { azimuth: 3 }, name: 'X' })).toEqual({ lights: { items: { a: { place: { azimuth: 3 }, name: 'X' } } } });
    expect(patch({ stops: 1 })).toEqual({ lights: { items: { a: { stops: 1 } } } });
  });
  it('leave alone what is said of both, of another, or of the order', () => {
    const both = { lights: { items: { a: { width: 1 }, b: { width: 2 } } } };
    expect(spreadToTwins(setup, both)).toEqual(both);
    expect(spreadToTwins(setup, { lights: { items: { c: { width: 1 } } } })).toEqual({ lights: { items: { c: { width: 1 } } } });
    expect(spreadToTwins(setup, { brief: 'x' })).toEqual({ brief: 'x' });
  });
});

describe('what cannot be is refused, field and reason named', () => {
  const setup = (more: object) => () => parseSetup({ ...setupWith({}), lights: { items: { k: { ...rectangle(), ...more } } } });
  it.each([
    [{ width: 0 }, 'lights.items.k.width'],
    [{ kelvin: -5600 }, 'lights.items.k.kelvin'],
    [{ place: { azimuth: 0, elevation: 0, distance: 0, aim: [0, 0, 0] } }, 'lights.items.k.place.distance'],
    [{ output: { held: 'luminance', value: 0, unit: 'cd/m²', efficacy: 15 } }, 'lights.items.k.output.value'],
    [{ kind: 'candle' }, 'lights.items.k'],
    [{ gobo: { pattern: 'picture', asset: 'short', distance: 1, width: 1, turn: 0 } }, 'lights.items.k.gobo.asset'],
  ])('%j', (more, field) => expect(setup(more)).toThrow(field));
});
