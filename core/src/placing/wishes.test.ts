import { readFileSync } from 'node:fs';
import { compileKernel } from '@plinket/kernel';
import { beforeAll, describe, expect, it } from '@jest/globals';
import { catchlightsOf, type Given } from '../face/index.ts';
import { add, dot, length, normalize, scale, sub, type Vec3 } from '../math/index.ts';
import {
  applyPatch,
  headInWorld,
  NO_HEAD,
  parseSetup,
  placeInWorld,
  rectangle,
  sun,
  tube,
  type PlacedLight,
  type Setup,
} from '../setup/index.ts';
import { panelLight } from '../testing/setups.ts';
import { portraitOf, standOn, type Portrait } from '../testing/portrait.ts';
import { recipeWords } from '../words/index.ts';
import {
  balanceTo,
  briefOf,
  BRIEFS,
  hoursApart,
  irradianceAtHead,
  isInFrame,
  mirrorPlace,
  nonNegative,
  place,
  placeShadow,
  recipeOf,
  recipeSchema,
} from './index.ts';

const file = (path: string) => readFileSync(new URL(`../../../${path}`, import.meta.url));
let keeper: Portrait;
beforeAll(async () => {
  const lights = {
    key: panelLight(),
    fill: panelLight({ name: 'Fill', role: 'fill', stops: -2, place: { azimuth: -40, elevation: 5, distance: 1.8, aim: [0, 0, 0] } }),
  };
  keeper = await portraitOf(file('demo/assets/keeper.glb'), compileKernel(file('kernel/build/kernel.wasm'))!, {}, lights);
  // a portrait's camera, in front of the face
  const head = headInWorld(keeper.setup.subjects.items['who']!);
  keeper.setup = {
    ...keeper.setup,
    camera: { ...keeper.setup.camera, position: add(head.origin, add(scale(head.z, 1.6), scale(head.x, 0.15))), target: head.origin },
  };
}, 120_000);
/** Random numbers that are the same every time. */
const random = (seed: number) => () => (seed = (Math.imul(seed, 1664525) + 1013904223) >>> 0) / 2 ** 32;

describe('non-negative least squares', () => {
  // Karush, Kuhn and Tucker: where x > 0 the gradient is 0, where x = 0 it does not point to less
  it('keeps the conditions of Karush, Kuhn and Tucker, and none of all sets of active columns does better', () => {
    const r = random(7);
    for (let turn = 0; turn < 40; turn++) {
      const rows = 3 + Math.floor(r() * 5),
        n = 1 + Math.floor(r() * 4);
      const A = Array.from({ length: rows }, () => Array.from({ length: n }, () => r() * 2 - 0.6)),
        b = Array.from({ length: rows }, () => r() * 2 - 0.5);
      const x = nonNegative(A, b);
      const rest = (v: readonly number[]) => A.map((row, i) => row.reduce((s, a, k) => s + a * v[k]!, 0) - b[i]!);
      const gradient = x.map((_, k) => rest(x).reduce((s, e, i) => s + e * A[i]![k]!, 0));
      x.forEach((v, k) => {
        expect(v).toBeGreaterThanOrEqual(0);
        if (v > 1e-9) expect(Math.abs(gradient[k]!)).toBeLessThan(1e-6);
        else expect(gradient[k]!).toBeGreaterThan(-1e-6);
      });
      // steps in any allowed direction only lose
      const error = (v: readonly number[]) => rest(v).reduce((s, e) => s + e * e, 0);
      for (let k = 0; k < 20; k++) expect(error(x.map((v) => Math.max(0, v + (r() - 0.5) * 0.1)))).toBeGreaterThanOrEqual(error(x) - 1e-12);
    }
  });
  it('finds levels for targets, and says which it cannot meet', () => {
    const given: Pick<Given, 'id' | 'gives'>[] = [
      { id: 'key', gives: { 'lit cheek': 0.2, 'shadow cheek': 0.02, background: 0.01 } },
      { id: 'fill', gives: { 'lit cheek': 0.02, 'shadow cheek': 0.05 } },
      { id: 'spot', gives: { background: 0.08 } },
    ];
    const found = balanceTo({ 'lit cheek': 1, 'shadow cheek': -1, background: -2 }, given);
    expect(found.reached).toBe(true);
    // by hand: key·0.2 + fill·0.02 = 0.36, key·0.02 + fill·0.05 = 0.09, so key 1.6875, fill 1.125; spot·0.08 = 0.045 − 0.016875
    expect(found.stops['key']).toBeCloseTo(Math.log2(1.6875), 1);
    expect(found.stops['fill']).toBeCloseTo(Math.log2(1.125), 1);
    expect(found.stops['spot']).toBeCloseTo(Math.log2(0.028125 / 0.08), 1);
    const both = balanceTo({ 'lit cheek': 3, background: -6 }, [given[0]!]);
    expect(both.reached).toBe(false);
    expect(both.there['lit cheek']!.off).toBeLessThan(-1);
    expect(balanceTo({ 'lit cheek': 1 }, given, new Set(['key'])).stops['key']).toBeUndefined();
  });
});

describe('the light of a shadow', () => {
  // constructed: a light, an edge in its way, and where the line through both meets the ground
  const light: Vec3 = [1.2, 3.1, 2.4];
  const fallen = (casts: Vec3): Vec3 => add(light, scale(sub(casts, light), light[1] / (light[1] - casts[1])));
  const pairs = (
    [
      [0.2, 1.1, 0.4],
      [-0.3, 0.8, 0.1],
    ] as Vec3[]
  ).map((casts) => ({ casts, falls: fallen(casts) }));
  it('is where two lines from shadow through edge meet', () => {
    const found = placeShadow(NO_HEAD, pairs, 2)!;
    const at = placeInWorld(NO_HEAD, { azimuth: found.azimuth, elevation: found.elevation, distance: found.distance!, aim: [0, 0, 0] });
    expect(length(sub(at, light))).toBeLessThan(1e-9);
    expect(found.miss).toBeLessThan(1e-9);
  });
  it('by one pair lies in its direction; without sense it says nothing', () => {
    const { azimuth, elevation } = placeShadow(NO_HEAD, [pairs[0]!], 2)!;
    const along = normalize(sub(light, pairs[0]!.casts));
    const at = placeInWorld(NO_HEAD, { azimuth, elevation, distance: 1, aim: [0, 0, 0] });
    expect(dot(sub(at, NO_HEAD.origin), along)).toBeCloseTo(1, 9);
    expect(placeShadow(NO_HEAD, [{ falls: [0, 0, 0], casts: [0, 0, 0] }], 2)).toBeUndefined();
    expect(placeShadow(NO_HEAD, [pairs[0]!, pairs[0]!], 2)).toBeUndefined();
    expect(
      placeShadow(
        NO_HEAD,
        pairs.map(({ falls, casts }) => ({ falls: casts, casts: falls })),
        2,
      ),
    ).toBeUndefined();
  });
});

describe('a mirrored light', () => {
  it('stands where the law of reflection has it: equal angles, one plane', () => {
    const point: Vec3 = [0.03, 1.63, 0.1],
      normal = normalize([0.4, 0.3, 0.8]),
      camera: Vec3 = [0.4, 1.5, 2];
    const { azimuth, elevation } = mirrorPlace(NO_HEAD, 1.4, point, normal, camera)!;
    const at = placeInWorld(NO_HEAD, { azimuth, elevation, distance: 1.4, aim: [0, 0, 0] });
    const l = normalize(sub(at, point)),
      v = normalize(sub(camera, point));
    expect(dot(l, normal)).toBeCloseTo(dot(v, normal), 9);
    expect(length(sub(normalize(add(l, v)), normal))).toBeLessThan(1e-9);
    expect(mirrorPlace(NO_HEAD, 1.4, point, scale(normal, -1), camera)).toBeUndefined();
  });
  it.each([10, 2, 12])('in the eyes at %s o’clock is seen there by Alhazen’s way back', (clock) => {
    const stand = standOn(keeper);
    const placed = place(stand, 'key', { kind: 'catchlight', clock, eyes: 'both' });
    expect(placed.text).toContain('Catchlight at');
    expect(placed.reached).toBe(true);
    const light = applyPatch(keeper.setup, placed.patch).lights.items['key'] as ReturnType<typeof panelLight>;
    const at = placeInWorld(headInWorld(keeper.setup.subjects.items['who']!), light.place);
    for (const c of catchlightsOf(keeper.map, 'key', at, stand.camera)) {
      expect(c.seen).toBe(true);
      expect(hoursApart(c.clock, clock)).toBeLessThan(0.5);
    }
  });
  it('is no wish where the surface is turned away; hours are counted round the clock', () => {
    const stand = standOn(keeper);
    expect(() => place(stand, 'key', { kind: 'highlight', point: [0, 1.6, 0], normal: [0, 0, -1] })).toThrow('turned away');
    expect(hoursApart(11.5, 0.5)).toBe(1);
    expect(hoursApart(3, 9)).toBe(6);
  });
});

describe('a source in the picture', () => {
  const inside = (light: ReturnType<typeof panelLight> | ReturnType<typeof tube>): Setup => ({
    ...keeper.setup,
    lights: { items: { lamp: { ...light, rank: 'a0', seen: { camera: true, mirror: true } } } },
  });
  it.each([
    ['a panel', () => rectangle({ width: 0.2, height: 0.3, place: { azimuth: 150, elevation: 8, distance: 0.8, aim: [0, 0, 0] } })],
    [
      'a tube held by its flux',
      () =>
        tube({
          length: 0.5,
          place: { azimuth: -140, elevation: 5, distance: 0.7, aim: [0, 0.1, 0] },
          output: { held: 'flux', value: 900, unit: 'lm', efficacy: 15 },
        }),
    ],
  ] as const)('%s is pulled out of it; solid angle and irradiance at the head stay within 2 %%', (_, make) => {
    const setup = inside(make());
    const stand = standOn(keeper, setup);
    expect(isInFrame(setup, setup.lights.items['lamp']!, stand.camera)).toBe(true);
    const placed = place(stand, 'lamp', { kind: 'out of frame' });
    const after = applyPatch(setup, placed.patch),
      lamp = after.lights.items['lamp']!;
    expect(isInFrame(after, lamp, stand.camera)).toBe(false);
    const head = headInWorld(after.subjects.items['who']!);
    const before = irradianceAtHead(head, stand.at(setup, 'lamp')!),
      now = irradianceAtHead(head, stand.at(after, 'lamp')!);
    // solid angle at the head: irradiance of luminance 1 on what faces it
    expect(now / before).toBeGreaterThan(0.98);
    expect(now / before).toBeLessThan(1.02);
    expect(parseSetup(after)).toBeTruthy();
  });
  it('that stands straight behind is hidden instead; one that is not in it is left alone', () => {
    const stand = standOn(keeper);
    const { origin } = stand.camera;
    const head = headInWorld(keeper.setup.subjects.items['who']!);
    const away = normalize(sub(head.origin, origin));
    const azimuth = (Math.atan2(dot(away, head.x), dot(away, head.z)) * 180) / Math.PI;
    const setup = inside(rectangle({ width: 0.2, height: 0.2, place: { azimuth, elevation: 0, distance: 0.8, aim: [0, 0, 0] } }));
    expect(place(standOn(keeper, setup), 'lamp', { kind: 'out of frame' }).patch).toEqual({
      lights: { items: { lamp: { seen: { camera: false } } } },
    });
    expect(() => place(stand, 'key', { kind: 'out of frame' })).toThrow('not in the picture');
  });
});

describe('an intention', () => {
  it.each(BRIEFS.map((b) => [b.name, b] as const))('%s begins with lights that do what it says', (_, brief) => {
    const stand = standOn(keeper);
    const placed = place(stand, '', { kind: 'brief', brief: brief.id });
    const after = parseSetup(applyPatch(keeper.setup, placed.patch));
    const names = Object.values(after.lights.items).map((l) => l.role);
    expect(names).toContain('key');
    expect(Object.keys(after.lights.items).some((id) => id === 'key' || id === 'fill')).toBe(false);
    const { reading } = standOn(keeper, after);
    const keys = new Set([brief.key.pattern, ...(brief.key.pattern === 'rim' ? ['rim', 'flat'] : [])]);
    // what this face does not let a source do is said
    if (!placed.text.includes('as near to that as this face lets it')) expect([...keys]).toContain(reading!.byKey[0]!.pattern);
    if (placed.reached && brief.ratio) expect(placed.text).toContain(`${brief.ratio.toFixed(1)} : 1`);
    expect(placed.text).toContain(brief.words);
  });
  it('keeps what is locked, and is refused where nothing has that name', () => {
    const setup = applyPatch(keeper.setup, { lights: { items: { fill: { locked: true } } } });
    const placed = place(standOn(keeper, setup), '', { kind: 'brief', brief: 'heroic' });
    expect(applyPatch(setup, placed.patch).lights.items['fill']).toEqual(setup.lights.items['fill']);
    expect(placed.text).toContain('1 that is locked stay');
    expect(() => place(standOn(keeper), '', { kind: 'brief', brief: 'nothing' })).toThrow('no intention');
  });
});

describe('an intention of one’s own', () => {
  it.each(['heroic', 'mysterious', 'glamorous'])('says the rig that “%s” began as it was said, and begins it again', (id) => {
    const brief = BRIEFS.find((b) => b.id === id)!;
    const begun = parseSetup(applyPatch(keeper.setup, place(standOn(keeper), '', { kind: 'brief', brief: id }).patch));
    const { light, left } = recipeOf(standOn(keeper, begun));
    expect(left).toEqual([]);
    expect(light.key).toMatchObject({ pattern: brief.key.pattern, kelvin: brief.key.kelvin });
    for (const part of ['key', 'fill', 'rim', 'kick'] as const) {
      const is = light[part],
        was = brief[part];
      if (!was || !is) {
        expect(is).toBe(was);
        continue;
      }
      expect(is.width).toBeCloseTo(was.width, 2);
      expect(is.height).toBeCloseTo(was.height, 2);
      // a rectangle near by gives a little less than one of no size would
      if (part !== 'fill' || !brief.ratio) expect(is.share / was.share).toBeGreaterThan(0.75);
      if (part !== 'fill' || !brief.ratio) expect(is.share / was.share).toBeLessThan(1.1);
      if ('azimuth' in was) expect((is as typeof was).azimuth).toBeCloseTo(was.azimuth, 0);
    }
    if (brief.ratio) expect(light.ratio! / brief.ratio).toBeCloseTo(1, 0);
    expect(light.eye === undefined).toBe(brief.eye === undefined);
    // kept and begun again it is nearly the same light
    const recipe = recipeSchema.parse({ schemaVersion: 1, name: 'My own', brief: recipeWords(light), light });
    const placed = place(standOn(keeper), '', { kind: 'brief', brief: briefOf('mine', recipe) });
    expect(placed.text).toContain('My own: ');
    const again = parseSetup(applyPatch(keeper.setup, placed.patch)).lights.items,
      first = begun.lights.items;
    expect(Object.keys(again)).toEqual(Object.keys(first));
    for (const key of Object.keys(first)) {
      const [a, b] = [again[key] as PlacedLight, first[key] as PlacedLight];
      if ('place' in b) expect(a.place.distance).toBeCloseTo(b.place.distance, 1);
      if (!key.startsWith('fill') && !key.startsWith('backdrop'))
        expect(Math.abs(Math.log2(a.output.value / b.output.value))).toBeLessThan(0.5);
    }
  });
  it('is not made of what draws nothing that has a name, and says so', () => {
    const dark = applyPatch(keeper.setup, { lights: { items: { key: { on: false }, fill: { on: false } } } });
    expect(() => recipeOf(standOn(keeper, dark))).toThrow('No key light');
    expect(recipeSchema.safeParse({ schemaVersion: 1, name: 'x', brief: '', light: {} }).success).toBe(false);
  });
});

describe('pairs and rims', () => {
  it('the other of a pair stands as far, as bright and as large on the other side', () => {
    const placed = place(standOn(keeper), 'key', { kind: 'pair', other: 'fill', across: 'sides' });
    const { key, fill } = applyPatch(keeper.setup, placed.patch).lights.items as unknown as Record<string, ReturnType<typeof panelLight>>;
    expect(fill!.place).toMatchObject({ azimuth: -key!.place.azimuth, elevation: key!.place.elevation, distance: key!.place.distance });
    expect([fill!.width, fill!.height, fill!.stops, fill!.output]).toEqual([key!.width, key!.height, key!.stops, key!.output]);
    const below = applyPatch(keeper.setup, place(standOn(keeper), 'key', { kind: 'pair', other: 'fill', across: 'heights' }).patch).lights
      .items['fill'] as typeof key;
    expect(below!.place.elevation).toBe(-key!.place.elevation);
  });
  it('a rim for the left of the picture stands behind, on that side, and keeps off the face', () => {
    const stand = standOn(keeper);
    const { right, forward } = stand.camera;
    const left = Array.from({ length: 5 }, (_, k) => normalize(add(scale(right, -1), [0, 0.1 * k - 0.2, 0])));
    const placed = place(stand, 'fill', { kind: 'rim', normals: left });
    expect(placed.reached).toBe(true);
    const { place: at } = applyPatch(keeper.setup, placed.patch).lights.items['fill'] as ReturnType<typeof panelLight>;
    expect(at.azimuth).toBeLessThan(-95);
    expect(() => place(stand, 'fill', { kind: 'rim', normals: [scale(forward, -1)] })).toThrow('silhouette');
  });
  it('the light of a shadow does not stand inside the head', () => {
    const { origin, x, z } = headInWorld(keeper.setup.subjects.items['who']!);
    const inside = add(origin, scale(z, 0.02));
    const pair = (aside: number) => {
      const casts = add(inside, add(scale(x, aside), scale(z, 0.1)));
      return { casts, falls: add(casts, sub(casts, inside)) };
    };
    expect(() => place(standOn(keeper), 'key', { kind: 'shadow', pairs: [pair(0.05), pair(-0.05)] })).toThrow('inside of it');
  });
  it('says why where a light cannot be placed', () => {
    const stand = standOn(
      keeper,
      applyPatch(keeper.setup, { lights: { items: { key: { locked: true }, day: { ...sun({ name: 'Day' }), rank: 'a5' } } } } as never),
    );
    expect(() => place(stand, 'key', { kind: 'ratio', value: 2 })).toThrow('Key is locked');
    expect(() => place(stand, 'day', { kind: 'pattern', pattern: 'loop', from: 'left' })).toThrow('no place about the head');
    expect(() => place(stand, 'gone', { kind: 'ratio', value: 2 })).toThrow('not there any more');
    expect(() => place(stand, '', { kind: 'targets', targets: { hair: 0 }, given: [] })).toThrow('No light is on');
  });
});
