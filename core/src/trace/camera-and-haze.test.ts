import { readFileSync } from 'node:fs';
import { attachKernel, buildAccel, compileKernel } from '@plinket/kernel';
import { describe, expect, it } from '@jest/globals';
import { circleOfConfusion, compileCamera, type SceneGeometry, type SceneLight } from '../scene/index.ts';
import { emptySetup } from '../setup/index.ts';
import {
  cameraAt,
  dome,
  floorTriangles,
  geometryOf,
  matt,
  overhead,
  rectangleLight,
  roundNormals,
  sphereTriangles,
} from '../testing/scenes.ts';
import { setupWith } from '../testing/setups.ts';
import { GUIDE_CHANNELS, phase, Tracer, type TraceJob, type TraceResult } from './index.ts';

const module = compileKernel(readFileSync(new URL('../../../kernel/build/kernel.wasm', import.meta.url)))!;
const tracerOf = (geometry: SceneGeometry) => new Tracer(attachKernel(module, buildAccel(module, geometry.mesh)), geometry);
const N = 32;
function shoot(geometry: SceneGeometry, lights: SceneLight[], more: Partial<TraceJob> = {}) {
  const camera = cameraAt([0, 2, 0.001], [0, 0, 0], 0.02);
  const job = { camera, width: N, height: N, tile: { x: 0, y: 0, width: N, height: N }, from: 0, to: 64, seed: 1, bounces: 0, lights };
  return tracerOf(geometry).trace({ ...job, ...more });
}

/** What haze scatters, light by light: the third layer of each. */
const volumesOf = ({ films, layers }: TraceResult): Float32Array[] => {
  const plane = N * N * 3,
    own = plane * layers.length;
  return Array.from({ length: films.length / own }, (_, i) => films.subarray(i * own + 2 * plane, (i + 1) * own));
};

describe('depth of field', () => {
  it('spreads a point into the thin lens’s circle of confusion', () => {
    // a small ball of 2 mm at 4 m, a lens of 100 mm at f/2 in focus at 2 m; the frame is 3 mm high over N pixels
    const focal = 0.1,
      fNumber = 2,
      focus = 2,
      d = 4;
    const ball = roundNormals(geometryOf(sphereTriangles(0.002, 24), matt(1)));
    const half = 0.0015 / focal;
    const lens = compileCamera(
      setupWith({}, { camera: { ...emptySetup('x').camera, focal: focal * 1000, lens: { fNumber, focus } } }),
    ).lens!;
    const camera = { ...cameraAt([0, 0, d], [0, 0, 0], half), lens };
    const { alpha } = shoot(ball, [dome], { camera, to: 4096 });
    // mean distance from the middle of a uniform disk is ⅔ of its radius
    let sum = 0,
      moment = 0;
    for (let i = 0; i < N * N; i++) {
      sum += alpha[i]!;
      moment += alpha[i]! * Math.hypot((i % N) + 0.5 - N / 2, Math.floor(i / N) + 0.5 - N / 2);
    }
    // the circle's radius in pixels
    const c = circleOfConfusion(focal, fNumber, focus, d);
    const radius = (c / 2 / 0.003) * N;
    expect(moment / sum / ((2 / 3) * radius)).toBeCloseTo(1, 1);
  });
  it('leaves what is in focus sharp', () => {
    const ball = roundNormals(geometryOf(sphereTriangles(0.2, 48), matt(1)));
    const pinhole = cameraAt([0, 0, 2], [0, 0, 0], 0.12);
    const open = { ...pinhole, lens: { radius: 0.02, focus: 2 } };
    const edge = (camera: TraceJob['camera']) => shoot(ball, [dome], { camera }).alpha.filter((v) => v > 0 && v < 64).length;
    expect(edge(open)).toBeLessThan(edge(pinhole) * 1.6);
  });
});

describe('haze', () => {
  it('scatters by a phase function that integrates to one over all directions (Henyey, Greenstein 1941)', () => {
    for (const g of [-0.5, 0, 0.3, 0.8]) {
      let sum = 0;
      const n = 20000;
      for (let i = 0; i < n; i++) sum += phase(-1 + (2 * (i + 0.5)) / n, g);
      expect((sum / n) * 4 * Math.PI).toBeCloseTo(1, 4);
    }
  });
  it('weakens a surface by Beer and Lambert, on the way to it and from it', () => {
    const floor = geometryOf(floorTriangles(5), matt(0.5, { specular: 0 }));
    const light = rectangleLight('k', overhead(0.02, 0.02, 1));
    const haze = { density: 0.4, anisotropy: 0 };
    const sum = (more: Partial<TraceJob>) =>
      shoot(floor, [light], more)
        .films.subarray(0, 2 * N * N * 3)
        .reduce((s, v) => s + v);
    // 2 m to the camera, 1 m to the light; the light is straight above the middle of a narrow view
    expect(sum({ haze }) / sum({})).toBeCloseTo(Math.exp(-0.4 * 3), 2);
  });
  it('glows with what the integral along the ray says', () => {
    // no surface in sight; a small panel beside the ray; compare with quadrature of L·A·cos/d²·phase·σ·e^(−σ(t+d))
    const floor = geometryOf(floorTriangles(0.001), matt(0));
    const size = 0.02;
    // faces −z and stands at z = 1 above the ray that runs along +x at z = 0
    const light = rectangleLight('k', { corner: [-size / 2, -size / 2, 1], ex: [0, size, 0], ey: [size, 0, 0] });
    const haze = { density: 0.3, anisotropy: 0.4 };
    const camera = cameraAt([-3, 0, 0], [0, 0, 0], 0.0005);
    const got = volumesOf(shoot(floor, [light], { camera, haze, to: 256 }))[0]!.reduce((s, v) => s + v) / (3 * N * N) / 256;
    let expected = 0;
    const steps = 200000;
    for (let i = 0; i < steps; i++) {
      const t = ((i + 0.5) / steps) * 60,
        x = -3 + t,
        d = Math.hypot(x, 1);
      const cos = 1 / d; // at the panel, between its normal and the way
      const scatter = -x / d; // between the camera ray (+x) and the way to the light, seen from the point
      expected += (((size * size * cos) / (d * d)) * phase(scatter, 0.4) * 0.3 * Math.exp(-0.3 * (t + d)) * 60) / steps;
    }
    expect(got / expected).toBeCloseTo(1, 1);
    expect(Math.abs(got / expected - 1)).toBeLessThan(0.03);
  });
  it('gives each light its own volume layer, and none without haze', () => {
    const floor = geometryOf(floorTriangles(5), matt(0.5));
    const lights = [rectangleLight('a', overhead(0.3, 0.3, 1)), dome];
    const both = shoot(floor, lights, { haze: { density: 0.2, anisotropy: 0 }, to: 8 });
    expect(both.layers).toEqual(['diffuse', 'specular', 'volume']);
    expect(both.films.length).toBe(2 * 3 * N * N * 3);
    expect(both.squares.length).toBe(2 * 3 * N * N);
    const one = shoot(floor, [lights[0]!], { haze: { density: 0.2, anisotropy: 0 }, to: 8 });
    expect(volumesOf(one)).toEqual([volumesOf(both)[0]]);
    expect(shoot(floor, lights, { to: 2 }).layers).toEqual(['diffuse', 'specular']);
  });
});

describe('what comes with the walk at no extra ray', () => {
  const floor = geometryOf(floorTriangles(5), matt(0.6, { specular: 0 }));
  it('normal, position, albedo, depth and identities of the first surface', () => {
    const r = shoot(floor, [dome], { guides: true, to: 4 });
    const { sums, ids } = r.guides!;
    expect([...sums.slice(0, 4)]).toEqual([4, 0, 4, 0]);
    expect(sums[GUIDE_CHANNELS * 100 + 7]! / 4).toBeCloseTo(0.6, 5);
    expect(sums[10]! / 4).toBeCloseTo(2, 2);
    expect([...ids.slice(0, 2)]).toEqual([0, 0]);
    expect(r.rays).toEqual(shoot(floor, [dome], { to: 4 }).rays);
    expect(shoot(floor, [dome], { to: 1 }).guides).toBeUndefined();
  });
  it('squares of the samples, from which the noise that is left follows', () => {
    const one = rectangleLight('k', overhead(0.5, 0.5, 1, [1, 0]));
    const r = shoot(floor, [one], { to: 64 });
    // variance by the sums against the spread of many single renders of the same pixel
    const p = 500,
      mean = r.films[p * 3]! / 64;
    const variance = r.squares[p]! / 64 - mean * mean;
    const singles = Array.from({ length: 64 }, (_, s) => shoot(floor, [one], { from: s, to: s + 1 }).films[p * 3]!);
    const m = singles.reduce((a, b) => a + b) / 64;
    expect(m).toBeCloseTo(mean, 5);
    expect(singles.reduce((a, b) => a + (b - m) ** 2, 0) / 64).toBeCloseTo(variance, 5);
  });
  it('openness: a floor is open to all of its sky, a corner to half of it', () => {
    const open: SceneLight = { id: 'o', key: 'o', kind: 'openness', reach: 10 };
    expect(shoot(floor, [open], { to: 16 }).films[0]! / 16).toBe(1);
    // a high wall along x = 0.0: of a point at its foot half of the cosine-weighted sky is left
    const wall = geometryOf(
      [
        ...floorTriangles(5),
        [
          [0.03, 0, -5],
          [0.03, 50, -5],
          [0.03, 50, 5],
        ],
        [
          [0.03, 0, -5],
          [0.03, 50, 5],
          [0.03, 0, 5],
        ],
      ],
      matt(0.5),
    );
    const camera = cameraAt([-0.02, 2, 0.001], [0.028, 0, 0], 0.0002);
    const { films } = shoot(wall, [{ ...open, reach: 100 }], { camera, to: 64 });
    expect(films.reduce((s, v) => s + v) / (3 * N * N) / 64).toBeCloseTo(0.5, 1);
  });
});

describe('the clamp', () => {
  // a corner where one small bright light makes strong single bounces
  const room = geometryOf(sphereTriangles(1, 16, true), matt(0.8, { specular: 0 }));
  const light = rectangleLight('k', overhead(0.05, 0.05, 0.2));
  const inside = { camera: cameraAt([0, 0, 0.5], [0, -0.5, -1], 0.3), bounces: 3, to: 16 };
  it('is off by default and takes nothing', () => {
    expect(shoot(room, [light], inside).clamped.removed).toBe(0);
  });
  it('says how much light it took', () => {
    const free = shoot(room, [light], inside),
      held = shoot(room, [light], { ...inside, clamp: 2e-5 });
    const y = (f: Float32Array) => {
      let s = 0;
      for (let i = 0; i < f.length; i += 3) s += 0.2126 * f[i]! + 0.7152 * f[i + 1]! + 0.0722 * f[i + 2]!;
      return s;
    };
    const lost = y(free.films) - y(held.films);
    expect(held.clamped.removed).toBeGreaterThan(0);
    // contributions whose shadow ray is blocked are counted too, so what is said is never less than what was taken
    expect(held.clamped.removed).toBeGreaterThanOrEqual(lost * 0.99);
    expect(lost).toBeGreaterThan(0);
  });
});
