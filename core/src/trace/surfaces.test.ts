// What surfaces do with light, measured through the tracer.
import { readFileSync } from 'node:fs';
import { attachKernel, buildAccel, compileKernel } from '@plinket/kernel';
import { describe, expect, it } from '@jest/globals';
import type { Vec3 } from '../math/index.ts';
import { rectangleIrradiance } from '../light/index.ts';
import { material, type Material, type TextureUse } from '../surface/index.ts';
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
  lux,
} from '../testing/scenes.ts';
import type { SceneGeometry, SceneLight } from '../scene/index.ts';
import { Tracer, type TraceJob, type TraceResult } from './index.ts';

const module = compileKernel(readFileSync(new URL('../../../kernel/build/kernel.wasm', import.meta.url)))!;
const tracerOf = (geometry: SceneGeometry) => new Tracer(attachKernel(module, buildAccel(module, geometry.mesh)), geometry);
const N = 16;
const above = cameraAt([0, 2, 0.001], [0, 0, 0], 0.02);
function shoot(geometry: SceneGeometry, lights: SceneLight[], more: Partial<TraceJob> = {}): TraceResult {
  const job = {
    camera: above,
    width: N,
    height: N,
    tile: { x: 0, y: 0, width: N, height: N },
    from: 0,
    to: 64,
    seed: 1,
    bounces: 0,
    lights,
  };
  return tracerOf(geometry).trace({ ...job, ...more });
}
/** Mean of a plane (0 diffuse, 1 specular) and channel over all pixels, for one sample. */
function mean({ films }: TraceResult, plane: 0 | 1 = 0, channel = 0, samples = 64, light = 0): number {
  let sum = 0;
  const at = light * N * N * 6 + plane * N * N * 3 + channel;
  for (let i = 0; i < N * N; i++) sum += films[at + i * 3]!;
  return sum / (N * N) / samples;
}
/** Two things in one scene: the second's triangles with a material of their own. */
function both(a: [Vec3, Vec3, Vec3][], ma: Material, b: [Vec3, Vec3, Vec3][], mb: Material, clear = false): SceneGeometry {
  const g = geometryOf([...a, ...b], ma);
  g.materials.push(mb);
  g.triangleMaterial.fill(1, a.length);
  g.mesh.clearFrom = clear ? a.length : a.length + b.length;
  return g;
}
const raised = (half: number, y: number) => floorTriangles(half).map((t) => t.map(([x, , z]) => [x, y, z])) as [Vec3, Vec3, Vec3][];
const key = rectangleLight('key', overhead(1, 1, 1.5, [0.6, 0]));

describe('skin', () => {
  const skin = (freePath: Vec3, more: Partial<Material> = {}) => matt(0.8, { specular: 0, subsurface: 1, freePath, ...more });
  it('in even light gives back what a matt surface of its albedo does: the profile integrates to it', () => {
    // a wide panel close by: irradiance hardly changes over millimetres
    const light = rectangleLight('key', overhead(6, 6, 2));
    const options = { to: 256 };
    const plain = shoot(geometryOf(floorTriangles(5), matt(0.8, { specular: 0 })), [light], options);
    const deep = shoot(geometryOf(floorTriangles(5), skin([0.003, 0.002, 0.001])), [light], options);
    for (let c = 0; c < 3; c++) expect(mean(deep, 0, c, 256) / mean(plain, 0, c, 256)).toBeCloseTo(1, 1);
    expect(Math.abs(mean(deep, 0, 0, 256) / mean(plain, 0, 0, 256) - 1)).toBeLessThan(0.03);
  });
  it('split, or shallow for a hand that waits, is as bright with a tenth of the noise, and is remembered apart', () => {
    const surface = skin([0.003, 0.002, 0.001]);
    const light = rectangleLight('key', overhead(1, 1, 2));
    const tracer = tracerOf(geometryOf(floorTriangles(5), surface));
    const job = { camera: above, width: N, height: N, tile: { x: 0, y: 0, width: N, height: N }, seed: 1, bounces: 1, lights: [light] };
    const deep = tracer.trace({ ...job, from: 0, to: 8 }),
      shallow = tracer.trace({ ...job, from: 0, to: 8, shallow: true });
    expect(mean(shallow, 0, 0, 8) / mean(deep, 0, 0, 8)).toBeCloseTo(1, 1);
    const spread = (r: TraceResult) => {
      const y = Array.from({ length: N * N }, (_, i) => r.films[i * 3]! / 8);
      const m = y.reduce((a, b) => a + b, 0) / y.length;
      return Math.sqrt(y.reduce((s, v) => s + (v - m) ** 2, 0) / y.length) / m;
    };
    // one exit by chance is noisy; split into an exit for each colour, the depth of a flat surface brings no noise at all
    const single = tracer.trace({ ...job, from: 0, to: 8, split: false });
    expect(spread(shallow)).toBeLessThan(spread(single) / 10);
    expect(spread(deep)).toBeLessThan(spread(single) / 10);
    // the same as from nothing, both ways round
    expect(tracer.trace({ ...job, from: 0, to: 8 }).films).toEqual(deep.films);
    expect(tracerOf(geometryOf(floorTriangles(5), surface)).trace({ ...job, from: 0, to: 8, shallow: true }).films).toEqual(shallow.films);
  });
  it('bleeds over the edge of a shadow, red furthest', () => {
    // a plate close above the floor throws a sharp shadow over x < 0; we look 4 mm inside it
    const blocker = raised(5, 0.02).map((t) => t.map(([x, y, z]) => [x - 5, y, z])) as [Vec3, Vec3, Vec3][];
    const sun = rectangleLight('key', overhead(0.01, 0.01, 3));
    const camera = cameraAt([0.6, 0.4, 0.001], [-0.004, 0, 0], 0.0008);
    const trace = (m: Material) => shoot(both(floorTriangles(5), m, blocker, matt(0)), [sun], { camera, to: 256 });
    const deep = trace(skin([0.0037, 0.0014, 0.0007]));
    expect(mean(trace(matt(0.8, { specular: 0 })), 0, 0, 256)).toBe(0);
    expect(mean(deep, 0, 0, 256)).toBeGreaterThan(0);
    expect(mean(deep, 0, 0, 256)).toBeGreaterThan(3 * mean(deep, 0, 2, 256));
  });
  it('split is what one exit by chance is in the mean: over a bent surface, with bounces, partly deep, colour by colour', () => {
    // a ridge, whose slopes see each other's exits across
    const ridge: [Vec3, Vec3, Vec3][] = [
      [
        [-1, 0, -1],
        [-1, 0, 1],
        [0, 0.6, 1],
      ],
      [
        [-1, 0, -1],
        [0, 0.6, 1],
        [0, 0.6, -1],
      ],
      [
        [0, 0.6, -1],
        [0, 0.6, 1],
        [1, 0, 1],
      ],
      [
        [0, 0.6, -1],
        [1, 0, 1],
        [1, 0, -1],
      ],
    ];
    const camera = cameraAt([0.2, 3, 0.3], [0, 0.55, 0], 0.02);
    const geometry = geometryOf(ridge, skin([0.03, 0.012, 0.006], { subsurface: 0.7, specular: 0.5, roughness: 0.4 }));
    const [split, single] = [true, false].map((way) => shoot(geometry, [key], { camera, to: 2048, bounces: 2, split: way }));
    for (let c = 0; c < 3; c++) {
      expect(mean(single!, 0, c, 2048)).toBeGreaterThan(0.01);
      expect(mean(split!, 0, c, 2048) / mean(single!, 0, c, 2048)).toBeCloseTo(1, 1.6);
    }
  });
  it('under layers of something else, as scalp under hair, is as it is without them, in every colour', () => {
    // black plates of a centimetre, one above the other; light and camera look in beneath them, from both sides
    const layers = Array.from({ length: 6 }, (_, k) => raised(0.005, 0.005 + k * 0.0007)).flat();
    const low = rectangleLight('key', { corner: [1, 0.2, -0.05], ex: [0, 0, 0.1], ey: [0, 0.1, 0] });
    const camera = cameraAt([-0.6, 0.15, 0.001], [0, 0, 0], 0.0008);
    const surface = skin([0.0037, 0.0014, 0.0007]);
    const bare = shoot(geometryOf(floorTriangles(5), surface), [low], { camera, to: 256 }),
      covered = shoot(both(floorTriangles(5), surface, layers, matt(0)), [low], { camera, to: 256 });
    for (let c = 0; c < 3; c++) expect(mean(covered, 0, c, 256) / mean(bare, 0, c, 256)).toBeCloseTo(1, 1);
  });
  it('lets light through a thin ear from behind, warm', () => {
    // a slab 3 mm thick, seen from above, lit from below only
    const top = raised(0.5, 0),
      bottom = raised(0.5, -0.003).map(([a, b, c]) => [a, c, b]) as [Vec3, Vec3, Vec3][];
    const below = rectangleLight('key', { corner: [-1, -1, 1], ex: [2, 0, 0], ey: [0, 0, -2] });
    const through = shoot(geometryOf([...top, ...bottom], skin([0.0037, 0.0014, 0.0007])), [below], { to: 256 });
    expect(mean(through, 0, 0, 256)).toBeGreaterThan(0.02);
    expect(mean(through, 0, 0, 256)).toBeGreaterThan(1.5 * mean(through, 0, 1, 256));
    expect(mean(shoot(geometryOf([...top, ...bottom], matt(0.8)), [below]))).toBe(0);
  });
});

describe('a mass of fibres', () => {
  it('lets half of its light pass to the other side, and loses none', () => {
    const fibres = matt(0.7, { specular: 0, fibres: 1 });
    const from = (m: Material, up: boolean) => {
      const { corner, ex, ey } = overhead(3, 3, 1.5);
      const light = up
        ? rectangleLight('k', { corner, ex, ey })
        : rectangleLight('k', { corner: [corner[0], -1.5, corner[2]], ex: ey, ey: ex });
      return mean(shoot(geometryOf(floorTriangles(2), m), [light], { to: 128 }), 0, 0, 128);
    };
    const front = from(fibres, true),
      back = from(fibres, false),
      solid = from(matt(0.7, { specular: 0 }), true);
    expect(back / front).toBeCloseTo(1, 1);
    expect((front + back) / solid).toBeCloseTo(1, 1);
  });
  it('shines along the strands: a highlight across them is longer than along', () => {
    const hair = matt(0, { fibres: 1, roughness: 0.4 });
    const hanging = roundNormals(geometryOf(sphereTriangles(0.5, 48), hair)),
      { positions } = hanging.mesh;
    // coordinates whose V runs along x: the strands lie, then
    const uvs = Float32Array.from({ length: (positions.length / 3) * 2 }, (_, i) => positions[(i >> 1) * 3 + (i % 2 ? 0 : 1)]!);
    const spread = (axis: 0 | 1, wall = hanging) => {
      // a small light to the side, and one above: strands hang, so the highlight runs round the ball, not down
      const camera = cameraAt([0, 0, 3], [0, 0, 0], 0.17);
      const { films } = shoot(wall, [rectangleLight('key', { corner: [-0.1, -0.1, 3], ex: [0, 0.2, 0], ey: [0.2, 0, 0] })], { camera });
      let sum = 0,
        moment = 0;
      for (let i = 0; i < N * N; i++) {
        const v = films[N * N * 3 + i * 3]!,
          d = (axis ? Math.floor(i / N) : i % N) - (N - 1) / 2;
        sum += v;
        moment += v * d * d;
      }
      return Math.sqrt(moment / sum);
    };
    expect(spread(0)).toBeGreaterThan(1.15 * spread(1));
    const lying = { ...hanging, uvs };
    expect(spread(1, lying)).toBeGreaterThan(1.15 * spread(0, lying));
  });
});

describe('coat and sheen', () => {
  it('a coat adds a sharp highlight over a rough base', () => {
    const at = (m: Material) =>
      mean(shoot(geometryOf(floorTriangles(5), m), [rectangleLight('k', overhead(0.2, 0.2, 2.1))], { to: 128 }), 1, 0, 128);
    expect(at(matt(0.5, { roughness: 0.9, coat: 1, coatRoughness: 0.1 }))).toBeGreaterThan(5 * at(matt(0.5, { roughness: 0.9 })));
  });
  it('sheen brightens what is seen at a grazing angle, and hardly what is seen straight', () => {
    const cloth = matt(0.2, { specular: 0, sheen: [0.6, 0.6, 0.6], sheenRoughness: 0.4 }),
      plain = matt(0.2, { specular: 0 });
    const ratio = (camera: TraceJob['camera'], light: SceneLight) =>
      mean(shoot(geometryOf(floorTriangles(5), cloth), [light], { camera })) /
      mean(shoot(geometryOf(floorTriangles(5), plain), [light], { camera }));
    // cloth shines back where light and view graze it from the same side: the half vector lies flat
    const beside = rectangleLight('k', overhead(1, 1, 0.8, [0, 4]));
    expect(ratio(cameraAt([0, 0.3, 3], [0, 0, 0], 0.01), beside)).toBeGreaterThan(1.5);
    expect(ratio(above, rectangleLight('k', overhead(1, 1, 2.5)))).toBeLessThan(1.2);
  });
});

/** A picture of width × height whose pixels are given. */
const picture = (width: number, height: number, pixel: (x: number, y: number) => number[], more: Partial<TextureUse> = {}): TextureUse => {
  const data = new Uint8Array(width * height * 4);
  for (let y = 0; y < height; y++) for (let x = 0; x < width; x++) data.set(pixel(x, y), (y * width + x) * 4);
  return { texture: { name: 'test', width, height, data }, wrapU: 'repeat', wrapV: 'repeat', transform: [1, 0, 0, 0, 1, 0], ...more };
};
/** The floor with texture coordinates 0…1 from its left and far edge. */
function pictured(m: Material, half = 5): SceneGeometry {
  const g = geometryOf(floorTriangles(half), m);
  const { positions } = g.mesh;
  g.uvs = new Float32Array((positions.length / 3) * 2);
  for (let v = 0; v < positions.length / 3; v++)
    g.uvs.set([(positions[v * 3]! + half) / (2 * half), (positions[v * 3 + 2]! + half) / (2 * half)], v * 2);
  return g;
}

describe('pictures on surfaces', () => {
  it('colour the base, decoded from sRGB: byte 188 is 0.5029', () => {
    const m = matt(1, { specular: 0, textures: { base: picture(2, 2, () => [188, 0, 255, 255]) } });
    const got = shoot(pictured(m), [key]),
      white = shoot(pictured(matt(1, { specular: 0 })), [key]);
    expect(mean(got, 0, 0) / mean(white, 0, 0)).toBeCloseTo(0.5029, 3);
    expect(mean(got, 0, 1)).toBe(0);
    expect(mean(got, 0, 2) / mean(white, 0, 2)).toBeCloseTo(1, 5);
  });
  it('are moved, turned and repeated as KHR_texture_transform says', () => {
    // left half red, right half green; moved by half a width they change sides
    const halves = (transform: TextureUse['transform']) =>
      matt(1, {
        specular: 0,
        textures: { base: picture(2, 1, (x) => (x ? [0, 255, 0, 255] : [255, 0, 0, 255]), { transform, wrapU: 'repeat' }) },
      });
    const camera = cameraAt([-2.5, 2, 0.001], [-2.5, 0, 0], 0.02);
    const red = (t: TextureUse['transform']) =>
      mean(shoot(pictured(halves(t)), [rectangleLight('k', overhead(9, 9, 3))], { camera }), 0, 0);
    expect(red([1, 0, 0, 0, 1, 0])).toBeGreaterThan(0.1);
    expect(red([1, 0, 0.5, 0, 1, 0])).toBeLessThan(0.01);
  });
  it('cut holes: an alpha mask lets camera and shadow rays pass', () => {
    const leaf = matt(1, { specular: 0, alphaMode: 'mask', textures: { base: picture(1, 1, () => [255, 255, 255, 0]) } });
    const floor = floorTriangles(5);
    const g = both(floor, matt(0.5, { specular: 0 }), raised(5, 0.1), leaf, true);
    g.uvs = new Float32Array((g.mesh.positions.length / 3) * 2);
    const bare = shoot(geometryOf(floor, matt(0.5, { specular: 0 })), [key]);
    expect(mean(shoot(g, [key])) / mean(bare)).toBeCloseTo(1, 2);
  });
  it('half-transparent surfaces take half of the light on its way down, and half of the view', () => {
    const veil = matt(0, { specular: 0, alphaMode: 'blend', alpha: 0.5 });
    const floor = floorTriangles(5);
    const g = both(floor, matt(0.5, { specular: 0 }), raised(5, 0.1), veil, true);
    const bare = shoot(geometryOf(floor, matt(0.5, { specular: 0 })), [key], { to: 256 });
    expect(mean(shoot(g, [key], { to: 256 }), 0, 0, 256) / mean(bare, 0, 0, 256)).toBeCloseTo(0.25, 2);
  });
  it('coloured glass tints shadow and view alike', () => {
    const glass = matt(1, { transmission: 1, base: [1, 0.5, 0.25] });
    const floor = floorTriangles(5);
    const bare = shoot(geometryOf(floor, matt(0.5, { specular: 0 })), [key], { to: 256 });
    const tinted = shoot(both(floor, matt(0.5, { specular: 0 }), raised(5, 0.1), glass, true), [key], { to: 256 });
    const ratio = (c: number) => mean(tinted, 0, c, 256) / mean(bare, 0, c, 256);
    expect(ratio(1) / ratio(0)).toBeCloseTo(0.25, 1);
    expect(ratio(2) / ratio(0)).toBeCloseTo(0.0625, 1);
  });
  it('bend normals: a slope to the right catches light from the right', () => {
    const sloped = (nx: number) =>
      matt(1, { specular: 0, textures: { normal: picture(1, 1, () => [Math.round((nx * 0.5 + 0.5) * 255), 128, 255, 255]) } });
    const right = rectangleLight('k', overhead(0.5, 0.5, 1, [3, 0]));
    const lit = (nx: number) => mean(shoot(pictured(sloped(nx)), [right]));
    expect(lit(0.6)).toBeGreaterThan(1.5 * lit(0));
    expect(lit(-0.6)).toBeLessThan(0.5 * lit(0));
  });
  it('glTF’s green points up the picture: towards smaller v', () => {
    const up = matt(1, { specular: 0, textures: { normal: picture(1, 1, () => [128, 230, 200, 255]) } });
    // v grows with z here, so up the picture is towards −z
    const at = (z: number) => mean(shoot(pictured(up), [rectangleLight('k', overhead(0.5, 0.5, 1, [0, z]))]));
    expect(at(-3)).toBeGreaterThan(2 * at(3));
  });
});

describe('surfaces that give light', () => {
  it('are as bright as they say, and light others as Lambert’s formula says', () => {
    const panel = material({ name: 'panel', base: [0, 0, 0], specular: 0, emission: [100, 50, 25] });
    const { corner, ex, ey } = overhead(1, 1, 1);
    const at = (u: number, v: number): Vec3 => [0, 1, 2].map((k) => corner[k]! + ex[k]! * u + ey[k]! * v) as Vec3;
    const square: [Vec3, Vec3, Vec3][] = [
      [at(0, 0), at(1, 0), at(1, 1)],
      [at(0, 0), at(1, 1), at(0, 1)],
    ];
    const floor = floorTriangles(5);
    const g = both(floor, matt(0.5, { specular: 0 }), square, panel);
    const glow: SceneLight = { id: 'glow', key: 'glow', kind: 'glow', camera: true };
    const camera = cameraAt([0, 0.8, 0.001], [0, 0, 0], 0.005);
    const E = rectangleIrradiance({ corner, ex, ey }, [0, 0, 0], [0, 1, 0]);
    for (const bounces of [0, 2]) {
      const r = shoot(g, [glow], { camera, bounces, to: 256 });
      // bounces add a little: the panel is black, the floor sees nothing else
      expect(mean(r, 0, 0, 256) / ((0.5 / Math.PI) * E * 100)).toBeCloseTo(1, 1);
      expect(mean(r, 0, 2, 256) / mean(r, 0, 0, 256)).toBeCloseTo(0.25, 3);
    }
    const seen = shoot(g, [glow], { camera: cameraAt([0, 0.5, 0.001], [0, 1, 0], 0.005) });
    expect(mean(seen)).toBeCloseTo(100, 3);
    const hidden = shoot(g, [{ ...glow, camera: false }], { camera: cameraAt([0, 0.5, 0.001], [0, 1, 0], 0.005) });
    expect(mean(hidden)).toBe(0);
    const [probe] = tracerOf(g).irradiance([0, 0, 0], [0, 1, 0], [glow], { samples: 4096, seed: 2, bounces: 0 });
    expect(lux(probe!.direct) / (E * (0.2126 * 100 + 0.7152 * 50 + 0.0722 * 25))).toBeCloseTo(1, 2);
  });
});

describe('one-sided and smooth', () => {
  it('a one-sided surface is not there from behind', () => {
    const under = cameraAt([0, -2, 0.001], [0, 0, 0], 0.02);
    const g = (twoSided: boolean) => geometryOf(floorTriangles(5), matt(0.5, { twoSided }));
    const from = rectangleLight('k', { corner: [-1, -3, 1], ex: [2, 0, 0], ey: [0, 0, -2] });
    expect(mean(shoot(g(true), [from], { camera: under }))).toBeGreaterThan(0);
    expect(mean(shoot(g(false), [from], { camera: under }))).toBe(0);
  });
  it('a coarse ball lit from the side has no facets of shadow at its terminator (Hanika 2021)', () => {
    // where the smooth normals see the light at a slant, nothing may be black
    const ball = roundNormals(geometryOf(sphereTriangles(0.5, 10), matt(0.8, { specular: 0 })));
    const camera = cameraAt([0, 0, 3], [0, 0, 0], 0.165);
    const side = rectangleLight('k', { corner: [4, -0.05, -0.05], ex: [0, 0, 0.1], ey: [0, 0.1, 0] });
    const { films } = shoot(ball, [side], { camera, to: 64 });
    const truth = (x: number) => Math.max(0, x);
    let black = 0,
      judged = 0;
    for (let i = 0; i < N * N; i++) {
      const x = ((((i % N) + 0.5) / N) * 2 - 1) * 0.99,
        y = ((Math.floor(i / N) + 0.5) / N) * 2 - 1;
      if (x * x + y * y > 0.7 || truth(x) < 0.15) continue;
      judged++;
      if (films[i * 3]! === 0) black++;
    }
    expect(judged).toBeGreaterThan(30);
    expect(black).toBe(0);
  });
  it('a coarse ball beside a small glowing one has no facets of shadow either, and as much light as from a ball of light', () => {
    const coarse = sphereTriangles(0.5, 10),
      lamp = sphereTriangles(0.02, 24).map((t) => t.map(([x, y, z]) => [x + 0.5, y + 0.1, z + 0.5] as Vec3) as [Vec3, Vec3, Vec3]);
    const ball = roundNormals(geometryOf(coarse, matt(0.8, { specular: 0 })));
    const both = geometryOf([...coarse, ...lamp], matt(0.8, { specular: 0 }));
    both.mesh.shading!.normals.set(ball.mesh.shading!.normals);
    both.objects.push('lamp');
    both.triangleObject.fill(1, coarse.length);
    const camera = cameraAt([0, 0, 3], [0, 0, 0], 0.165);
    const glowing = shoot(both, [{ id: 'o', key: 'o', kind: 'object', object: 'lamp' }], { camera, to: 64 });
    const source: SceneLight = { id: 'o', key: 'o', kind: 'source', shape: { kind: 'ball', centre: [0.5, 0.1, 0.5], radius: 0.02 } };
    const wanted = shoot(ball, [source], { camera, to: 64 });
    expect(mean(glowing, 0, 0, 64) / mean(wanted, 0, 0, 64)).toBeCloseTo(1, 1);
  });
  it('dome light on a ball with depth, fibres, coat and sheen never comes back stronger than it was', () => {
    for (const m of [
      matt(1, { subsurface: 1, freePath: [0.01, 0.01, 0.01] }),
      matt(1, { fibres: 1 }),
      matt(1, { sheen: [1, 1, 1], sheenRoughness: 0.5 }),
      matt(1, { coat: 1, coatRoughness: 0.3, sheen: [0.5, 0.5, 0.5], sheenRoughness: 0.3, roughness: 0.3 }),
    ]) {
      const ball = roundNormals(geometryOf(sphereTriangles(0.5, 24), m));
      const r = shoot(ball, [dome], { camera: cameraAt([0, 0, 3], [0, 0, 0], 0.1), bounces: 4, to: 128 });
      expect(mean(r, 0, 0, 128) + mean(r, 1, 0, 128)).toBeLessThan(1.03);
    }
  });
});
