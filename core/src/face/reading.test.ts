import { readFileSync } from 'node:fs';
import { compileKernel } from '@plinket/kernel';
import { beforeAll, describe, expect, it } from '@jest/globals';
import { rectangleIrradiance } from '../light/index.ts';
import { add, DEGREE, dot, scale, sub, type Vec3 } from '../math/index.ts';
import { directionAt, fromHead } from '../setup/index.ts';
import { panelLight } from '../testing/setups.ts';
import { portraitOf, type Portrait } from '../testing/portrait.ts';
import { faceLightOf, Tracer } from '../trace/index.ts';
import {
  cast,
  farLight,
  featuresOf,
  lookUp,
  named,
  nearestPlace,
  FaceMeter,
  regionOfCell,
  scoresOf,
  CELLS,
  LIT,
  type FaceLight,
  type FaceMap,
  type Pattern,
  type ReadLight,
} from './index.ts';

const file = (path: string) => readFileSync(new URL(`../../../${path}`, import.meta.url));
const module = compileKernel(file('kernel/build/kernel.wasm'))!,
  glb = file('demo/assets/keeper.glb');

let keeper: Portrait;
const panel = panelLight({ place: { azimuth: 40, elevation: 35, distance: 1.2, aim: [0, 0, 0] } });
beforeAll(async () => {
  keeper = await portraitOf(glb, module, {}, { key: panel });
}, 120_000);

const shadesAt = (map: FaceMap, azimuth: number, elevation: number) => {
  const cells = lookUp(map, farLight('k', directionAt(map.face.frame, azimuth, elevation)));
  return featuresOf(map, cells, { azimuth, elevation });
};
const patternAt = (map: FaceMap, azimuth: number, elevation: number): Pattern | undefined =>
  named(scoresOf(shadesAt(map, azimuth, elevation)))?.pattern;

const place = (map: FaceMap, c: number): Vec3 => [map.points[c * 3]!, map.points[c * 3 + 1]!, map.points[c * 3 + 2]!];
const normal = (map: FaceMap, c: number): Vec3 => [map.normals[c * 3]!, map.normals[c * 3 + 1]!, map.normals[c * 3 + 2]!];

describe('the face map', () => {
  it('finds nose, eyes, mouth and cheeks where the landmarks are', () => {
    const { map } = keeper;
    const nearest = (p: Vec3) => {
      let best = -1,
        least = Infinity;
      for (let c = 0; c < CELLS; c++) {
        const d = [0, 1, 2].reduce((s, k) => s + (map.local[c * 3 + k]! - p[k]!) ** 2, 0);
        if (map.there[c] && d < least) {
          least = d;
          best = c;
        }
      }
      return { region: regionOfCell(map, best), off: Math.sqrt(least) };
    };
    const { points } = map.face;
    expect(nearest(points.noseTip)).toMatchObject({ region: 'nose' });
    expect(nearest(points.pupilL)).toMatchObject({ region: 'eyeL' });
    expect(nearest(points.pupilR)).toMatchObject({ region: 'eyeR' });
    expect(nearest(points.cheekL!)).toMatchObject({ region: 'cheekL' });
    // cells are at most a few millimetres apart there
    expect(nearest(points.noseTip).off * map.face.frame.headHeight).toBeLessThan(0.006);
  });
  it('places stand for the area of the surface: a cheek’s sum is that of its triangles', () => {
    const { map, scene } = keeper;
    let cells = 0;
    for (let c = 0; c < CELLS; c++) if (map.front[c]) cells += map.area[c]!;
    // the same part of the surface by its triangles: their middles fall on cells of the front
    const { positions, indices } = scene.geometry.mesh;
    const { frame } = map.face;
    let triangles = 0;
    for (let t = 0; t < indices.length; t += 3) {
      if (scene.geometry.triangleObject[t / 3] !== map.skin) continue;
      const [a, b, d] = [0, 1, 2].map((k) => [0, 1, 2].map((e) => positions[indices[t + k]! * 3 + e]!) as Vec3) as [Vec3, Vec3, Vec3];
      const middle = [0, 1, 2].map((e) => (a[e]! + b[e]! + d[e]!) / 3) as Vec3;
      const near = nearestCell(map, middle, 0.004 / frame.headHeight);
      if (near < 0 || !map.front[near]) continue;
      const u = sub(b, a),
        v = sub(d, a);
      const n = [u[1] * v[2] - u[2] * v[1], u[2] * v[0] - u[0] * v[2], u[0] * v[1] - u[1] * v[0]];
      triangles += Math.hypot(n[0]!, n[1]!, n[2]!) / 2;
    }
    expect(cells / triangles).toBeGreaterThan(0.85);
    expect(cells / triangles).toBeLessThan(1.15);
  });
  it('… and for what of it is seen from in front: together as much as rays count, straight from there', () => {
    const { map, scene, kernel } = keeper,
      { frame } = map.face,
      H = frame.headHeight;
    const step = 0.008 * H,
      rays: number[] = [];
    for (let x = -0.6 * H; x < 0.6 * H; x += step)
      for (let y = -0.6 * H; y < 0.6 * H; y += step) rays.push(...fromHead(frame, [x, y, 2 * H]), 0, ...scale(frame.z, -1), 3 * H);
    const hits = cast(kernel, Float32Array.from(rays)),
      ids = new Int32Array(hits.buffer);
    let seen = 0,
      shown = 0,
      lying = 0;
    for (let r = 0; r < rays.length / 8; r++) {
      const id = ids[r * 4 + 3]!;
      if (id < 0 || scene.geometry.triangleObject[id] !== map.skin) continue;
      const met = add(rays.slice(r * 8, r * 8 + 3) as Vec3, scale(frame.z, -hits[r * 4]!));
      if (map.front[nearestPlace(map, met)]) seen += step ** 2;
    }
    for (let c = 0; c < CELLS; c++) {
      shown += map.shown[c]!;
      if (map.front[c]) lying += map.area[c]!;
    }
    expect(shown / seen).toBeGreaterThan(0.95);
    expect(shown / seen).toBeLessThan(1.05);
    // much of the skin is turned away; and what something stands before takes up nothing
    expect(shown / lying).toBeLessThan(0.85);
    const behind = Array.from({ length: CELLS }, (_, c) => c).filter((c) => map.front[c] && dot(normal(map, c), frame.z) > 0.1);
    const ahead = behind.flatMap((c) => [...add(place(map, c), scale(normal(map, c), 5e-5)), 0, ...frame.z, H]);
    const before = new Int32Array(cast(kernel, Float32Array.from(ahead)).buffer);
    const hidden = behind.filter((_, i) => before[i * 4 + 3]! >= 0);
    expect(hidden.length).toBeGreaterThan(20);
    expect(hidden.filter((c) => map.shown[c]! > 0).length / hidden.length).toBeLessThan(0.1);
  });
});

function nearestCell(map: FaceMap, p: Vec3, reach: number): number {
  let best = -1,
    least = (reach * map.face.frame.headHeight) ** 2;
  for (let c = 0; c < CELLS; c++) {
    if (!map.there[c]) continue;
    const d = (map.points[c * 3]! - p[0]) ** 2 + (map.points[c * 3 + 1]! - p[1]) ** 2 + (map.points[c * 3 + 2]! - p[2]) ** 2;
    if (d < least) {
      least = d;
      best = c;
    }
  }
  return best;
}

describe('a light looked up', () => {
  it('brings what Lambert’s polygon formula says where nothing is in the way', () => {
    const { map, scene } = keeper;
    const light = scene.lights.find((l) => l.kind === 'rectangle')!;
    if (light.kind !== 'rectangle') throw new Error('no rectangle');
    const { open } = lookUp(map, faceLightOf(light, scene.geometry)!);
    let compared = 0;
    for (let c = 0; c < CELLS; c += 7) {
      const truth = map.there[c] ? rectangleIrradiance(light.rectangle, place(map, c), normal(map, c)) : 0;
      // whole above the horizon of the place
      if (truth < 0.08) continue;
      expect(Math.abs(open[c]! / truth - 1)).toBeLessThan(0.05);
      compared++;
    }
    expect(compared).toBeGreaterThan(300);
  });
  it('gives nothing to skin that it does not light, and no catchlight to eyes', () => {
    const { map, scene } = keeper;
    const of = (excludes: string[]) =>
      faceLightOf(
        { ...scene.lights.find((l) => l.kind === 'rectangle')!, reach: { lights: Object.fromEntries(excludes.map((r) => [r, false])) } },
        scene.geometry,
      )!;
    const dark = lookUp(map, of([scene.geometry.objects[map.skin]!]));
    expect(Math.max(...dark.open)).toBe(0);
    expect(Math.max(...lookUp(map, of(['stage'])).open)).toBeGreaterThan(0);
    expect([of(['subjects']).blind, of(['stage']).blind]).toEqual([true, false]);
    const cells = lookUp(map, of(['stage']));
    const clocks = (light: FaceLight) =>
      new FaceMeter(map).read([{ light, cells, level: 1, centre: [0.8, 2.2, 1.2] }], scene.camera).catchlights.length;
    expect(clocks(of(['stage']))).toBe(2);
    expect(clocks(of(['subjects']))).toBe(0);
  });
  it('leaves in light and in shadow what rays find, but for a few places at the edges', () => {
    const { map, scene, kernel } = keeper;
    const light = scene.lights.find((l) => l.kind === 'rectangle')!;
    const quick = lookUp(map, faceLightOf(light, scene.geometry)!);
    const cells = Array.from({ length: CELLS }, (_, c) => c).filter((c) => map.front[c]);
    const { open, lit } = new Tracer(kernel, scene.geometry).read({
      points: Float32Array.from(cells.flatMap((c) => place(map, c))),
      normals: Float32Array.from(cells.flatMap((c) => normal(map, c))),
      lights: [light],
      samples: 32,
      seed: 1,
    });
    let apart = 0,
      shadowed = 0;
    cells.forEach((c, i) => {
      if (!(open[i * 3]! > 0)) return;
      const truth = lit[i * 3]! / open[i * 3]!;
      if (truth < 0.5) shadowed++;
      if (truth < 0.5 !== quick.lit[c]! < 0.5 * quick.open[c]!) apart++;
    });
    expect(shadowed).toBeGreaterThan(200);
    // strands of hair hide single directions; brows and beard that lie on the skin are in the way all the same
    expect(apart / cells.length).toBeLessThan(0.035);
  });
  it('lights of a cheek that bulges evenly what a Lambertian ball’s terminator says: cos > 0 is lit, the rest is not', () => {
    const { map } = keeper;
    const direction = directionAt(map.face.frame, 30, 20);
    const { shades } = shadesAt(map, 30, 20);
    let right = 0,
      all = 0;
    for (let c = 0; c < CELLS; c++) {
      if (!map.front[c] || regionOfCell(map, c) !== 'forehead') continue;
      const cos = dot(normal(map, c), direction);
      if (Math.abs(cos) < 0.12) continue;
      all++;
      if ((shades[c] === LIT) === cos > 0) right++;
    }
    expect(right / all).toBeGreaterThan(0.97);
  });
});

describe('patterns', () => {
  // Common practice, no source: where the trade puts a light for each; how far round depends on the nose.
  it.each([
    [4, 8, 'flat'],
    [22, 36, 'loop'],
    [-22, 36, 'loop'],
    [50, 40, 'closed triangle'],
    [-52, 38, 'closed triangle'],
    [90, 10, 'split'],
    [-90, 10, 'split'],
    [0, 48, 'butterfly'],
    // the furthest place of its shadow lies at one corner: all of its end says where it leans
    [0, 62, 'butterfly'],
    [-4, 58, 'butterfly'],
    [5, -35, 'under'],
    [175, 15, 'rim'],
  ] as const)('at %d° round and %d° up the keeper shows: %s', (azimuth, elevation, pattern) => {
    expect(patternAt(keeper.map, azimuth, elevation)).toBe(pattern);
  });
  it('a higher light makes the nose’s shadow end lower, one further round further aside (common practice)', () => {
    const { map } = keeper;
    const end = (azimuth: number, elevation: number) => {
      const { nose } = shadesAt(map, azimuth, elevation);
      const rad = nose!.slant * DEGREE;
      return { down: Math.cos(rad) * nose!.reach, aside: Math.abs(Math.sin(rad)) * nose!.reach };
    };
    const slants = [25, 40, 55].map((e) => Math.abs(shadesAt(map, 22, e).nose!.slant));
    expect(slants).toEqual([...slants].sort((a, b) => b - a));
    const asides = [14, 22, 30].map((a) => end(a, 35).aside);
    expect(asides).toEqual([...asides].sort((a, b) => a - b));
  });
  it('a shadow whose owner the look-up does not know is the nose’s where it lies amid its shadow', () => {
    const { map } = keeper;
    const light = lookUp(map, farLight('k', directionAt(map.face.frame, 22, 36))),
      features = (by: Uint8Array) => featuresOf(map, { ...light, shadedBy: by }, { azimuth: 22, elevation: 36 });
    const { cells } = features(light.shadedBy).nose!;
    const amid = cells.filter((c) => cells.includes(c - 1) && cells.includes(c + 1));
    expect(amid.length).toBeGreaterThan(10);
    const some = amid.filter((_, i) => i % 3 === 0);
    const without = features(light.shadedBy.map((kind, c) => (some.includes(c) ? 0 : kind)));
    expect(without.nose!.cells).toHaveLength(cells.length);
    expect(without.gap).toBe(features(light.shadedBy).gap);
  });
  it('go with the head: turned by 20°, the same light about the head draws the same', async () => {
    const turned = await portraitOf(glb, module, { turn: 20 });
    for (const [azimuth, elevation] of [
      [22, 36],
      [50, 40],
      [90, 10],
    ] as const) {
      const a = shadesAt(keeper.map, azimuth, elevation),
        b = shadesAt(turned.map, azimuth, elevation);
      expect(named(scoresOf(b))?.pattern).toBe(named(scoresOf(a))?.pattern);
      expect(b.lit).toBeCloseTo(a.lit, 2);
    }
  }, 60_000);
});

describe('a reading', () => {
  const camera = { origin: [0, 1.6, 3] as Vec3, right: [1, 0, 0] as Vec3, up: [0, 1, 0] as Vec3 };
  const lightAt = (map: FaceMap, id: string, azimuth: number, elevation: number, level: number): ReadLight => {
    const light = farLight(id, directionAt(map.face.frame, azimuth, elevation));
    return { light, cells: lookUp(map, light), level };
  };
  it('has a ratio of (key + fill) : fill by definition, whose stops are its logarithm to base 2', () => {
    const { map } = keeper;
    const key = lightAt(map, 'key', 85, 10, 1),
      fill = lightAt(map, 'fill', -70, 5, 0.25);
    const { ratio } = new FaceMeter(map).read([key, fill], camera);
    const of = (id: string) => ratio!.lights.find((l) => l.id === id)!;
    expect(ratio!.stops).toBeCloseTo(Math.log2(ratio!.value), 12);
    expect(of('key').shadow).toBe(0);
    expect(ratio!.value).toBeCloseTo((of('key').lit + of('fill').lit) / of('fill').shadow, 0);
    // half the fill: one stop more, but for what it adds to the lit side
    const half = new FaceMeter(map).read([key, { ...fill, level: 0.125 }], camera).ratio!;
    expect(half.stops - ratio!.stops).toBeGreaterThan(0.8);
    expect(half.stops - ratio!.stops).toBeLessThanOrEqual(1.0001);
  });
  it('is linear in the levels: twice all of them changes no ratio, and no pattern', () => {
    const { map } = keeper;
    const lights = [lightAt(map, 'key', 50, 40, 3), lightAt(map, 'fill', -40, 0, 1)];
    const one = new FaceMeter(map).read(lights, camera),
      two = new FaceMeter(map).read(
        lights.map((l) => ({ ...l, level: 2 * l.level })),
        camera,
      );
    expect(two.ratio!.value).toBeCloseTo(one.ratio!.value, 6);
    expect(two.byAll.map((s) => s.pattern)).toEqual(one.byAll.map((s) => s.pattern));
    expect(two.ratio!.lights[0]!.lit).toBeCloseTo(2 * one.ratio!.lights[0]!.lit, 4);
  });
  it('names a clamshell only with a second light from below, and broad or short by the side that the camera sees', () => {
    const { map } = keeper;
    const top = lightAt(map, 'top', 0, 48, 1);
    expect(named(new FaceMeter(map).read([top], camera).byAll)?.pattern).toBe('butterfly');
    const both = new FaceMeter(map).read([top, lightAt(map, 'low', 0, -40, 0.3)], camera);
    expect(both.byAll.find((s) => s.pattern === 'clamshell')!.score).toBeGreaterThan(0.5);
    const { frame } = map.face;
    const from = (azimuth: number) => ({
      ...camera,
      origin: directionAt(frame, azimuth, 0).map((d, k) => frame.origin[k]! + 3 * d) as Vec3,
    });
    const key = [lightAt(map, 'key', 50, 40, 1)];
    expect(new FaceMeter(map).read(key, from(30)).side).toBe('broad');
    expect(new FaceMeter(map).read(key, from(-30)).side).toBe('short');
    expect(new FaceMeter(map).read(key, from(4)).side).toBeUndefined();
  });
  it('says nothing of a face that no light reaches', () => {
    const { map } = keeper;
    expect(new FaceMeter(map).read([lightAt(map, 'key', 40, 30, 0)], camera)).toMatchObject({ byKey: [], byAll: [], catchlights: [] });
  });
  it('finds catchlights on the side of the light: above for one above', () => {
    const { map } = keeper;
    const { frame } = map.face;
    const eye = {
      ...camera,
      origin: directionAt(frame, 0, 0).map((d, k) => frame.origin[k]! + 3 * d) as Vec3,
      right: frame.x,
      up: frame.y,
    };
    const clock = (azimuth: number, elevation: number) =>
      new FaceMeter(map)
        .read(
          [
            {
              ...lightAt(map, 'key', azimuth, elevation, 1),
              centre: directionAt(frame, azimuth, elevation).map((d, k) => frame.origin[k]! + 1.5 * d) as Vec3,
            },
          ],
          eye,
        )
        .catchlights.map((c) => c.clock);
    for (const c of clock(0, 40)) expect(Math.min(c, 12 - c)).toBeLessThan(0.8);
    // towards the figure’s left, which is right in this picture: common practice puts it at one or two
    for (const c of clock(40, 30)) expect(c).toBeGreaterThan(0.5);
    for (const c of clock(40, 30)) expect(c).toBeLessThan(3);
    for (const c of clock(-40, 30)) expect(c).toBeGreaterThan(9);
  });
});
