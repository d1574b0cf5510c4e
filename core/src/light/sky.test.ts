import { describe, expect, it } from '@jest/globals';
import { luminance } from '../photometry/index.ts';
import { DEGREE, point, sample2, type Vec3 } from '../math/index.ts';
import {
  environmentIrradiance,
  EnvironmentView,
  gradientEnvironment,
  makeEnvironment,
  skyEnvironment,
  sunDirection,
  sunPosition,
  sunThroughAir,
  type Environment,
} from './index.ts';

const up: Vec3 = [0, 1, 0];

/** A sky of luminance f(zenith angle). */
function sky(f: (zenith: number) => number, width = 64, height = 64): Environment {
  const rgb = new Float32Array(width * height * 3);
  for (let j = 0; j < height; j++) rgb.fill(f(((j + 0.5) / height) * Math.PI), j * width * 3, (j + 1) * width * 3);
  return makeEnvironment('test', width, height, rgb);
}

/** Irradiance by drawing directions. */
function drawn(e: Environment, n: Vec3, count = 4096): number {
  const view = new EnvironmentView(e);
  let sum = 0;
  for (let i = 0; i < count; i++) {
    sample2(i, 11);
    const S = view.sample(point[0]!, point[1]!);
    const cos = view.x * n[0] + view.y * n[1] + view.z * n[2];
    if (cos > 0) sum += S * cos * luminance(view.r, view.g, view.b);
  }
  return sum / count;
}

describe('domes', () => {
  it('the CIE overcast sky gives 7π/9 of its zenith’s luminance (CIE S 011, ISO 15469)', () => {
    const overcast = sky((z) => (z < Math.PI / 2 ? (1 + 2 * Math.cos(z)) / 3 : 0), 16, 512);
    expect(environmentIrradiance(overcast, up) / ((7 * Math.PI) / 9)).toBeCloseTo(1, 3);
    expect(drawn(overcast, up) / ((7 * Math.PI) / 9)).toBeCloseTo(1, 2);
  });
  it('an even one gives π whichever way one faces', () => {
    for (const n of [up, [0.6, 0, 0.8], [0, -1, 0]] as Vec3[])
      expect(
        drawn(
          sky(() => 1),
          n,
        ),
      ).toBeCloseTo(Math.PI, 1);
  });
  it('what is drawn is drawn by luminance: with its density it makes the integral of any picture', () => {
    const spotty = sky(() => 0.02, 32, 16);
    for (let c = 0; c < 3; c++) spotty.rgb[(3 * 32 + 9) * 3 + c] = 4000;
    const hot = makeEnvironment('hot', 32, 16, spotty.rgb);
    expect(drawn(hot, up) / environmentIrradiance(hot, up)).toBeCloseTo(1, 1);
    const view = new EnvironmentView(hot);
    for (let i = 0; i < 64; i++) {
      sample2(i, 5);
      const S = view.sample(point[0]!, point[1]!);
      const { x, y, z } = view;
      expect(view.towards(x, y, z) / S).toBeCloseTo(1, 4);
    }
  });
  it('of a single pixel, black or bright, works', () => {
    const one = (v: number) => makeEnvironment('one', 1, 1, new Float32Array(3).fill(v));
    expect(drawn(one(2), up, 512)).toBeCloseTo(2 * Math.PI, 0);
    expect(drawn(one(0), up, 64)).toBe(0);
  });
  it('a gradient goes straight from stop to stop and stays beyond the last', () => {
    const g = gradientEnvironment('g', [
      { elevation: 60, colour: [1, 0, 0] },
      { elevation: 0, colour: [0, 0, 1] },
    ]);
    const view = new EnvironmentView(g);
    const at = (e: number) => {
      view.towards(0, Math.sin(e * DEGREE), Math.cos(e * DEGREE));
      return [view.r, view.g, view.b].map((v) => Number(v.toFixed(2)));
    };
    expect(at(30)).toEqual([0.5, 0, 0.5]);
    expect(at(80)).toEqual([1, 0, 0]);
    expect(at(-40)).toEqual([0, 0, 1]);
  });
});

describe('the sun', () => {
  it('stands where NREL’s published case says, within 0.05° (Reda, Andreas 2004: 2003-10-17, Golden)', () => {
    const { azimuth, elevation } = sunPosition({ latitude: 39.742476, longitude: -105.1786, at: '2003-10-17T19:30:30Z' });
    expect(Math.abs(azimuth - 194.34)).toBeLessThan(0.05);
    expect(Math.abs(elevation - 39.888)).toBeLessThan(0.05);
  });
  it('refuses what is no place or moment, with the reason', () => {
    expect(() => sunPosition({ latitude: 91, longitude: 0, at: '2026-06-21T12:00Z' })).toThrow('Latitude');
    expect(() => sunPosition({ latitude: 0, longitude: 181, at: '2026-06-21T12:00Z' })).toThrow('Longitude');
    expect(() => sunPosition({ latitude: 0, longitude: 0, at: 'noon' })).toThrow('noon');
  });
  it('gets dimmer and redder all the way down', () => {
    const red = ([r, g, b]: Vec3) => r / (r + g + b);
    let last: Vec3 | undefined;
    for (let e = 90; e >= 0; e -= 3) {
      const now = sunThroughAir(e, 3);
      if (last) {
        expect(luminance(...now)).toBeLessThan(luminance(...last));
        expect(red(now)).toBeGreaterThan(red(last));
      }
      last = now;
    }
    expect(sunThroughAir(-2, 3)).toEqual([0, 0, 0]);
  });
  it('in clear air overhead leaves about three quarters of what is outside (common practice: 100 klx on the ground)', () => {
    const lux = luminance(...sunThroughAir(90, 2));
    expect(lux).toBeGreaterThan(85_000);
    expect(lux).toBeLessThan(115_000);
  });
});

/** CIE standard clear sky, type 12 (ISO 15469 / CIE S 011): luminance over that of the zenith. a…e = −1, −0.32, 10, −3, 0.45. */
function cieClear(zenith: number, sunZenith: number, fromSun: number): number {
  const gradation = (z: number) => 1 - Math.exp(-0.32 / Math.max(1e-3, Math.cos(z)));
  const indicatrix = (x: number) => 1 + 10 * (Math.exp(-3 * x) - Math.exp((-3 * Math.PI) / 2)) + 0.45 * Math.cos(x) ** 2;
  return (indicatrix(fromSun) * gradation(zenith)) / (indicatrix(sunZenith) * gradation(0));
}

describe('the sky', () => {
  const look = (e: Environment, elevation: number, bearing: number): Vec3 => {
    const view = new EnvironmentView(e);
    view.towards(...sunDirection(elevation, bearing));
    return [view.r, view.g, view.b];
  };
  it('is brighter at the horizon than overhead as the CIE clear sky is, within a factor of two', () => {
    for (const sunAt of [20, 40]) {
      const e = skyEnvironment(sunAt, 2.5),
        zenith = luminance(...look(e, 89, 0));
      for (const [elevation, bearing] of [
        [8, 90],
        [8, 180],
        [20, 120],
        [45, 90],
        [45, 180],
      ] as const) {
        const sun = sunDirection(sunAt, 0),
          w = sunDirection(elevation, bearing);
        const apart = Math.acos(sun[0] * w[0] + sun[1] * w[1] + sun[2] * w[2]);
        const wanted = cieClear((90 - elevation) * DEGREE, (90 - sunAt) * DEGREE, apart);
        const ratio = luminance(...look(e, elevation, bearing)) / zenith / wanted;
        expect(ratio).toBeGreaterThan(0.5);
        expect(ratio).toBeLessThan(2);
      }
    }
  });
  it('is blue away from the sun and warm around a low one', () => {
    const [r, , b] = look(skyEnvironment(40, 2.5), 60, 180);
    expect(b / r).toBeGreaterThan(1.5);
    const low = look(skyEnvironment(3, 3), 4, 0);
    expect(low[0] / low[2]).toBeGreaterThan(3);
  });
  it('gives some ten thousand lux at a high sun and fades after it has set (common practice, no source)', () => {
    const lux = (e: number) => environmentIrradiance(skyEnvironment(e, 3), up);
    expect(lux(45)).toBeGreaterThan(8_000);
    expect(lux(45)).toBeLessThan(40_000);
    expect([30, 10, 3, 0, -2].map(lux).every((v, i, all) => i === 0 || v < all[i - 1]!)).toBe(true);
    expect(lux(-2)).toBeGreaterThan(0);
  });
  it('is brightest around the sun, whose bearing 0 is +Z and grows to the subject’s left', () => {
    const e = skyEnvironment(20, 3);
    expect(luminance(...look(e, 20, 0))).toBeGreaterThan(5 * luminance(...look(e, 20, 180)));
    sunDirection(0, 90).forEach((v, k) => expect(v).toBeCloseTo([1, 0, 0][k]!, 9));
  });
});
