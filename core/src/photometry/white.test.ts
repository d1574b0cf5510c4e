import { describe, expect, it } from '@jest/globals';
import { converter } from 'culori';
import * as p from './index.ts';

const hsl = converter('hsl');

describe('colour of a light by its temperature', () => {
  it('daylight of 6504 K is D65: x = 0.31272, y = 0.32903 (CIE 15)', () => {
    const [x, y] = p.daylightChromaticity(6504);
    expect(x).toBeCloseTo(0.31272, 4);
    // the locus’ polynomial and the integral of S0, S1, S2 differ by 1.3e-4 in y
    expect(Math.abs(y - 0.32903)).toBeLessThan(2e-4);
    p.kelvinToLinear(6504).forEach((v) => expect(v).toBeCloseTo(1, 2));
  });
  it('is a full radiator below 4000 K and daylight above 5500 K', () => {
    for (const k of [1900, 2856, 4000]) expect(p.lightChromaticity(k)).toEqual(p.blackbodyChromaticity(k));
    for (const k of [5500, 6500, 12000]) expect(p.lightChromaticity(k)).toEqual(p.daylightChromaticity(k));
  });
  it('goes over seamlessly: x falls all the way and no step is larger than its neighbours', () => {
    let last = p.lightChromaticity(3800)[0],
      step = 0;
    for (let k = 3820; k <= 6000; k += 20) {
      const x = p.lightChromaticity(k)[0];
      expect(x).toBeLessThan(last);
      if (step) expect((last - x) / step).toBeLessThan(1.25);
      step = last - x;
      last = x;
    }
  });
  it('comes back from its chromaticity by McCamy’s formula (McCamy 1992), 2500…10000 K', () => {
    for (const k of [2500, 2856, 3200, 4000, 5000, 6500, 8000, 10000])
      expect(Math.abs(p.mccamyTemperature(...p.lightChromaticity(k)) - k) / k).toBeLessThan(0.03);
  });
  it('reads warm at 4000 K and cool at 8000 K against 6500 K (common practice, no source)', () => {
    const [wr, , wb] = p.kelvinToLinear(4000),
      [cr, , cb] = p.kelvinToLinear(8000);
    expect(wr / wb).toBeGreaterThan(1.5);
    expect(cb / cr).toBeGreaterThan(1.15);
  });
  it('tint goes to green above the locus and to magenta below, at the same luminance', () => {
    const green = p.kelvinToLinear(5600, 20),
      plain = p.kelvinToLinear(5600),
      magenta = p.kelvinToLinear(5600, -20);
    expect(green[1] / plain[1]).toBeGreaterThan(1.03);
    expect(magenta[1] / plain[1]).toBeLessThan(0.97);
    for (const c of [green, plain, magenta]) expect(p.luminance(...c)).toBeCloseTo(1, 9);
  });
  it('a tint of 10 lies 0.010 away in CIE 1960 u v (Duv)', () => {
    const uv = ([x, y]: [number, number]) => [(4 * x) / (12 * y - 2 * x + 3), (6 * y) / (12 * y - 2 * x + 3)];
    const [u0, v0] = uv(p.lightChromaticity(4300)),
      [u1, v1] = uv(p.lightChromaticity(4300, 10));
    expect(Math.hypot(u1! - u0!, v1! - v0!)).toBeCloseTo(0.01, 9);
    expect(v1! > v0!).toBe(true);
  });
});

describe('tint', () => {
  /** Correlated colour temperature by its definition (CIE 15): the full radiator that is nearest in CIE 1960 u, v. */
  const correlated = ([x, y]: [number, number]): number => {
    const uv = ([a, b]: [number, number]) => [(4 * a) / (12 * b - 2 * a + 3), (6 * b) / (12 * b - 2 * a + 3)];
    const [u, v] = uv([x, y]);
    const far = (mired: number) => {
      const [a, b] = uv(p.blackbodyChromaticity(1e6 / mired));
      return Math.hypot(a! - u!, b! - v!);
    };
    let from = 1e6 / 12000,
      to = 1e6 / 1800;
    for (let i = 0; i < 60; i++) {
      const a = from + (to - from) * 0.382,
        b = from + (to - from) * 0.618;
      if (far(a) < far(b)) to = b;
      else from = a;
    }
    return 2e6 / (from + to);
  };
  it.each([2700, 3200, 3900, 4300, 4700, 5200, 5600, 6500, 9000])(
    'moves a light of %i K across, not along: its temperature stays',
    (kelvin) => {
      const plain = correlated(p.lightChromaticity(kelvin));
      expect(Math.abs(plain / kelvin - 1)).toBeLessThan(0.006);
      for (const tint of [-20, -8, 12, 23]) expect(Math.abs(correlated(p.lightChromaticity(kelvin, tint)) / plain - 1)).toBeLessThan(0.006);
    },
  );
});

describe('gels', () => {
  it('a full conversion turns 5600 K into 3000 K light (159 mired), less bright', () => {
    const base = p.kelvinToLinear(5600),
      t = p.gelTransmission('ember', 5600);
    const after = base.map((v, k) => v * t[k]!) as [number, number, number];
    const wanted = p.kelvinToLinear(1e6 / (1e6 / 5600 + 159));
    expect(p.luminance(...after)).toBeCloseTo(0.58, 6);
    after.forEach((v, k) => expect(v / 0.58).toBeCloseTo(wanted[k]!, 6));
  });
  it('warming and cooling undo each other’s direction; unknown gels pass all', () => {
    const warm = p.gelTransmission('quarter-ember', 5600),
      cool = p.gelTransmission('quarter-dusk', 5600);
    expect(warm[0] / warm[2]).toBeGreaterThan(1);
    expect(cool[0] / cool[2]).toBeLessThan(1);
    expect(p.gelTransmission('no-such-gel', 5600)).toEqual([1, 1, 1]);
  });
  it('have names of their own, and none passes more than all light', () => {
    expect(new Set(p.GELS.map((g) => g.id)).size).toBe(p.GELS.length);
    for (const g of p.GELS) expect(g.colour ? Math.max(...g.colour) : g.passes!).toBeLessThanOrEqual(1);
  });
});

describe('picked colours', () => {
  it('go from white to themselves at the same luminance', () => {
    expect(p.pickedColour([1, 0.2, 0.1], 0)).toEqual([1, 1, 1]);
    const half = p.pickedColour([1, 0.2, 0.1], 0.5);
    expect(p.luminance(...half)).toBeCloseTo(1, 9);
    expect(half[0]).toBeGreaterThan(half[2]);
  });
  it('are called none, hint, clear and strong', () => {
    expect([0, 0.1, 0.3, 0.8].map(p.strengthWord)).toEqual(['none', 'hint', 'clear', 'strong']);
  });
  it('have a complement that lies opposite in hue (culori)', () => {
    const hue = ([r, g, b]: [number, number, number]) => hsl({ mode: 'rgb', r, g, b })!.h!;
    for (const c of [
      [1, 0.2, 0.1],
      [0.1, 0.4, 0.9],
      [0.3, 0.9, 0.2],
    ] as [number, number, number][])
      expect(Math.abs(((hue(p.complementOf(c)) - hue(c) + 360) % 360) - 180)).toBeLessThan(1e-6);
  });
  it('temperatures have one as far on the other side of white, in reciprocal kelvin', () => {
    expect(p.complementKelvin(4000, 6500)).toBeCloseTo(1e6 / (2e6 / 6500 - 250), 6);
    expect(p.complementKelvin(2000, 6500)).toBe(25000);
  });
});

describe('typed quantities', () => {
  it.each([
    ['40cm', 1.2, 'm', 0.4],
    ['0.4 m', 120, 'cm', 40],
    ['2*(30+5) cm', 0, 'cm', 70],
    ['5600 K', 3200, 'K', 5600],
    ['5.6kK', 3200, 'K', 5600],
    ['+1/3', 0, 'stops', 1 / 3],
    ['−⅔', 0, 'stops', -2 / 3],
    ['1⅓', 0, 'stops', 4 / 3],
    ['-1', 0.5, 'stops', -1],
    ['+=1/3', 1, 'stops', 4 / 3],
    ['-=10', 45, '°', 35],
    ['*2', 800, 'cd/m²', 1600],
    ['/4', 800, 'cd/m²', 200],
    ['200kcd/m2', 1, 'cd/m²', 200000],
    ['200 kcd/m²', 1, 'kcd/m²', 200],
    ['2 ft', 0, 'm', 0.6096],
    ['12"', 0, 'cm', 30.48],
    ['1,5', 0, 'm', 1.5],
    ['45°', 0, '°', 45],
    ['1e3', 0, 'lm', 1000],
  ])('“%s” on %f in %s is %f', (text, now, unit, wanted) => expect(p.typed(text, now, unit)).toBeCloseTo(wanted, 9));
  it('reads watts with their efficacy', () => {
    expect(p.parseQuantity('500W@15')).toEqual({ value: 500, unit: 'w', change: 'set', efficacy: 15 });
  });
  it.each([
    ['', 'Nothing'],
    ['abc', 'no number'],
    ['5/0', 'divided by 0'],
    ['/0', 'divided by 0'],
    ['(2+3', 'bracket'],
    ['3 kg', 'does not belong here'],
    ['2+', 'missing'],
    ['500W@0', 'efficacy'],
    ['4 m ; 5', 'no unit'],
  ])('refuses “%s”: %s', (text, words) => expect(() => p.typed(text, 1, 'm')).toThrow(words));
});
