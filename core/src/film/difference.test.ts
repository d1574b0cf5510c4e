import { describe, expect, it } from '@jest/globals';
import { converter } from 'culori';
import { DIFFERENCE_RANGE, differenceColour, showDifference, stopsBetween } from './index.ts';

const pixel = (...rgb: number[]) => Uint8ClampedArray.from([...rgb, 255]);

describe('the difference of two pictures', () => {
  it('is that of the luminance a display gives, with half a percent of flare (luminance by culori, another reader of sRGB)', () => {
    const xyz = converter('xyz65');
    const y = (r: number, g: number, b: number) => xyz({ mode: 'rgb', r: r / 255, g: g / 255, b: b / 255 }).y;
    for (const [a, b] of [
      [
        [188, 188, 188],
        [255, 255, 255],
      ],
      [
        [10, 200, 90],
        [200, 10, 30],
      ],
      [
        [0, 0, 0],
        [255, 255, 255],
      ],
      [
        [3, 2, 8],
        [90, 91, 60],
      ],
    ] as [[number, number, number], [number, number, number]][])
      expect(stopsBetween(pixel(...a), pixel(...b))[0]).toBeCloseTo(Math.log2((y(...b) + 0.005) / (y(...a) + 0.005)), 2);
  });
  it('is nothing between the same, turns its sign with the order, and is refused between sizes', () => {
    const a = pixel(90, 120, 60),
      b = pixel(20, 60, 200);
    expect(stopsBetween(a, a)[0]).toBe(0);
    expect(stopsBetween(a, b)[0]).toBeCloseTo(-stopsBetween(b, a)[0]!, 6);
    expect(() => stopsBetween(a, new Uint8Array(8))).toThrow(RangeError);
  });
  it('is shown grey where nothing differs, warm where it is brighter, cool where it is darker, and no further than its range', () => {
    const [r, g, b] = differenceColour(0);
    expect([r, g]).toEqual([g, b]);
    const warm = differenceColour(1),
      cool = differenceColour(-1);
    expect(warm[0]).toBeGreaterThan(warm[2]);
    expect(cool[0]).toBeLessThan(cool[2]);
    expect(differenceColour(DIFFERENCE_RANGE * 4)).toEqual(differenceColour(DIFFERENCE_RANGE));
  });
  it('says its median, its twentieth and how much of the picture it concerns', () => {
    const stops = Float32Array.from({ length: 100 }, (_, i) => (i < 70 ? 0.1 : i < 90 ? -1 : 2));
    const told = showDifference(stops, new Uint8ClampedArray(400));
    expect(told.median).toBeCloseTo(0.1, 6);
    expect(told.most).toBe(2);
    expect(told.share).toBeCloseTo(0.3, 6);
  });
});
