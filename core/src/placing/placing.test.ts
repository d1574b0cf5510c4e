import { readFileSync } from 'node:fs';
import { compileKernel } from '@plinket/kernel';
import { beforeAll, describe, expect, it } from '@jest/globals';
import {
  CELLS,
  directionOfLight,
  farLight,
  FaceMeter,
  featuresOf,
  lookUp,
  named,
  PATTERNS,
  scoresOf,
  type FaceLight,
  type ReadLight,
} from '../face/index.ts';
import type { Vec3 } from '../math/index.ts';
import { compileLights } from '../scene/index.ts';
import { applyPatch, directionAt } from '../setup/index.ts';
import { placePatch } from '../staging/index.ts';
import { panelLight } from '../testing/setups.ts';
import { portraitOf, type Portrait } from '../testing/portrait.ts';
import { cellsOfJob, faceJob, faceLightOf, Tracer } from '../trace/index.ts';
import { emptyGrid, fillRow, nearestTo, patternAt, placePattern, placeRatio, scoresFrom } from './index.ts';

const file = (path: string) => readFileSync(new URL(`../../../${path}`, import.meta.url));
let keeper: Portrait;
beforeAll(async () => {
  keeper = await portraitOf(file('demo/assets/keeper.glb'), compileKernel(file('kernel/build/kernel.wasm'))!, {}, { key: panelLight() });
}, 120_000);

const camera = { origin: [0, 1.6, 3] as Vec3, right: [1, 0, 0] as Vec3, up: [0, 1, 0] as Vec3 };
const lightAt = (id: string, azimuth: number, elevation: number, level: number): ReadLight => {
  const light = farLight(id, directionAt(keeper.map.face.frame, azimuth, elevation));
  return { light, cells: lookUp(keeper.map, light), level };
};

describe('placing a pattern', () => {
  it.each([
    ['loop', 'left'],
    ['loop', 'right'],
    ['closed triangle', 'left'],
    ['split', 'right'],
    ['butterfly', 'left'],
    ['rim', 'left'],
  ] as const)('%s from the %s is what rays then find on the mesh, by the light as it is', (pattern, from) => {
    const { map, setup, scene, kernel } = keeper;
    const at = (azimuth: number, elevation: number) => compileLights(applyPatch(setup, placePatch('key', { azimuth, elevation })))[0]!;
    const asked = (azimuth: number, elevation: number): FaceLight => faceLightOf(at(azimuth, elevation), scene.geometry)!;
    const placed = placePattern(map, { pattern, from }, asked);
    expect(placed.reached).toBe(true);
    if (pattern !== 'butterfly') expect(Math.sign(placed.azimuth)).toBe(from === 'left' ? 1 : -1);
    const light = at(placed.azimuth, placed.elevation),
      of = asked(placed.azimuth, placed.elevation);
    const cells = cellsOfJob(map, new Tracer(kernel, scene.geometry).read(faceJob(map, [light], 24)), 0, lookUp(map, of));
    expect(named(scoresOf(featuresOf(map, cells, directionOfLight(map, of))))?.pattern).toBe(pattern);
  });
  it('with a margin it stands where light or head may turn by as much; one that cannot be had is said', () => {
    const { map, setup, scene } = keeper;
    const asked = (azimuth: number, elevation: number): FaceLight =>
      faceLightOf(compileLights(applyPatch(setup, placePatch('key', { azimuth, elevation })))[0]!, scene.geometry)!;
    const placed = placePattern(map, { pattern: 'loop', from: 'left', margin: 6 }, asked);
    expect(placed.reached).toBe(true);
    expect(placed.margin).toMatchObject({ degrees: 6, reached: true });
    for (let k = 0; k < 12; k++) {
      const turn = (Math.PI * k) / 6;
      const e = placed.elevation + 6 * Math.cos(turn),
        a = placed.azimuth + (6 * Math.sin(turn)) / Math.cos((e * Math.PI) / 180);
      expect(scoresFrom(map, a, e)[0]!.pattern).toBe('loop');
    }
    const wide = placePattern(map, { pattern: 'loop', from: 'left', margin: 30 }, asked);
    expect(wide.margin).toMatchObject({ degrees: 30, reached: false });
    expect(wide.margin!.becomes).not.toBe('loop');
  });
  it('says so where a light cannot do it, and what it draws instead', () => {
    const { map } = keeper;
    // a light that stays straight in front whatever it is told
    const stuck = farLight('key', directionAt(map.face.frame, 2, 6));
    const placed = placePattern(map, { pattern: 'split', from: 'left' }, () => stuck);
    expect(placed.reached).toBe(false);
    expect(placed.instead!.pattern).toBe('flat');
    expect(placed.score.reasons.some((r) => !r.holds)).toBe(true);
  });
  it('does not say that a pattern is drawn instead of itself where it is too faint to count', () => {
    const { map } = keeper;
    let tried = 0;
    for (let azimuth = 12; azimuth < 60 && tried < 2; azimuth += 2)
      for (const elevation of [0, 40, 50]) {
        const stuck = farLight('key', directionAt(map.face.frame, azimuth, elevation)),
          [first] = scoresOf(featuresOf(map, lookUp(map, stuck), directionOfLight(map, stuck)));
        const { pattern, score } = first!;
        if ((pattern !== 'loop' && pattern !== 'closed triangle') || score === 0 || score > 0.3) continue;
        tried++;
        const { reached, instead } = placePattern(map, { pattern, from: 'left' }, () => stuck);
        expect([reached, instead]).toEqual([false, undefined]);
      }
    expect(tried).toBeGreaterThan(0);
  });
});

describe('the nearest direction that draws another pattern', () => {
  const seek = (from: { azimuth: number; elevation: number }, pattern: 'closed triangle' | 'clamshell' | 'split') => {
    const tries = nearestTo(keeper.map, from, pattern);
    let count = 0;
    for (let step = tries.next(); ; step = tries.next(), count++) if (step.done) return { found: step.value, count };
  };
  it('draws it, and nothing nearer does', () => {
    const from = { azimuth: 90, elevation: 12 };
    expect(scoresFrom(keeper.map, 90, 12)[0]!.pattern).toBe('split');
    const { found, count } = seek(from, 'closed triangle');
    expect(scoresFrom(keeper.map, found!.azimuth, found!.elevation)[0]!.pattern).toBe('closed triangle');
    expect(count).toBeGreaterThan(0);
    const far = Math.hypot(found!.azimuth - from.azimuth, found!.elevation - from.elevation);
    for (let k = 0; k < 8; k++) {
      const turn = (k * Math.PI) / 4,
        r = far - 7;
      if (r > 0) expect(scoresFrom(keeper.map, 90 + r * Math.sin(turn), 12 + r * Math.cos(turn))[0]!.pattern).not.toBe('closed triangle');
    }
  });
  it('is none where one light cannot draw it', () => {
    expect(seek({ azimuth: 40, elevation: 30 }, 'clamshell').found).toBeUndefined();
  });
});

describe('all directions of a face', () => {
  it('are flat in front, split at the sides, dark from behind; and the same on a face’s two sides for the most part', () => {
    const grid = emptyGrid();
    const row = grid.elevations.indexOf(12);
    fillRow(keeper.map, grid, row);
    expect(patternAt(grid, 0, 12)).toBe('flat');
    expect(patternAt(grid, 90, 12)).toBe('split');
    expect(patternAt(grid, -90, 12)).toBe('split');
    expect(patternAt(grid, 180, 12)).toBe('rim');
    expect(patternAt(grid, 0, 90)).toBeUndefined();
    const n = grid.azimuths.length;
    let alike = 0;
    for (let i = 0; i < n; i++) if (grid.pattern[row * n + i] === grid.pattern[row * n + n - 1 - i]) alike++;
    expect(alike / n).toBeGreaterThan(0.85);
    expect(PATTERNS[grid.pattern[row * n + n / 2 - 0.5]!]).toBe('flat');
  });
});

describe('placing a ratio', () => {
  it.each([2, 3, 4, 8])('%s : 1 by the fill is what the face then reads', (wished) => {
    const { map } = keeper;
    const meter = new FaceMeter(map);
    const lights = [lightAt('key', 50, 35, 1), lightAt('fill', -45, 0, 0.3)];
    const { features } = meter.read(lights, camera);
    const { stops, value, reached } = placeRatio(map, features!, lights, 'fill', wished);
    expect(reached).toBe(true);
    expect(value).toBeCloseTo(wished, 1);
    const there = meter.read([lights[0]!, { ...lights[1]!, level: lights[1]!.level * 2 ** stops }], camera);
    expect(there.ratio!.value).toBeCloseTo(value, 5);
  });
  it('without anything that reaches the shadow side there is no lower ratio, and it says what there is', () => {
    const { map } = keeper;
    const lights = [lightAt('key', 50, 35, 1), lightAt('fill', -45, 0, 0.3)];
    const { features } = new FaceMeter(map).read(lights, camera);
    // a light from behind changes neither side
    const idle: ReadLight = {
      ...lights[1]!,
      light: farLight('idle', [0, 0, -1]),
      cells: { ...lights[1]!.cells, lit: new Float32Array(CELLS) },
    };
    const placed = placeRatio(map, features!, [...lights, idle], 'idle', 2);
    expect(placed.reached).toBe(false);
    expect(placed.between![0]).toBeCloseTo(placed.between![1], 6);
  });
});
