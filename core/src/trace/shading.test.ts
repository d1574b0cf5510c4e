// Every step of the kernel's shading against its plain twin, path by path: the same random points, single against double precision.
import { readFileSync } from 'node:fs';
import { attachKernel, buildAccel, compileKernel, type RayKernel } from '@plinket/kernel';
import { describe, expect, it } from '@jest/globals';
import type { SceneGeometry, SceneLight } from '../scene/index.ts';
import { albedoTables, ggxPdf, half as microfacet, ggxSample } from '../surface/index.ts';
import { maskWords, type Vec3 } from '../math/index.ts';
import { cameraAt, floorTriangles, geometryOf, matt, overhead, rectangleLight, roundNormals, sphereTriangles } from '../testing/scenes.ts';
import { Batch, UNSCATTERED } from './batch.ts';
import { cameraRays } from './camera.ts';
import { lightSurfaces } from './direct.ts';
import { samplerOf, type SamplerJob } from './lights/index.ts';
import { Limits } from './limits.ts';
import { scatter } from './scatter.ts';
import { packMaterials, prepareMaterials, standOnSurfaces } from './surface.ts';
import { WantedFilms } from './wanted.ts';

const module = compileKernel(readFileSync(new URL('../../../kernel/build/kernel.wasm', import.meta.url)))!;

/** A ball on a floor, of four plain materials and one with a coat, with colours of their own at every vertex. */
function scene(): SceneGeometry {
  const floor = floorTriangles(3).map((t) => t.map(([x, y, z]) => [x, y - 0.5, z])) as [Vec3, Vec3, Vec3][];
  const g = geometryOf([...sphereTriangles(0.5, 20), ...floor], matt(0.7));
  const round = roundNormals(g).normals;
  const normals = g.normals.slice();
  normals.set(round.subarray(0, 800 * 9));
  const colours = Float32Array.from({ length: g.colours.length }, (_, i) => 0.5 + ((i * 7919) % 101) / 202);
  const triangleMaterial = Uint16Array.from({ length: 802 }, (_, i) => (i < 800 ? Math.floor(i / 80) % 5 : 3));
  const materials = [
    matt(0.7, { roughness: 0.93 }),
    matt(0.4, { roughness: 0.37 }),
    matt(0.9, { metallic: 1, roughness: 0.21 }),
    matt(0.6, { roughness: 0.66, metallic: 0.4, specular: 0.7 }),
    matt(0.5, { coat: 0.8, coatRoughness: 0.1 }),
  ];
  return {
    ...g,
    normals,
    colours,
    triangleMaterial,
    materials,
    mesh: { ...g.mesh, shading: { normals, colours, triangleMaterial } },
  };
}

const SIZE = 32;
/** The same paths twice: with the kernel's shader, and with what has none. */
function both() {
  const geometry = scene(),
    materials = prepareMaterials(geometry);
  const make = (shaded: boolean) => {
    const kernel: RayKernel = attachKernel(module, buildAccel(module, geometry.mesh, { capacity: 4096 }));
    const shader = shaded ? kernel.shader! : undefined;
    const { A, B } = albedoTables();
    shader?.setTables(maskWords(), A, B);
    shader?.setMaterials(packMaterials(materials));
    return { kernel, shader, batch: new Batch(4096, shader) };
  };
  return { geometry, materials, ours: make(true), twin: make(false) };
}
type Side = ReturnType<typeof both>['ours'];
type Both = ReturnType<typeof both>;
const FIELDS = ['pixel', 'cell', 'label', 'depth'] as const;

/** Camera rays over the ball and its surroundings, met and stood on; answers how many stand. */
function stood({ geometry, materials, ours, twin }: Both, seed = 3): number {
  const camera = cameraAt([0.3, 0.5, 2.5], [0, -0.1, 0], 0.35);
  const tile = { x: 0, y: 0, width: SIZE, height: SIZE };
  const counts = [ours, twin].map(({ kernel, shader, batch }) => {
    const n = cameraRays(batch, kernel.rays, camera, SIZE, SIZE, tile, 5, seed, shader);
    kernel.closest(n);
    return standOnSurfaces(batch, kernel, shader, geometry, materials, n, 5, 0, seed, 3);
  });
  expect(counts[0]).toBe(counts[1]);
  return counts[0]!;
}

/** Largest difference of a field over the first `count` paths, of those that `which` names. */
function apart(a: Side, b: Side, field: keyof Batch['fields'], count: number, which: (i: number) => boolean = () => true): number {
  let most = 0;
  for (let i = 0; i < count; i++) if (which(i)) most = Math.max(most, Math.abs(a.batch.fields[field][i]! - b.batch.fields[field][i]!));
  return most;
}

describe('camera rays', () => {
  it('are those of the twin, pixel for pixel', () => {
    const { ours, twin } = both();
    const camera = cameraAt([1, 2, 3], [0, 0.2, 0], 0.2);
    for (const { kernel, shader, batch } of [ours, twin])
      expect(cameraRays(batch, kernel.rays, camera, 80, 60, { x: 64, y: 40, width: 16, height: 20 }, 9, 77, shader)).toBe(320);
    for (let i = 0; i < 320 * 8; i++) expect(Math.abs(ours.kernel.rays[i]! - twin.kernel.rays[i]!)).toBeLessThan(2e-6);
    for (const field of FIELDS) expect(apart(ours, twin, field, 320)).toBe(0);
    expect(ours.batch.fields.label[7]).toBe(UNSCATTERED);
    expect(ours.batch.fields.tg[319]).toBe(1);
  });
});

describe('standing on surfaces', () => {
  it('finds the same points, normals and places where shadow rays start', () => {
    const s = both();
    const n = stood(s);
    expect(n).toBeGreaterThan(700);
    expect(n).toBeLessThan(SIZE * SIZE);
    for (const f of ['triangle', 'material', 'pixel', 'cell', 'extra', 'pass'] as const) expect(apart(s.ours, s.twin, f, n)).toBe(0);
    for (const f of ['px', 'py', 'pz', 'ox', 'oy', 'oz'] as const) expect(apart(s.ours, s.twin, f, n)).toBeLessThan(3e-6);
    for (const f of ['gx', 'gy', 'gz', 'nx', 'ny', 'nz', 'vx', 'vy', 'vz'] as const) expect(apart(s.ours, s.twin, f, n)).toBeLessThan(2e-5);
    expect(apart(s.ours, s.twin, 'gap', n)).toBeLessThan(1e-8);
    expect(apart(s.ours, s.twin, 'travelled', n)).toBeLessThan(2e-6);
  });
  it('with the same albedo, reflectance and chance of the sharp lobes, on every material', () => {
    const s = both();
    const n = stood(s);
    const { material, extra } = s.ours.batch.fields;
    expect(new Set(material.subarray(0, n))).toEqual(new Set([0, 1, 2, 3, 4]));
    for (let i = 0; i < n; i++) expect(extra[i]).toBe(material[i] === 4 ? 1 : 0);
    for (const f of ['dr', 'dg', 'db', 'fr', 'fg', 'fb', 'f90', 'cover', 'cover90', 'alpha', 'lost', 'chance'] as const)
      expect(apart(s.ours, s.twin, f, n)).toBeLessThan(1e-4);
    expect(apart(s.ours, s.twin, 'row', n)).toBe(0);
  });
  it('closes the ranks behind paths that met nothing or have bounced enough, and keeps their state', () => {
    const s = both();
    const camera = cameraAt([0.3, 0.5, 2.5], [0, -0.1, 0], 0.35);
    for (const { kernel, shader, batch } of [s.ours, s.twin]) {
      const n = cameraRays(batch, kernel.rays, camera, SIZE, SIZE, { x: 0, y: 0, width: SIZE, height: SIZE }, 1, 4, shader);
      kernel.closest(n);
      for (let i = 0; i < n; i++) {
        batch.fields.depth[i] = i % 5;
        batch.fields.tr[i] = i;
        batch.fields.density[i] = 2 * i;
        batch.fields.travelled[i] = 1;
        if (i % 7 === 0) kernel.hitIds[i * 4 + 3] = -1;
      }
    }
    const [a, b] = [s.ours, s.twin].map(({ kernel, shader, batch }) =>
      standOnSurfaces(batch, kernel, shader, s.geometry, s.materials, SIZE * SIZE, 1, 0, 4, 2),
    );
    expect(a).toBe(b);
    expect(a! % 4).not.toBe(0);
    const { tr, depth, density } = s.ours.batch.fields;
    for (let i = 0; i < a!; i++) {
      expect(depth[i]).toBeLessThanOrEqual(2);
      expect(tr[i]! % 7).not.toBe(0);
      expect(density[i]).toBe(2 * tr[i]!);
    }
    for (const f of [...FIELDS, 'tr', 'density', 'triangle'] as const) expect(apart(s.ours, s.twin, f, a!)).toBe(0);
    expect(apart(s.ours, s.twin, 'travelled', a!)).toBeLessThan(2e-6);
  });
  it('a normal that is none falls back on the triangle', () => {
    const g = scene();
    g.normals.fill(0);
    g.mesh.shading!.normals.fill(0);
    const kernel = attachKernel(module, buildAccel(module, g.mesh, { capacity: 4096 }));
    const shader = kernel.shader!,
      { A, B } = albedoTables();
    shader.setTables(maskWords(), A, B);
    shader.setMaterials(packMaterials(prepareMaterials(g)));
    kernel.rays.set([1.5, 2, 1.5, 0, 0, -1, 0, 1e30]);
    kernel.closest(1);
    shader.fields.depth[0] = 0;
    expect(shader.stand(1, 3)).toBe(1);
    expect([shader.fields.nx[0]! + 0, shader.fields.ny[0], shader.fields.nz[0]! + 0]).toEqual([0, 1, 0]);
  });
});

const lights: [string, SceneLight][] = [
  ['near and large, by solid angle', rectangleLight('near', overhead(1.2, 0.8, 0.9, [0.2, 0.3]))],
  ['far and small, by area', rectangleLight('far', overhead(0.3, 0.2, 4, [1, 1]))],
  ['on its edge, from behind most', rectangleLight('side', { corner: [0.8, -0.4, -0.5], ex: [0, 0.9, 0], ey: [0, 0, 1] })],
];

describe('samples of rectangles', () => {
  const job = (s: Side, geometry: SceneGeometry): SamplerJob => ({
    batch: s.batch,
    kernel: s.kernel,
    geometry,
    seed: 3,
    bounces: 3,
    shader: s.shader,
    limits: new Limits(geometry, 0, 0),
  });

  it.each(lights)('%s: the same directions, distances and densities', (_name, light) => {
    const s = both();
    const n = stood(s);
    for (const side of [s.ours, s.twin]) {
      const sampler = samplerOf(light, s.geometry)!;
      if (side.shader) sampler.introduce!(side.shader, 3);
      sampler.aim(job(side, s.geometry), n, 5, 0);
    }
    const a = s.ours.batch.fields,
      b = s.twin.batch.fields;
    let lit = 0;
    for (let i = 0; i < n; i++) {
      if (a.lw[i] === 0 && b.lw[i]! > 0) {
        // only what turns away from all of it is left out
        expect(a.nx[i]! * b.lx[i]! + a.ny[i]! * b.ly[i]! + a.nz[i]! * b.lz[i]!).toBeLessThanOrEqual(1e-6);
        expect(a.extra[i]).toBe(0);
        continue;
      }
      if (b.lw[i] === 0) continue;
      lit++;
      for (const f of ['lx', 'ly', 'lz', 'ld'] as const) expect(Math.abs(a[f][i]! - b[f][i]!)).toBeLessThan(3e-4);
      expect(Math.abs(a.lw[i]! / b.lw[i]! - 1)).toBeLessThan(2e-3);
    }
    expect(lit).toBeGreaterThan(40);
  });

  it.each(lights)('%s: what comes through the surfaces onto the film is the same', (_name, light) => {
    const s = both();
    const n = stood(s);
    const sums = [s.ours, s.twin].map((side) => {
      const pixels = SIZE * SIZE;
      const wanted = new WantedFilms([light], (l) => samplerOf(l, s.geometry), pixels, false, side.shader);
      const { sampler } = wanted.lights[0]!;
      const context = job(side, s.geometry);
      sampler.aim(context, n, 5, 0);
      side.batch.findRest(n, side.shader !== undefined);
      lightSurfaces(context, sampler, wanted.film(0), wanted.second, n, wanted.place(0));
      return wanted.film(0).slice();
    });
    let total = 0,
      differ = 0;
    for (let i = 0; i < sums[0]!.length; i++) {
      total += sums[1]![i]!;
      differ += Math.abs(sums[0]![i]! - sums[1]![i]!);
    }
    expect(total).toBeGreaterThan(0.3);
    // a shadow ray at an edge may fall on either side
    expect(differ / total).toBeLessThan(0.005);
  });

  it('rays that meet one of six rectangles bring the same to the same film', () => {
    const s = both();
    const n = stood(s);
    const six = Array.from({ length: 6 }, (_, i) => rectangleLight(`r${i}`, overhead(2.5, 2.5, 0.8 + 0.3 * i, [i * 0.5 - 1.2, 0.4])));
    six.splice(2, 0, { id: 'dome', key: 'dome', kind: 'dome' });
    const films = [s.ours, s.twin].map((side) => {
      const wanted = new WantedFilms(six, (l) => samplerOf(l, s.geometry), SIZE * SIZE, false, side.shader);
      const { batch, kernel, shader } = side;
      for (let i = 0; i < n; i++) {
        const { px, py, pz, gx, gy, gz, depth, density, label, tr, tg, tb } = batch.fields;
        const up: Vec3 = [Math.sin(i) * 0.6, 1, Math.cos(i * 1.3) * 0.6];
        const l = Math.hypot(...up);
        kernel.rays.set([px[i]! + gx[i]! * 1e-4, py[i]! + gy[i]! * 1e-4, pz[i]! + gz[i]! * 1e-4, 0, ...up.map((v) => v / l), 1e30], i * 8);
        depth[i] = 1 + (i % 5);
        density[i] = i % 11 === 0 ? 0 : 0.1 + (i % 3);
        label[i] = i % 2;
        tr[i] = 1;
        tg[i] = 0.5;
        tb[i] = 0.25;
      }
      kernel.closest(n);
      if (shader) shader.meetRectangles(n, wanted.size, wanted.second, 3);
      for (const { sampler, index } of wanted.lights)
        if (sampler.light.kind === 'rectangle') sampler.meet(job(side, s.geometry), wanted.film(index), wanted.second, n);
      return wanted.films.slice();
    });
    // diffuse and specular planes of each light
    const size = SIZE * SIZE * 3;
    for (let k = 0; k < 14; k++) {
      const [a, b] = films.map((f) => f.subarray(k * size, (k + 1) * size).reduce((x, v) => x + v, 0));
      if (k >> 1 === 2) expect([a, b]).toEqual([0, 0]);
      else {
        expect(b).toBeGreaterThan(1);
        expect(a! / b!).toBeCloseTo(1, 2);
      }
    }
  });
});

describe('bounces', () => {
  const bounced = (s: Both, n: number, lastDepth: number) =>
    [s.ours, s.twin].map(({ batch, kernel, shader }) => {
      batch.findRest(n, shader !== undefined);
      return scatter(batch, kernel.rays, shader, n, 5, 0, 3, lastDepth);
    });

  it('go the same way with the same weight, whichever lobe is drawn', () => {
    const s = both();
    const n = stood(s);
    const [a, b] = bounced(s, n, 3);
    expect(a).toBe(b);
    expect(a).toBeGreaterThan(n * 0.8);
    const labels = new Set<number>();
    for (let i = 0; i < a!; i++) {
      labels.add(s.ours.batch.fields.label[i]!);
      for (let k = 0; k < 7; k++) expect(Math.abs(s.ours.kernel.rays[i * 8 + k]! - s.twin.kernel.rays[i * 8 + k]!)).toBeLessThan(2e-3);
    }
    expect(labels).toEqual(new Set([0, 1]));
    for (const f of FIELDS) expect(apart(s.ours, s.twin, f, a!)).toBe(0);
    for (const f of ['tr', 'tg', 'tb'] as const) expect(apart(s.ours, s.twin, f, a!)).toBeLessThan(2e-3);
  });
  it('have the density that their lobe has there (Heitz 2018)', () => {
    const s = both();
    const n = stood(s);
    const { nx, ny, nz, vx, vy, vz, alpha, chance, pixel } = s.ours.batch.fields;
    const before = Array.from({ length: n }, (_, i) => ({
      n: [nx[i]!, ny[i]!, nz[i]!] as Vec3,
      v: [vx[i]!, vy[i]!, vz[i]!] as Vec3,
      alpha: alpha[i]!,
      chance: chance[i]!,
      extra: s.ours.batch.fields.extra[i]!,
    }));
    const at = new Map(Array.from({ length: n }, (_, i) => [pixel[i]!, i]));
    const [count] = bounced(s, n, 3);
    const dot = (a: Vec3, b: Vec3) => a[0] * b[0] + a[1] * b[1] + a[2] * b[2];
    let seen = 0;
    for (let i = 0; i < count!; i++) {
      const p = before[at.get(s.ours.batch.fields.pixel[i]!)!]!;
      if (p.extra) continue;
      const l = [4, 5, 6].map((k) => s.ours.kernel.rays[i * 8 + k]!) as Vec3;
      const density = s.ours.batch.fields.density[i]!;
      if (s.ours.batch.fields.label[i] === 0) expect(density / (((1 - p.chance) * dot(p.n, l)) / Math.PI)).toBeCloseTo(1, 3);
      else {
        const h = l.map((v, k) => v + p.v[k]!) as Vec3;
        const nh = dot(p.n, h) / Math.hypot(...h);
        expect(density / (p.chance * ggxPdf(nh, Math.max(1e-4, dot(p.n, p.v)), p.alpha))).toBeCloseTo(1, 1);
        seen++;
      }
    }
    expect(seen).toBeGreaterThan(100);
  });
  it('end at the last depth, and by roulette after two bounces, the same ones', () => {
    const s = both();
    const n = stood(s);
    for (const { batch } of [s.ours, s.twin])
      for (let i = 0; i < n; i++) {
        batch.fields.depth[i] = i % 4;
        batch.fields.tr[i] = batch.fields.tg[i] = batch.fields.tb[i] = 0.3;
      }
    const [a, b] = bounced(s, n, 3);
    expect(a).toBe(b);
    // a quarter was at its end, and of the half that roulette asked seven in ten end
    expect(a! / n).toBeGreaterThan(0.3);
    expect(a! / n).toBeLessThan(0.55);
    for (const f of FIELDS) expect(apart(s.ours, s.twin, f, a!)).toBe(0);
    expect(apart(s.ours, s.twin, 'tr', a!)).toBeLessThan(2e-3);
  });
});

describe('the half vector drawn', () => {
  it('is one that the view can see: never from below the facet (Heitz 2018)', () => {
    for (let i = 0; i < 500; i++) {
      const cos = 0.02 + (i % 49) / 50,
        sin = Math.sqrt(1 - cos * cos);
      ggxSample(sin, 0, cos, 0.05 + (i % 7) / 8, ((i * 37) % 101) / 101, ((i * 59) % 103) / 103);
      expect(Math.hypot(...microfacet)).toBeCloseTo(1, 9);
      expect(sin * microfacet[0]! + cos * microfacet[2]!).toBeGreaterThan(-1e-9);
    }
  });
});
