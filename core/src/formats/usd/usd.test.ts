// USD out and in: against a second reader (tinyusdz of the registry), against UsdLux's published formulas, and round.
import { readFileSync } from 'node:fs';
import { createRequire } from 'node:module';
import { afterAll, beforeAll, describe, expect, it } from '@jest/globals';
import { compile } from '../../scene/index.ts';
import { rectangleIrradiance } from '../../light/index.ts';
import {
  applyPatch,
  ball,
  collected,
  disk,
  dome,
  glow,
  lightLevel,
  lightLuminance,
  only,
  orderOf,
  parseSetup,
  rectangle,
  rectangleInWorld,
  setupHead,
  spot,
  sun,
  tube,
  type Light,
  type Setup,
} from '../../setup/index.ts';
import { addBallsPatch, addThingPatch } from '../../staging/index.ts';
import { setupWith } from '../../testing/setups.ts';
import { parseUsda, readUsda, usdLight, writeUsda, type UsdPrim } from './index.ts';

interface Native {
  loadAsLayerFromBinary(bytes: Uint8Array, name: string): boolean;
  loadFromBinary(bytes: Uint8Array, name: string): boolean;
  layerToString(): string;
  numMeshes(): number;
  error(): string;
}
let openNative: (text: string) => { native: Native; bytes: Uint8Array };
beforeAll(async () => {
  const require = createRequire(import.meta.url);
  // it is made for pages only
  Object.assign(process, { type: 'renderer' });
  Object.assign(globalThis, { window: globalThis });
  const { default: init } = (await import(require.resolve('tinyusdz/tinyusdz.js'))) as {
    default: (o: object) => Promise<{ TinyUSDZLoaderNative: new () => Native }>;
  };
  const module = await init({ wasmBinary: readFileSync(require.resolve('tinyusdz/tinyusdz.wasm')) });
  openNative = (text) => ({ native: new module.TinyUSDZLoaderNative(), bytes: new TextEncoder().encode(text) });
});

afterAll(() => {
  Reflect.deleteProperty(globalThis, 'window');
  Reflect.deleteProperty(process, 'type');
});

const place = { azimuth: 38.5, elevation: 31.25, distance: 1.62, aim: [0.02, -0.05, 0.03] as [number, number, number] };
const LIGHTS: Record<string, Light> = {
  key: rectangle({
    name: 'Key “A”',
    place,
    width: 0.6,
    height: 0.9,
    roll: 12,
    stops: 1 / 3,
    kelvin: 4300,
    gel: '',
    scrims: 1,
    reach: { lights: { stage: false }, casts: only('subjects', 'stage/backdrop') },
  }),
  fill: rectangle({
    name: 'Fill',
    place: { ...place, azimuth: -50 },
    output: { held: 'flux', value: 1200, unit: 'lm', efficacy: 15 },
    diffuse: 0.8,
  }),
  round: disk({
    name: 'Round',
    place: { ...place, azimuth: 120 },
    width: 0.4,
    height: 0.2,
    picked: { colour: [1, 0.4, 0.2], strength: 0.6 },
  }),
  ball: ball({ name: 'Ball', place: { ...place, elevation: 70 }, on: false }),
  tube: tube({ name: 'Tube', place: { ...place, azimuth: -120 }, roll: 30 }),
  spot: spot({ name: 'Spot', place: { ...place, azimuth: 160 }, angle: 24, shadow: { cast: true, density: 0.5, colour: [0.1, 0, 0] } }),
  sun: sun({ name: 'Sun', bearing: -35, elevation: 22 }),
  dome: dome({ name: 'Dome', bearing: 15 }),
  glow: glow({ stops: 1 }),
};
const base = setupWith(LIGHTS);
const setup: Setup = [addBallsPatch(base), addThingPatch(base, 'steps', 'abc')].reduce<Setup>((s, p) => applyPatch(s, p), {
  ...base,
  subjects: { items: {} },
  stage: { ...base.stage, kind: 'sweep' },
  camera: { ...base.camera, roll: 3, position: [0.4, 1.7, 3.1] },
});
const written = writeUsda(
  setup,
  compile(setup, () => undefined),
);
const plain = (s: Setup) => JSON.parse(JSON.stringify(s)) as Setup;
const bare = (s: Setup): Setup => ({ ...s, lights: collected({}) as Setup['lights'] });
/** The file without what only we know. */
const foreign = written.text.replace(/^ *custom .*plinket:.*\n/gm, '');
const primsOf = (text: string): UsdPrim[] => {
  const all = (prims: UsdPrim[]): UsdPrim[] => prims.flatMap((p) => [p, ...all(p.children)]);
  return all(parseUsda(text).prims);
};

describe('USD out', () => {
  it('is opened by a second reader, which finds every mesh and writes the same lights again', () => {
    const { native, bytes } = openNative(written.text);
    expect([native.loadFromBinary(bytes, 'a.usda'), native.error()]).toEqual([true, '']);
    expect(native.numMeshes()).toBe(primsOf(written.text).filter((p) => p.type === 'Mesh').length);
    const layer = openNative(written.text);
    expect(layer.native.loadAsLayerFromBinary(layer.bytes, 'a.usda')).toBe(true);
    const again = readUsda(layer.native.layerToString(), bare(setup));
    const back = applyPatch(bare(setup), again.patch);
    expect(orderOf(back.lights)).toEqual(orderOf(setup.lights));
    // it holds floats; what ours remembers of a light is text
    for (const id of orderOf(setup.lights))
      expect({ ...back.lights.items[id], rank: '' }).toEqual({ ...plain(setup).lights.items[id], rank: '' });
  });
  it('throws as much light as ours by UsdLux’s formula: intensity · 2^exposure, over the area where it is normalized', () => {
    const at: [number, number, number] = [0, 1.5, 0.1],
      up: [number, number, number] = [0, 0, 1];
    for (const id of ['key', 'fill']) {
      const light = setup.lights.items[id]! as Extract<Light, { kind: 'rectangle' }>;
      const said = usdLight(light);
      const luminance = (said.intensity * 2 ** said.exposure) / (said.normalize ? said.width! * said.height! : 1);
      const unit = rectangleIrradiance(rectangleInWorld(setupHead(setup), light), at, up);
      expect(unit).toBeGreaterThan(0);
      expect(luminance * unit).toBeCloseTo(lightLuminance(light) * lightLevel(light) * unit, 6);
    }
    expect([usdLight(setup.lights.items['key']!).normalize, usdLight(setup.lights.items['fill']!).normalize]).toEqual([false, true]);
    // a sun of so many lux: normalized, its intensity is its illuminance
    expect(usdLight(setup.lights.items['sun']!).intensity).toBeCloseTo(128000, 3);
  });
  it('tells what has no counterpart', () => {
    const report = written.report.join('\n');
    expect(report).toMatch(/Key “A”: scrims/);
    expect(report).toMatch(/Round: an ellipse.*; tint, picked colour/);
    expect(report).toMatch(/Glow: surfaces that glow/);
    expect(report).toMatch(/The look/);
    expect(report).not.toMatch(/^Fill/m);
  });
  it('stands in metres, Y up, everything in its place', () => {
    const { metadata, prims } = parseUsda(written.text);
    expect(metadata).toMatchObject({ metersPerUnit: 1, upAxis: 'Y', defaultPrim: 'Plinket' });
    expect(prims.map((p) => p.path)).toEqual(['/Plinket']);
    expect(primsOf(written.text).map((p) => p.path)).toEqual(
      expect.arrayContaining([
        '/Plinket/Camera',
        '/Plinket/Lights/key',
        '/Plinket/Stage/backdrop',
        ...orderOf(setup.props).map((id) => `/Plinket/Props/${id.replace(/-/g, '_2d_')}`),
      ]),
    );
    const wall = primsOf(written.text).find((p) => p.path === '/Plinket/Stage/backdrop')!;
    const points = wall.properties['points']!.value as [number, number, number][],
      corners = wall.properties['faceVertexIndices']!.value as number[];
    expect(corners.length % 3).toBe(0);
    expect(Math.max(...corners)).toBe(points.length - 1);
    expect(Math.min(...points.map((p) => p[1]))).toBeCloseTo(setup.stage.floor, 5);
  });
});

describe('USD round', () => {
  it('into the setup that it came from changes nothing', () => {
    expect(readUsda(written.text, setup)).toMatchObject({
      patch: {},
      lights: Object.keys(LIGHTS).length,
      camera: true,
      changed: [],
      left: [],
    });
  });
  it('into an empty one gives the same lights, links and camera', () => {
    const empty = {
      ...bare(setup),
      camera: {
        ...setup.camera,
        position: [0, 1, 2] as [number, number, number],
        target: [0, 1, 0] as [number, number, number],
        focal: 35,
        roll: 0,
        ev: 3,
      },
    };
    const back = applyPatch(empty, readUsda(written.text, empty).patch);
    expect(() => parseSetup(plain(back))).not.toThrow();
    for (const id of orderOf(setup.lights))
      expect({ ...back.lights.items[id], rank: '' }).toEqual({ ...plain(setup).lights.items[id], rank: '' });
    for (const key of ['focal', 'sensor', 'aspect', 'ev', 'roll'] as const) expect(back.camera[key]).toBeCloseTo(setup.camera[key], 3);
    back.camera.position.forEach((v, i) => expect(v).toBeCloseTo(setup.camera.position[i]!, 4));
    back.camera.target.forEach((v, i) => expect(v).toBeCloseTo(setup.camera.target[i]!, 4));
  });
  it('without what only we know the lights still stand where they stood, as large, as bright, with their links', () => {
    const empty = bare(setup);
    const { patch, left } = readUsda(foreign, empty);
    const back = applyPatch(empty, patch);
    expect(() => parseSetup(plain(back))).not.toThrow();
    expect(left).toEqual([]);
    const matrices = (s: Setup) =>
      Object.fromEntries(
        primsOf(
          writeUsda(
            s,
            compile(s, () => undefined),
          ).text,
        ).map((p) => [p.name, [p.properties['xformOp:transform']?.value ?? []].flat(2) as number[]]),
      );
    const were = matrices(setup),
      are = matrices(back);
    for (const id of ['key', 'fill', 'ball', 'tube', 'spot']) {
      const a = setup.lights.items[id]!,
        b = back.lights.items[id]!;
      expect(b.kind).toBe(a.kind);
      if (!('place' in a) || !('place' in b)) throw new Error('placed');
      for (const key of ['azimuth', 'elevation', 'distance'] as const) expect(b.place[key]).toBeCloseTo(a.place[key], 3);
      expect(lightLuminance(b) * lightLevel(b)).toBeCloseTo(lightLuminance(a) * lightLevel(a), 1);
      expect([b.on, b.kelvin]).toEqual([a.on, a.kelvin]);
      // the same frame in the world: written again it is the same matrix
      expect(were[id]).toHaveLength(16);
      are[id]!.forEach((v, i) => expect(v).toBeCloseTo(were[id]![i]!, 3));
    }
    expect(back.lights.items['key']!.reach).toEqual(setup.lights.items['key']!.reach);
    expect(back.lights.items['spot']).toMatchObject({ angle: 24, shadow: { cast: true, density: 1 } });
    expect(back.lights.items['sun']).toMatchObject({ bearing: -35, elevation: 22 });
  });
  it('what somebody else changed is taken, all else stays to the last digit', () => {
    const changed = written.text
      .replace(/(def RectLight "key"[\s\S]*?inputs:exposure = )[-\d.e]+/, '$1 1.5')
      .replace(/(def RectLight "fill"[\s\S]*?inputs:width = )[-\d.e]+/, '$12')
      .replace(/(def SphereLight "ball"[\s\S]*?inputs:colorTemperature = )[-\d.e]+/, '$13200')
      .replace('rel collection:lightLink:excludes = [</Plinket/Stage>]', 'rel collection:lightLink:excludes = [</Plinket/Props>]');
    const { patch } = readUsda(changed, setup);
    expect(patch).toEqual({
      lights: {
        items: {
          key: { stops: 2, reach: { lights: { stage: null, props: false } } },
          fill: { width: 2 },
          ball: { kelvin: 3200 },
        },
      },
    });
  });
});
