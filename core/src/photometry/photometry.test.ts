import { describe, expect, it } from '@jest/globals';
import { converter } from 'culori';
import * as p from './index.ts';

describe('stops', () => {
  it('are factors of two: 2:1 is one stop, 8:1 three', () => {
    expect(p.stopsToFactor(1)).toBe(2);
    expect(p.factorToStops(8)).toBe(3);
    expect(p.stopsToFactor(-1)).toBe(0.5);
    for (const s of [-3, -1 / 3, 0, 2.5]) expect(p.factorToStops(p.stopsToFactor(s))).toBeCloseTo(s, 12);
  });
  it('snap to thirds', () => {
    expect(p.snapThird(0.3)).toBeCloseTo(1 / 3, 12);
    expect(p.snapThird(-0.9)).toBe(-1);
  });
  it.each([
    [0, '0'],
    [1 / 3, '+⅓'],
    [-2 / 3, '−⅔'],
    [1 + 1 / 3, '+1⅓'],
    [-2, '−2'],
    [0.5, '+0.50'],
  ])('%f is written %s', (stops, text) => expect(p.formatStops(stops)).toBe(text));
});

describe('colour of a full radiator', () => {
  // CIE 15 (illuminant A); the others by Planck's law with c2 = 1.438776877e-2 m·K over the 1931 observer
  it.each([
    [2855.54, 0.44757, 0.40745],
    [2700, 0.45986, 0.4106],
    [3200, 0.42336, 0.39895],
    [5600, 0.3302, 0.33908],
    [6500, 0.31353, 0.32363],
  ])('%f K has x, y = %f, %f', (kelvin, x, y) => {
    const [cx, cy] = p.blackbodyChromaticity(kelvin);
    expect(cx).toBeCloseTo(x, 4);
    expect(cy).toBeCloseTo(y, 4);
  });
  it('is nearly neutral at 6500 K, warm below, cool above, and always of luminance 1', () => {
    const [r, g, b] = p.kelvinToLinear(6500);
    expect(Math.max(r, g, b) / Math.min(r, g, b)).toBeLessThan(1.08);
    const warm = p.kelvinToLinear(3000),
      cool = p.kelvinToLinear(10000);
    expect(warm[0]).toBeGreaterThan(warm[2] * 3);
    expect(cool[2]).toBeGreaterThan(cool[0]);
    for (const k of [1000, 1800, 2700, 4000, 6500, 12000, 25000]) {
      const c = p.kelvinToLinear(k);
      expect(p.luminance(...c)).toBeCloseTo(1, 6);
      expect(Math.min(...c)).toBeGreaterThanOrEqual(0);
    }
  });
});

describe('sRGB', () => {
  // IEC 61966-2-1, through the reference package culori
  it('encodes and decodes as the standard and as culori do', () => {
    const toRgb = converter('rgb'),
      toLinear = converter('lrgb');
    for (let i = 0; i <= 50; i++) {
      const v = i / 50;
      expect(p.encodeSrgb(v)).toBeCloseTo(toRgb({ mode: 'lrgb', r: v, g: v, b: v }).r, 6);
      expect(p.decodeSrgb(v)).toBeCloseTo(toLinear({ mode: 'rgb', r: v, g: v, b: v }).r, 6);
      expect(p.decodeSrgb(p.encodeSrgb(v))).toBeCloseTo(v, 9);
    }
    // middle grey: 18 % is 46.1 % of the signal, 118 of 255
    expect(Math.round(p.encodeSrgb(0.18) * 255)).toBe(118);
  });
  it('takes XYZ of D65 to white and agrees with culori elsewhere', () => {
    expect(p.xyzToLinear(0.95047, 1, 1.08883).map((v) => +v.toFixed(3))).toEqual([1, 1, 1]);
    const ref = converter('lrgb')({ mode: 'xyz65', x: 0.3, y: 0.4, z: 0.2 });
    const ours = p.xyzToLinear(0.3, 0.4, 0.2);
    [ref.r, ref.g, ref.b].forEach((v, i) => expect(ours[i]).toBeCloseTo(v, 3));
  });
});

describe('units', () => {
  it('of a panel: 1 m² at 1000 cd/m² sends out 3141.6 lm, and back', () => {
    expect(p.panelFlux(1000, 1)).toBeCloseTo(3141.593, 3);
    expect(p.panelLuminance(p.panelFlux(123, 0.7), 0.7)).toBeCloseTo(123, 9);
  });
  it('of exposure: one EV more halves the picture; EV 0 clips at 1.2 cd/m² (ISO 12232 with q = 0.65)', () => {
    expect(p.exposureFactor(0) * 1.2).toBeCloseTo(1, 12);
    expect(p.exposureFactor(7) / p.exposureFactor(8)).toBeCloseTo(2, 12);
    // 78 / (q S) with S = 100, q = 0.65
    expect(78 / (0.65 * 100)).toBeCloseTo(1.2, 12);
  });
});

describe('the white point', () => {
  const apply = (m: number[], v: number[]) => [0, 1, 2].map((r) => m[r * 3]! * v[0]! + m[r * 3 + 1]! * v[1]! + m[r * 3 + 2]! * v[2]!);
  it('turns the colour of its own light into that of 6500 K', () => {
    for (const kelvin of [2856, 4000, 9000]) {
      const white = apply(p.adaptWhite(kelvin, 6500), p.kelvinToLinear(kelvin));
      const wanted = p.kelvinToLinear(6500);
      const k = white[1]! / wanted[1]!;
      white.forEach((v, i) => expect(v / k).toBeCloseTo(wanted[i]!, 2));
    }
  });
  it('changes nothing from a light to itself, and goes back the way it came', () => {
    expect(p.adaptWhite(5000, 5000)).toEqual([1, 0, 0, 0, 1, 0, 0, 0, 1]);
    const there = apply(p.adaptWhite(3200, 6500), [0.3, 0.5, 0.2]);
    apply(p.adaptWhite(6500, 3200), there).forEach((v, i) => expect(v).toBeCloseTo([0.3, 0.5, 0.2][i]!, 4));
  });
});
