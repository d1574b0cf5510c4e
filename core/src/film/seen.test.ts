import { readFileSync } from 'node:fs';
import { compileKernel, plainFilmMath } from '@plinket/kernel';
import { beforeAll, describe, expect, it } from '@jest/globals';
import { CELLS, type Seen } from '../face/index.ts';
import { add, scale } from '../math/index.ts';
import { findingsOf, place } from '../placing/index.ts';
import { colourDifference, labDifference } from '../photometry/index.ts';
import { compile, type Scene } from '../scene/index.ts';
import { applyPatch, headInWorld, STAGE_DEFAULTS, TARGETS, type Patch, type Setup } from '../setup/index.ts';
import { panelLight } from '../testing/setups.ts';
import { portraitOf, standOn, type Portrait } from '../testing/portrait.ts';
import { Tracer } from '../trace/index.ts';
import { findingWords, seenWords } from '../words/index.ts';
import { Film, Guides, PictureMaker, pixelsOf, seenOf, type FilmSource } from './index.ts';

const file = (path: string) => readFileSync(new URL(`../../../${path}`, import.meta.url));
const WIDTH = 56,
  HEIGHT = 70,
  SAMPLES = 4;
const math = plainFilmMath();
let keeper: Portrait;
let scene: Scene;
let films: FilmSource;
const lights = {
  key: panelLight({ place: { azimuth: 42, elevation: 34, distance: 1.5, aim: [0, 0, 0] } }),
  fill: panelLight({ name: 'Fill', role: 'fill', stops: -3, place: { azimuth: -40, elevation: 5, distance: 1.8, aim: [0, 0, 0] } }),
};
beforeAll(async () => {
  keeper = await portraitOf(file('demo/assets/keeper.glb'), compileKernel(file('kernel/build/kernel.wasm'))!, {}, lights, {
    stage: { ...STAGE_DEFAULTS, kind: 'none' },
  });
  const head = headInWorld(keeper.setup.subjects.items['who']!);
  const { camera } = keeper.setup;
  keeper.setup = {
    ...keeper.setup,
    camera: { ...camera, position: add(head.origin, scale(head.z, 1.4)), target: head.origin, focal: 70, aspect: WIDTH / HEIGHT, ev: 8.2 },
  };
  scene = compile(keeper.setup, () => keeper.asset);
  // the picture's parts are numbered as in the mesh that the map is of
  scene = { ...scene, geometry: keeper.scene.geometry };
  const tile = { x: 0, y: 0, width: WIDTH, height: HEIGHT };
  const result = new Tracer(keeper.kernel, keeper.scene.geometry).trace({
    camera: scene.camera,
    width: WIDTH,
    height: HEIGHT,
    tile,
    from: 0,
    to: SAMPLES,
    seed: 1,
    bounces: 1,
    lights: scene.lights,
    guides: true,
  });
  const guides = new Guides(WIDTH, HEIGHT);
  guides.add(tile, result.guides!, result, SAMPLES);
  const of = new Map(
    scene.lights.map(({ id }, i) => {
      const film = new Film(WIDTH, HEIGHT, { math });
      film.add(tile, result, i, SAMPLES);
      return [id, { film }] as const;
    }),
  );
  films = { width: WIDTH, height: HEIGHT, guides, shown: (id) => of.get(id) };
}, 120_000);

/** What the picture shows with something changed that costs no ray. */
function seen(change: Patch = {}): { seen: Seen; setup: Setup } {
  const setup = applyPatch(keeper.setup, change);
  const { linear } = new PictureMaker(math, { gobo: () => undefined, cube: () => undefined }).linear(films, { setup });
  return { seen: seenOf(films, linear, setup, scene, keeper.map, standOn(keeper, setup).reading?.features), setup };
}
const light = (id: string, change: Patch): Patch => ({ lights: { items: { [id]: change } } });

describe('what a picture shows of a face', () => {
  it('finds the places of the map again in the picture: the nose’s tip amid, the figure’s left on the right', () => {
    const pixels = pixelsOf(keeper.map, scene, films);
    const x = (c: number) => pixels[c]! % WIDTH;
    let left = 0,
      right = 0,
      n = 0;
    for (let c = 0; c < CELLS; c++) {
      if (pixels[c]! < 0 || !keeper.map.front[c]) continue;
      n++;
      if (keeper.map.local[c * 3]! > 0.1 && x(c) > WIDTH / 2) left++;
      if (keeper.map.local[c * 3]! > 0.1 && x(c) < WIDTH / 2 - 2) right++;
    }
    expect(n).toBeGreaterThan(1000);
    expect(left).toBeGreaterThan(200);
    expect(right).toBe(0);
  });
  it('light adds up: what the lights give to each part is what the part has', () => {
    const { parts, lights } = seen().seen;
    for (const t of TARGETS) {
      if (parts[t] === undefined || t === 'background') continue;
      const sum = lights.reduce((s, l) => s + (l.gives[t] ?? 0), 0);
      expect(Math.log2(sum / 0.18)).toBeCloseTo(parts[t], 4);
    }
    expect(parts['lit cheek']!).toBeGreaterThan(parts['shadow cheek']! + 1);
    // twice the level, twice what it gives
    const more = seen(light('key', { stops: 1 })).seen;
    const of = (s: Seen) => s.lights.find((l) => l.id === 'key')!.gives['lit cheek']!;
    expect(of(more) / of(seen().seen)).toBeCloseTo(2, 3);
  });
  it('clips more the longer it is exposed, and less the shorter', () => {
    const shares = [8.2, 6.2, 4.2].map((ev) => seen({ camera: { ev } }).seen.clipped);
    expect(shares[0]).toBeLessThan(0.02);
    expect(shares[2]).toBeGreaterThan(shares[1]!);
    expect(shares[2]).toBeGreaterThan(0.3);
    expect(seen({ camera: { ev: 16 } }).seen.crushed).toBeGreaterThan(0.5);
  });
  it('a lit figure before nothing is brighter than its ground; one in the dark is not', () => {
    const { separation, coverage } = seen().seen;
    expect(separation!).toBeGreaterThan(2);
    expect(coverage.right!).toBeGreaterThan(0.8);
    const dark = seen({ camera: { ev: 30 } }).seen;
    expect(Math.abs(dark.separation!)).toBeLessThan(0.2);
    expect(dark.coverage.right).toBe(0);
  });
  it('tells warm light from cool, and the same light from itself', () => {
    const { difference, warmer } = seen().seen.colour!;
    expect(Math.abs(warmer)).toBeLessThan(0.4);
    const warm = seen({ lights: { items: { key: { kelvin: 2800 }, fill: { kelvin: 12000 } } } }).seen.colour!;
    expect(warm.warmer).toBeGreaterThan(1);
    expect(warm.difference).toBeGreaterThan(difference + 10);
    const cool = seen({ lights: { items: { key: { kelvin: 12000 }, fill: { kelvin: 2800 } } } }).seen.colour!;
    expect(cool.warmer).toBeLessThan(-1);
    expect(seenWords(seen({ lights: { items: { key: { kelvin: 2800 }, fill: { kelvin: 12000 } } } }).seen).join(' ')).toContain(
      'warm light, cool shadow',
    );
  });
});

describe('findings', () => {
  const kinds = (change: Patch): string[] => {
    const s = seen(change);
    return findingsOf(standOn(keeper, s.setup), s.seen).map((f) => f.id);
  };
  it('a fair portrait has none that is grave', () => {
    expect(kinds({})).toEqual([]);
  });
  it.each([
    ['idle fill', light('fill', { stops: -12 })],
    ['clipped', { camera: { ev: 4.2 } }],
    ['flat ratio', light('fill', { stops: 0.25 })],
    ['strong colour key', light('key', { picked: { colour: [0.05, 0.1, 1], strength: 1 } })],
    ['doubled fill', light('fill', { stops: -0.5, place: { azimuth: -45, elevation: 40 } })],
    ['front', light('key', { place: { azimuth: 2, elevation: 8 } })],
  ] as const)('%s is found, told, and gone once it is mended', (id, change) => {
    const s = seen(change as Patch);
    const stand = standOn(keeper, s.setup);
    const found = findingsOf(stand, s.seen).find((f) => f.id === id)!;
    expect(found).toBeDefined();
    const words = findingWords(found, (l) => s.setup.lights.items[l]!.name);
    for (const text of Object.values(words)) expect(text).toMatch(/[a-z]/);
    // what it says holds: the measure is beyond its limit
    if (found.limit.at === 'most') expect(found.measure).toBeGreaterThan(found.limit.value);
    else expect(found.measure).toBeLessThan(found.limit.value);
    const mend = found.ask ? place(stand, found.light!, { kind: 'pattern', ...found.ask }).patch : found.mend!;
    const mended = applyPatch(s.setup, mend);
    const after = standOn(keeper, mended);
    if (id === 'clipped') {
      expect(seen({ camera: { ev: mended.camera.ev } }).seen.clipped).toBeLessThan(s.seen.clipped);
      return;
    }
    expect(
      findingsOf(after, s.seen)
        .map((f) => f.id)
        .filter((f) => f !== 'idle fill'),
    ).not.toContain(id);
    if (id === 'idle fill') expect(mended.lights.items['fill']!.on).toBe(false);
  });
  it('nothing is mended on what is locked', () => {
    const s = seen(light('fill', { stops: -12, locked: true }));
    expect(findingsOf(standOn(keeper, s.setup), s.seen).find((f) => f.kind === 'idle')!.mend).toBeUndefined();
  });
});

describe('colour difference', () => {
  // G. Sharma, W. Wu, E. N. Dalal, "The CIEDE2000 Color-Difference Formula", 2005, table 1, from memory: pairs of CIELAB and their difference
  it.each([
    [[50, 2.6772, -79.7751], [50, 0, -82.7485], 2.0425],
    [[50, 3.1571, -77.2803], [50, 0, -82.7485], 2.8615],
    [[50, 0, 0], [50, -1, 2], 2.3669],
    [[50, 2.49, -0.001], [50, -2.49, 0.0009], 7.1792],
    [[50, 2.5, 0], [73, 25, -18], 27.1492],
    [[60.2574, -34.0099, 36.2677], [60.4626, -34.1751, 39.4387], 1.2644],
    [[2.0776, 0.0795, -1.135], [0.9033, -0.0636, -0.5514], 0.9082],
  ] as const)('%j to %j is %f', (a, b, expected) => {
    expect(labDifference([...a], [...b])).toBeCloseTo(expected, 4);
  });
  it('of a colour to itself is nothing, of black to white a hundred', () => {
    expect(colourDifference([0.4, 0.3, 0.2], [0.4, 0.3, 0.2])).toBe(0);
    expect(colourDifference([0, 0, 0], [1, 1, 1])).toBeCloseTo(100, 1);
  });
  it('hot skin names the light that gives most of it, and by how many stops', () => {
    for (const id of ['key', 'fill']) {
      const { hot } = seen(light(id, { stops: 3, specular: 4 })).seen;
      expect(hot.share).toBeGreaterThan(0);
      expect(hot.light).toBe(id);
      expect(hot.stops).toBeGreaterThan(2);
    }
  });
});
