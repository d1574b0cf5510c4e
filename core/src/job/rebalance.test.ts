import { describe, expect, it } from '@jest/globals';
import { applyPatch, isEmptyPatch, parseSetup, setupGains, type Patch } from '../setup/index.ts';
import { panelLight, setupWith } from '../testing/setups.ts';
import { balancePatch, balanceSchema, rebalanced, warmer } from './index.ts';

const setup = applyPatch(setupWith({ key: panelLight(), fill: panelLight({ on: false }) }), {
  lights: { items: { key: { stops: 1, kelvin: 5000, specular: 0.5 } } },
} as unknown as Patch);

describe('a balance', () => {
  it('moves levels by stops, whatever they were, and the picture by exposure', () => {
    const gain = (s: typeof setup) => setupGains(s)['key']!.diffuse[0];
    const down = rebalanced(setup, { lights: { key: { stops: -0.5 } } });
    expect(gain(down) / gain(setup)).toBeCloseTo(2 ** -0.5, 12);
    expect(gain(rebalanced(setup, { lights: {}, exposure: 1 })) / gain(setup)).toBeCloseTo(2, 12);
    // also where it would leave what a light can be
    let far = setup;
    for (let i = 0; i < 4; i++) far = rebalanced(far, { lights: { key: { stops: 12 } }, exposure: 8 });
    expect(() => parseSetup(far)).not.toThrow();
  });
  it('warms by mired', () => {
    // 1e6/5000 + 50 = 250 mired: 4000 K
    expect(warmer(5000, 50)).toBe(4000);
    expect(warmer(5000, -50)).toBe(6667);
    const { kelvin } = rebalanced(setup, { lights: { key: { mired: 50 } } }).lights.items['key']!;
    expect(kelvin).toBe(4000);
    for (const mired of [-200, 200]) parseSetup(rebalanced(setup, { lights: { key: { mired }, fill: { mired } } }));
  });
  it('turns on and off, weighs shares, and says nothing where nothing changes', () => {
    const now = rebalanced(setup, { lights: { fill: { on: true }, key: { specular: 2, diffuse: 0 } }, look: { contrast: 1.2 } });
    expect([now.lights.items['fill']!.on, now.lights.items['key']!.specular, now.lights.items['key']!.diffuse]).toEqual([true, 1, 0]);
    expect(now.look.contrast).toBe(1.2);
    const same = {
      lights: { key: { on: true, stops: 0, diffuse: 1 }, gone: { stops: 1 } },
      look: { contrast: setup.look.contrast },
      exposure: 0,
    };
    expect(isEmptyPatch(balancePatch(setup, same))).toBe(true);
  });
  it('is read strictly: nothing in it may need a ray', () => {
    for (const wrong of [
      { lights: { key: { place: {} } } },
      { lights: { key: { stops: 99 } } },
      { camera: { ev: 1 } },
      { lights: {}, look: { smooth: 0 } },
    ])
      expect(balanceSchema.safeParse(wrong).success).toBe(false);
    expect(balanceSchema.parse({})).toEqual({ lights: {} });
  });
});
