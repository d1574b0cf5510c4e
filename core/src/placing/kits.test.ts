// Kits under other heads. What is checked against is physics, not ours: where everything grows k times, irradiance from sources of the same luminance
// stays (solid angles do), and so does the picture.
import { createHash } from 'node:crypto';
import { readFileSync } from 'node:fs';
import { attachKernel, buildAccel, compileKernel } from '@plinket/kernel';
import { beforeAll, describe, expect, it } from '@jest/globals';
import { named } from '../face/index.ts';
import { dot, sub, type Vec3 } from '../math/index.ts';
import { compile, compileCamera, compileLights } from '../scene/index.ts';
import {
  applyPatch,
  ball,
  collected,
  disk,
  kitSchema,
  NO_HEAD,
  orderOf,
  parseSetup,
  partsOf,
  setupHead,
  spot,
  sun,
  tube,
  TURNTABLE_DEFAULTS,
  type Kit,
  type Light,
  type RectangleLight,
  type Setup,
} from '../setup/index.ts';
import { kitOf, putKit } from '../staging/index.ts';
import { panelLight, setupWith, subjectWith } from '../testing/setups.ts';
import { portraitOf, standOn, type Portrait } from '../testing/portrait.ts';
import { faceLightOf, Tracer } from '../trace/index.ts';
import { fitFill, fitPattern, fitWishes, irradianceAtHead, KEY_PATTERNS, place as placed } from './index.ts';

const file = (path: string) => readFileSync(new URL(`../../../${path}`, import.meta.url));
const place = (azimuth: number, elevation: number, distance = 1.4) => ({ azimuth, elevation, distance, aim: [0, -0.04, 0.02] as Vec3 });
const LIGHTS: Record<string, Light> = {
  key: panelLight({
    place: place(25, 36),
    gobo: { pattern: 'none', width: 0.4, distance: 0.3, turn: 0 },
    range: { near: 0, far: 5, soft: 0.1 },
    reach: { lights: { 'props/box': false, 'subjects/who/Hair': false }, casts: { stage: false } },
  }),
  fill: disk({ name: 'Fill', role: 'fill', place: place(-40, 5, 2), output: { held: 'flux', value: 900, unit: 'lm', efficacy: 15 } }),
  rim: spot({ name: 'Rim', role: 'rim', place: place(160, 25, 1.8), angle: 30 }),
  tube: tube({ name: 'Tube', place: place(-120, 10), twin: { pair: 'p', own: [] } }),
  ball: ball({ name: 'Ball', place: place(100, -20, 0.9), twin: { pair: 'p', own: [] } }),
  sun: sun({ name: 'Sun', bearing: 60, elevation: 30, on: false }),
};
const label = { name: 'Five about a head', brief: 'for tests', notes: '', tags: ['test'], shows: { key: 'key' } };
let from: Portrait, kit: Kit, left: string[];
const glb = file('demo/assets/keeper.glb'),
  module = compileKernel(file('kernel/build/kernel.wasm'))!;
beforeAll(async () => {
  from = await portraitOf(glb, module, {}, LIGHTS);
  const { camera } = from.setup;
  const setup = applyPatch(from.setup, {
    haze: { density: 0.02 },
    camera: {
      ev: 7,
      position: [0.3, 1.65, 2.6],
      target: [0, 1.55, 0.1],
      lens: { fNumber: 2.8, focus: 2.5 },
      aspect: 0.8,
      focal: camera.focal,
    },
    cameras: { items: { wide: { ...camera, name: 'Wide', rank: 'a0' } } },
    flags: {
      items: {
        cut: {
          kind: 'panel',
          rank: 'a0',
          name: 'Cut',
          on: true,
          place: place(20, 30, 0.8),
          roll: 0,
          width: 0.3,
          height: 0.2,
          depth: 0.1,
          density: 1,
          soft: 0,
          lights: ['key'],
        },
      },
    },
  });
  from = { ...from, setup };
  ({ kit, left } = kitOf(setup, ['rig', 'stage', 'cameras', 'look', 'targets'], label));
}, 120_000);

/** Key, fill and rim alone: a face that has a pattern. */
const quiet = ({ lights }: Setup): Setup['lights']['items'] => {
  const [key, fill, rim] = orderOf(lights).map((id) => lights.items[id]!);
  return { key: key!, fill: fill!, rim: rim! };
};
/** A setup in which the same figure stands, so many times as large, elsewhere, turned. */
const other = (scale: number, more: Partial<Setup> = {}): Setup => {
  const setup = setupWith({}, more);
  return {
    ...setup,
    stage: { ...setup.stage, floor: from.setup.stage.floor * scale },
    subjects: collected({ him: subjectWith({ head: from.asset.head, scale, position: [0, 0, 0], turn: 0 }) }),
  };
};
const put = (setup: Setup, how: 'replace' | 'merge' = 'replace', parts?: Parameters<typeof putKit>[2]['parts']): Setup =>
  applyPatch(setup, putKit(setup, kit, { how, ...(parts ? { parts } : {}) }).patch);
const irradiances = (setup: Setup, { scene }: Portrait): Record<string, number> =>
  Object.fromEntries(
    compileLights(setup).flatMap((l) => {
      const light = faceLightOf(l, scene.geometry);
      return light ? [[l.id, irradianceAtHead(setupHead(setup), light)]] : [];
    }),
  );

describe('the shelf that ships', () => {
  const shelf = (JSON.parse(file('demo/assets/kits.json').toString()) as unknown[]).map((k) => kitSchema.parse(k));
  const rigs = shelf.filter((k) => k.parts.rig);
  it('has every pattern by one, two and three lights, under names of their own, each with what was measured on three heads', () => {
    expect(rigs.length).toBeGreaterThanOrEqual(24);
    expect(new Set(shelf.map((k) => k.name)).size).toBe(shelf.length);
    // and a picture on each
    for (const k of shelf)
      for (const { on, picture } of k.shown)
        expect([
          k.name,
          on,
          createHash('sha256')
            .update(file(`demo/assets/kits/${picture}`))
            .digest('hex'),
        ]).toEqual([k.name, on, picture]);
    expect(new Set(shelf.map((k) => k.shown.map((s) => s.on).join()))).toEqual(new Set(['the keeper,the signaller,the tide-goat']));
    expect(shelf.filter((k) => k.parts.turntable).length).toBe(3);
    for (const pattern of KEY_PATTERNS)
      for (const [n, count] of ['one light', 'two lights', 'three lights'].entries()) {
        const kit = rigs.find((k) => k.tags.includes(pattern) && k.tags.includes(count));
        expect([pattern, count, kit && orderOf(kit.parts.rig!.lights).length]).toEqual([pattern, count, n + 1]);
      }
    for (const k of rigs.filter((r) => !r.parts.turntable)) expect(k.notes).toMatch(/the keeper: .*; the signaller: .*; the tide-goat: /);
  });
  it('fitted to another face shows there what it was kept for, pattern and ratio', async () => {
    const goat = await portraitOf(file('demo/assets/goat.glb'), module);
    const bare = { ...goat.setup, lights: { items: {} } };
    const k = rigs.find((r) => r.name === 'First lamp and wall')!;
    const { setup, ids } = putKit(bare, k, { how: 'replace' });
    const read = (s: Setup) => {
      const { reading } = standOn(goat, s);
      return { pattern: named(reading!.byKey)?.pattern, ratio: reading!.ratio!.value };
    };
    const plain = read(setup);
    expect(plain.pattern).not.toBe('loop');
    expect(Math.abs(Math.log2(plain.ratio / k.shows!.ratio!))).toBeGreaterThan(0.2);
    const wishes = fitWishes(setup, k, ids);
    expect(wishes.map(({ wish }) => wish)).toEqual([
      { kind: 'pattern', pattern: 'loop', from: 'right' },
      { kind: 'ratio', value: k.shows!.ratio },
    ]);
    const fitted = wishes.reduce((s, { id, wish }) => applyPatch(s, placed(standOn(goat, s), id, wish).patch), setup);
    const now = read(fitted);
    expect(now.pattern).toBe('loop');
    expect(now.ratio / k.shows!.ratio!).toBeCloseTo(1, 1);
    // a key that no place moves, and a face that is lit from one side alone, have nothing that could be brought back
    const low = shelf.find((r) => r.name === 'Low sun')!,
      one = shelf.find((r) => r.name === 'First lamp')!;
    expect([fitPattern(low), fitFill(low), fitFill(one)]).toEqual([undefined, undefined, undefined]);
  }, 60_000);
  it('shows on the keeper what it says', () => {
    for (const k of rigs.filter((r) => r.tags.includes('one light'))) {
      const setup = applyPatch(from.setup, putKit(from.setup, k, { how: 'replace', parts: ['rig'] }).patch);
      const { reading } = standOn(from, setup);
      expect([k.name, named(reading!.byKey)?.pattern]).toEqual([k.name, k.shows!.pattern]);
    }
  });
});

describe('a kit', () => {
  it('is a valid document, holds what was asked for, and says what stayed behind', () => {
    expect(kitSchema.safeParse(JSON.parse(JSON.stringify(kit))).success).toBe(true);
    expect(partsOf(kit)).toEqual(['rig', 'stage', 'cameras', 'look']);
    // a turntable has no lengths: it goes as it is, where it is wished for
    const turning = { ...from.setup, turntable: { ...TURNTABLE_DEFAULTS, frames: 48 } };
    const table = kitOf(turning, ['turntable'], label).kit;
    expect(partsOf(table)).toEqual(['turntable']);
    expect(applyPatch(from.setup, putKit(from.setup, table, { how: 'merge' }).patch)).toEqual(turning);
    expect(left).toEqual(['what Key does with props/box']);
    // rules that named this character hold for whoever comes
    expect(kit.parts.rig!.lights.items['key']).toMatchObject({ reach: { lights: { 'subjects/*/Hair': false }, casts: { stage: false } } });
    expect(kitSchema.safeParse({ ...kit, parts: {} }).success).toBe(false);
    expect(kitSchema.safeParse({ ...kit, schemaVersion: 3 }).success).toBe(false);
  });
  it('put back where it was taken from changes nothing that it holds', () => {
    const { patch } = putKit(from.setup, kit, { how: 'replace' });
    expect(Object.keys(patch).sort()).toEqual(['cameras', 'flags', 'lights']);
    const { lights, flags, cameras } = applyPatch(from.setup, patch);
    const bare = (of: Setup['lights'] | Setup['cameras'] | Setup['flags']) =>
      orderOf(of).map((id) => ({ ...of.items[id], rank: '', lights: [], twin: undefined, reach: undefined }));
    expect(bare(lights)).toEqual(bare(from.setup.lights));
    expect(bare(flags)).toEqual(bare(from.setup.flags));
    expect(bare(cameras)).toEqual(bare(from.setup.cameras));
  });
  it('stands under ids that no other window gives, and leaves alone what a hand has locked, with the flag before it', () => {
    const locked = applyPatch(from.setup, { lights: { items: { key: { locked: true } } } });
    const one = putKit(locked, kit, { how: 'replace', letters: 'abc' }),
      two = putKit(locked, kit, { how: 'replace', letters: 'xyz' });
    expect(one.key).toMatch(/^key-.*abc$/);
    // what two windows did at the same moment stands beside each other, whole
    const both = applyPatch(applyPatch(locked, one.patch), two.patch);
    expect(() => parseSetup(JSON.parse(JSON.stringify(both)))).not.toThrow();
    expect(orderOf(both.lights).length).toBe(13);
    expect(both.lights.items['key']).toEqual(locked.lights.items['key']);
    expect(both.flags.items['cut']).toEqual(locked.flags.items['cut']);
    const free = applyPatch(from.setup, putKit(from.setup, kit, { how: 'replace' }).patch);
    expect([free.lights.items['key'], free.flags.items['cut']]).toEqual([undefined, undefined]);
  });
  it.each([0.1, 0.6, 10])(
    'under a head %d times as tall sends it the same light, seen the same by the camera',
    async (k) => {
      const to = await portraitOf(glb, module, { scale: k }, LIGHTS);
      const under = other(k);
      const setup = put({ ...under, stage: { ...under.stage, floor: 0.17 } });
      expect(() => parseSetup(JSON.parse(JSON.stringify(setup)))).not.toThrow();
      const a = irradiances(from.setup, from),
        b = irradiances(setup, { ...to, setup });
      expect(Object.keys(b).length).toBe(6);
      // the same lights in the same order
      orderOf(setup.lights).forEach((id, i) => expect(b[id]! / a[orderOf(from.setup.lights)[i]!]!).toBeCloseTo(1, 3));
      // the same points of the head fall on the same points of the picture
      const seen = (s: Setup) => {
        const camera = compileCamera(s),
          head = setupHead(s);
        return [
          [0, 0, 0],
          [0.3, -0.5, 0.2],
          [-0.4, 0.6, 0],
        ].map((p) => {
          const d = sub(
            p.reduce<Vec3>((at, v, i) => at.map((o, c) => o + v * head.headHeight * [head.x, head.y, head.z][i]![c]!) as Vec3, head.origin),
            camera.origin,
          );
          return [dot(d, camera.right), dot(d, camera.up)].map((v) => v / dot(d, camera.forward) / camera.halfHeight);
        });
      };
      seen(setup)
        .flat()
        .forEach((v, i) => expect(v).toBeCloseTo(seen(from.setup).flat()[i]!, 4));
      // opening over distance is the blur's angle
      const blur = ({ camera: { lens, focal } }: Setup) => focal / lens.fNumber / lens.focus;
      expect(blur(setup) / blur(from.setup)).toBeCloseTo(1, 4);
      expect(setup.camera.ev).toBe(7);
      expect(setup.stage.width / from.setup.stage.width).toBeCloseTo(k, 6);
      // the floor is where what stands there says
      expect(setup.stage.floor).toBe(0.17);
      expect(Object.values(setup.flags.items)[0]!.width).toBeCloseTo(0.3 * k, 6);
      // as much is lost over as many heads
      expect(setup.haze.density * k).toBeCloseTo(from.setup.haze.density, 9);
      const { gobo, range } = setup.lights.items[orderOf(setup.lights)[0]!] as RectangleLight;
      expect([gobo.width, gobo.distance, range.far].map((v) => v / k)).toEqual([0.4, 0.3, 5].map((v) => expect.closeTo(v, 6)));
    },
    60_000,
  );
  it.each([0.1, 10])(
    'of a figure %d times as large gives the same picture and the same reading',
    async (k) => {
      const setup = put(other(k), 'replace', ['rig', 'stage', 'cameras']);
      const to = await portraitOf(glb, module, { scale: k }, quiet(setup), { stage: setup.stage, camera: setup.camera });
      const start = await portraitOf(glb, module, {}, quiet(from.setup), {
        stage: from.setup.stage,
        camera: from.setup.camera,
      });
      const read = (p: Portrait) => {
        const { reading } = standOn(p);
        return { pattern: named(reading!.byKey)?.pattern, ratio: Math.log2(reading!.ratio!.value), key: reading!.key?.id };
      };
      const was = read(start),
        is = read(to);
      expect({ ...is, ratio: 0 }).toEqual({ ...was, ratio: 0 });
      expect(was.pattern).toBeDefined();
      expect(Math.abs(is.ratio - was.ratio)).toBeLessThan(0.05);
      // of clay: how far light goes in skin is millimetres, however large a figure is
      const picture = ({ setup: shown, asset }: Portrait): number[] => {
        const scene = compile(shown, () => asset, undefined, { clay: true }),
          kernel = attachKernel(module, buildAccel(module, scene.geometry.mesh));
        const W = 24,
          H = 30;
        const { films, layers } = new Tracer(kernel, scene.geometry).trace({
          camera: scene.camera,
          lights: scene.lights,
          width: W,
          height: H,
          tile: { x: 0, y: 0, width: W, height: H },
          from: 0,
          to: 16,
          seed: 1,
          bounces: 1,
        });
        // means of blocks of six by six, over all lights
        const out = new Array<number>(20).fill(0);
        for (let f = 0; f < scene.lights.length * layers.length; f++)
          for (let p = 0; p < W * H; p++) {
            const b = Math.floor(Math.floor(p / W) / 6) * 4 + Math.floor((p % W) / 6);
            out[b] = out[b]! + films[(f * W * H + p) * 3 + 1]!;
          }
        return out;
      };
      const one = picture(start),
        two = picture(to);
      const mean = one.reduce((a, b) => a + b, 0) / one.length;
      one.forEach((v, i) => expect(Math.abs(two[i]! - v) / Math.max(v, 0.2 * mean)).toBeLessThan(0.12));
    },
    120_000,
  );
  it('beside lights that are there comes under ids of its own, brought to this exposure, its pairs still pairs', () => {
    const setup = { ...other(1), lights: collected({ key: panelLight() }), camera: { ...other(1).camera, ev: 9 } };
    const both = put(setup, 'merge', ['rig']);
    expect(() => parseSetup(JSON.parse(JSON.stringify(both)))).not.toThrow();
    expect(both.camera.ev).toBe(9);
    expect(both.lights.items['key']).toEqual(setup.lights.items['key']);
    const ids = orderOf(both.lights);
    expect(ids.length).toBe(7);
    const key = both.lights.items[ids[1]!]!;
    // two stops: four times as much arrives
    expect(key.output.value / LIGHTS['key']!.output.value).toBeCloseTo(4, 6);
    const pairs = ids.flatMap((id) => both.lights.items[id]!.twin?.pair ?? []);
    expect(pairs.length).toBe(2);
    expect(new Set(pairs).size).toBe(1);
    expect(Object.values(both.flags.items)[0]!.lights).toEqual([ids[1]]);
    // twice is two rigs
    expect(orderOf(put(both, 'merge', ['rig']).lights).length).toBe(13);
  });
  it('without a head goes about where one would stand, and what meets a limit is said', () => {
    const bare = setupWith({});
    expect(setupHead(bare)).toEqual(NO_HEAD);
    expect(orderOf(put(bare).lights).length).toBe(6);
    const { short } = putKit(other(400), kit, { how: 'replace' });
    expect(short).toContain('the size of Key');
    expect(short).toContain('the distance of Key');
  });
});
