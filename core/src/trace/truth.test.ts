// What a lux meter would show, against closed forms and quadrature written here.
import { describe, expect, it } from '@jest/globals';
import { PanelView, rectangleIrradiance, SphericalRectangle, type Rectangle } from '../light/index.ts';
import { DEGREE, dimension, dot, openDimension, point, sample2, type Vec3 } from '../math/index.ts';
import { kelvinToLinear, luminance } from '../photometry/index.ts';
import { compile, type Scene } from '../scene/index.ts';
import { axesInWorld, lightLuminance, NO_HEAD, sun } from '../setup/index.ts';
import {
  floorTriangles,
  geometryOf,
  lux,
  matt,
  overhead,
  plainTracer,
  rectangleLight,
  roundNormals,
  sphereTriangles,
} from '../testing/scenes.ts';
import { panelLight, setupWith } from '../testing/setups.ts';
import { phase, probe } from './index.ts';

const origin: Vec3 = [0, 0, 0],
  up: Vec3 = [0, 1, 0];
const scene = (more: Pick<Scene, 'geometry' | 'lights'> & Partial<Scene>): Scene => ({
  camera: compile(setupWith({}), () => undefined).camera,
  ...more,
});

describe('a lux meter', () => {
  it('weighs what a coloured wall sends on by channel: red under warm light is brighter than red times white', () => {
    // in a sphere one bounce sends everywhere what comes directly in the mean, times the albedo of each channel
    const albedo: Vec3 = [0.6, 0.06, 0.04];
    const geometry = roundNormals(geometryOf(sphereTriangles(1, 40, true), { ...matt(1, { specular: 0 }), base: albedo }));
    const small = rectangleLight('key', { corner: [-0.05, 0, -0.05], ex: [0.1, 0, 0], ey: [0, 0, 0.1] });
    const light = panelLight({ kelvin: 2700, output: { held: 'luminance', value: 1, unit: 'cd/m²', efficacy: 15 } });
    const setup = setupWith({ key: light });
    const found = probe(setup, scene({ geometry, lights: [small] }), plainTracer(geometry), [0, 0.999, 0], [0, -1, 0], {
      samples: 8192,
      bounces: 1,
    });
    const mean = (Math.PI * 0.01) / (4 * Math.PI);
    const warm = kelvinToLinear(2700);
    const expected = mean * luminance(...(albedo.map((a, c) => a * warm[c]!) as Vec3));
    expect((found.total - found.direct) / expected).toBeCloseTo(1, 1);
    // by white alone it would be a fifth less
    expect(expected / (mean * luminance(...albedo))).toBeGreaterThan(1.2);
  });

  it('sees through haze by Beer and Lambert, and what the haze scatters to it, by quadrature', () => {
    const height = 5.1,
      haze = { density: 0.47, anisotropy: 0.3 };
    const panel = overhead(0.1, 0.1, height);
    const geometry = geometryOf(floorTriangles(0.001), matt(0));
    const tracer = plainTracer(geometry);
    const [clear] = tracer.irradiance(origin, up, [rectangleLight('key', panel)], { samples: 4096, seed: 1, bounces: 0 });
    const [seen] = tracer.irradiance(origin, up, [rectangleLight('key', panel)], { samples: 1 << 16, seed: 1, bounces: 0, haze });
    expect(lux(seen!.direct) / lux(clear!.direct)).toBeCloseTo(Math.exp(-haze.density * height), 4);
    // ∫ cos θ ∫ σ e^(−σt) p(cos) e^(−σr) I / r² dt dω around the axis; I = area · cos at the light
    let scattered = 0;
    const n = 600;
    for (let i = 0; i < n; i++) {
      const theta = ((i + 0.5) / n) * (Math.PI / 2),
        s = Math.sin(theta),
        c = Math.cos(theta);
      const end = Math.min(60, height / c);
      let along = 0;
      for (let j = 0; j < n; j++) {
        const t = ((j + 0.5) / n) * end;
        const x = -t * s,
          y = height - t * c,
          r = Math.hypot(x, y);
        const cos = (s * x + c * y) / r;
        along += (phase(cos, haze.anisotropy) * Math.exp(-haze.density * (t + r)) * 0.01 * (y / r)) / (r * r);
      }
      scattered += ((2 * Math.PI * s * c * haze.density * along * end) / n) * (Math.PI / 2 / n);
    }
    expect((lux(seen!.total) - lux(seen!.direct)) / scattered).toBeGreaterThan(0.95);
    expect((lux(seen!.total) - lux(seen!.direct)) / scattered).toBeLessThan(1.05);
  });
});

describe('more samples', () => {
  it('go on lowering the error, as 1 / √N or better, from 4096 to 65536', () => {
    const area = Math.PI * 0.16;
    const error = (samples: number) => {
      let sum = 0;
      for (let key = 1; key <= 40; key++) {
        let inside = 0;
        for (let i = 0; i < samples; i++) {
          sample2(i, key);
          if ((point[0]! - 0.5) ** 2 + (point[1]! - 0.5) ** 2 < 0.16) inside++;
        }
        sum += (inside / samples - area) ** 2;
      }
      return Math.sqrt(sum / 40);
    };
    // 1 / √16 is a quarter; forty keys know a deviation to a ninth
    expect(error(4096) / error(65_536)).toBeGreaterThan(3);
  });
  it('bring points that were not there, in the dimensions of pictures, too', () => {
    const d = dimension();
    const seen = new Set<string>();
    for (let i = 0; i < 16_384; i++) {
      openDimension(d, i, 77);
      seen.add(`${d.a} ${d.b}`);
    }
    expect(seen.size).toBeGreaterThan(16_370);
  });
});

describe('sources', () => {
  it.each([0.53, 23, 60, 120])('a sun of %s° gives a surface that faces it its lux', (angle) => {
    const light = sun({ angle, elevation: 90, air: false, output: { held: 'luminance', value: 1000, unit: 'lx', efficacy: 15 } });
    const setup = setupWith({ s: light });
    const compiled = compile(setup, () => undefined);
    const geometry = geometryOf(floorTriangles(0.001), matt(0));
    const [p] = plainTracer(geometry).irradiance(origin, up, compiled.lights, { samples: 4096, seed: 2, bounces: 0 });
    expect((lux(p!.direct) * lightLuminance(light)) / 1000).toBeCloseTo(1, 3);
  });
  it('a strip of 2 m by 5 mm that is seen at a grazing angle, below 1e-4 sr, lights as Lambert’s formula says', () => {
    // it shines down from half a millimetre over the receiver's plane
    const strip: Rectangle = { corner: [0.3, 0.0005, -1], ex: [0.005, 0, 0], ey: [0, 0, 2] };
    const E = rectangleIrradiance(strip, origin, up);
    expect(E).toBeGreaterThan(0);
    expect(new SphericalRectangle(strip).prepare(0, 0, 0)).toBeGreaterThan(0);
    const view = new PanelView(strip, false);
    let sum = 0,
      angle = 0;
    for (let i = 0; i < 4096; i++) {
      sample2(i, 9);
      const spread = view.sample(0, 0, 0, point[0]!, point[1]!);
      sum += spread * Math.max(0, view.wy);
      angle += spread;
      // a ray that comes to the same point has the same density
      expect(view.meet(0, 0, 0, view.wx, view.wy, view.wz)).toBeCloseTo(view.d, 6);
      expect(view.met / spread).toBeCloseTo(1, 4);
    }
    expect(angle / 4096).toBeLessThan(1e-4);
    expect(sum / 4096 / E).toBeCloseTo(1, 1);
  });
  it('a strip that rises over the head to straight overhead does not turn about its axis', () => {
    const at = (elevation: number) => axesInWorld(NO_HEAD, { place: { azimuth: 40, elevation, distance: 1.5, aim: [0, 0, 0] } });
    const low = at(60).x;
    for (const elevation of [80, 87.3, 87.5, 89, 89.99, 90]) expect(dot(at(elevation).x, low)).toBeCloseTo(1, 9);
    // and goes down behind it turned over, as a lamp on an arm does
    const over = axesInWorld(NO_HEAD, { place: { azimuth: 40, elevation: 90, distance: 1.5, aim: [0, 0, 0] } });
    expect(dot(over.z, [0, -1, 0])).toBeCloseTo(1, 9);
    expect(Math.abs(over.x[0] * Math.sin(40 * DEGREE) + over.x[2] * Math.cos(40 * DEGREE))).toBeLessThan(1e-9);
  });
});
