import { describe, expect, it } from '@jest/globals';
import { HEAD, panelLight, setupWith, subjectWith } from '../testing/setups.ts';
import { distance, sub, dot, normalize, cross, type Vec3 } from '../math/index.ts';
import { panelFlux } from '../photometry/index.ts';
import {
  applyPatch,
  describePatch,
  dome,
  fromHead,
  headInWorld,
  lightLuminance,
  migrateSetup,
  parseSetup,
  placeInWorld,
  placeOf,
  rectangleInWorld,
  SetupError,
  SCHEMA_VERSION,
  setupGains,
  toHead,
  wrapDegrees,
  type Light,
} from './index.ts';

const near = (a: Vec3, b: Vec3) => a.forEach((v, i) => expect(v).toBeCloseTo(b[i]!, 9));

describe('placing around the head', () => {
  const head = headInWorld(subjectWith());
  it('counts azimuth from the nose, positive to the subject’s left', () => {
    near(placeInWorld(head, { azimuth: 90, elevation: 0, distance: 2, aim: [0, 0, 0] }), [2, 1.6, 0.1]);
    near(placeInWorld(head, { azimuth: 0, elevation: 90, distance: 2, aim: [0, 0, 0] }), [0, 3.6, 0.1]);
  });
  it('follows the head when the figure turns', () => {
    const turned = headInWorld(subjectWith({ turn: 20 }));
    const p = placeInWorld(turned, { azimuth: 40, elevation: 0, distance: 1, aim: [0, 0, 0] });
    expect(placeOf(head, p).azimuth).not.toBeCloseTo(40, 1);
    expect(placeOf(turned, p).azimuth).toBeCloseTo(40, 9);
    expect((Math.atan2(turned.z[0], turned.z[2]) * 180) / Math.PI).toBeCloseTo(20, 9);
  });
  it('reads back the place it gave', () => {
    for (const [azimuth, elevation, d] of [
      [40, 35, 1.5],
      [-150, -20, 3],
      [179, 80, 0.4],
    ] as const) {
      const back = placeOf(head, placeInWorld(head, { azimuth, elevation, distance: d, aim: [0, 0, 0] }));
      expect([back.azimuth, back.elevation, back.distance].map((v) => +v.toFixed(6))).toEqual([azimuth, elevation, d]);
    }
  });
  it('scales and carries with the subject', () => {
    const big = headInWorld(subjectWith({ scale: 2, position: [1, 0, -1] }));
    near(big.origin, [1, 3.2, -0.8]);
    expect(big.headHeight).toBeCloseTo(0.46, 9);
    near(toHead(big, fromHead(big, [0.1, -0.2, 0.3])), [0.1, -0.2, 0.3]);
  });
  it('aims the panel: its middle shines straight at the head, upright', () => {
    const light = panelLight();
    const r = rectangleInWorld(head, light);
    const centre = [0, 1, 2].map((i) => r.corner[i]! + (r.ex[i]! + r.ey[i]!) / 2) as Vec3;
    near(centre, placeInWorld(head, light.place));
    const shines = normalize(cross(r.ex, r.ey));
    expect(dot(shines, normalize(sub(head.origin, centre)))).toBeCloseTo(1, 9);
    expect(r.ex[1]).toBeCloseTo(0, 9);
    expect(distance([0, 0, 0], r.ex)).toBeCloseTo(light.width, 9);
    expect(distance([0, 0, 0], r.ey)).toBeCloseTo(light.height, 9);
  });
  it('wraps angles', () => {
    expect([190, -190, 180, -180, 540].map(wrapDegrees)).toEqual([-170, 170, 180, 180, 180]);
  });
});

describe('balance', () => {
  it('halves with every stop down and is silent when off', () => {
    const gain = (more: object) => setupGains(setupWith({ key: panelLight(more) }))['key']!.diffuse[1];
    expect(gain({ stops: -1 }) / gain({})).toBeCloseTo(0.5, 12);
    expect(gain({ on: false })).toBe(0);
  });
  it('lets a soloed light be heard alone, even when it is off', () => {
    const gains = setupGains(setupWith({ a: panelLight({ on: false }), b: panelLight() }), ['a']);
    expect(gains['a']!.diffuse[0]).toBeGreaterThan(0);
    expect(gains['b']!.diffuse[0]).toBe(0);
  });
  it('holds total output or luminance, whichever the artist chose', () => {
    const flux = panelLight({ output: { held: 'flux', value: panelFlux(1000, 0.48) } });
    expect(lightLuminance(flux)).toBeCloseTo(1000, 9);
    expect(lightLuminance({ ...flux, width: 1.2 })).toBeCloseTo(500, 9);
    expect(lightLuminance(panelLight({ width: 5 }))).toBe(1000);
  });
});

const STEPS = {
  ...{ kind: 'steps', rank: 'a0', name: 'Steps', visible: true, position: [0, 0, 0], turn: 0, colour: [0.2, 0.2, 0.2], roughness: 0.7 },
  ...{ width: 1, tread: 0.3, rise: 0.17, count: 3 },
};
const withSubject = (more: object) => ({ subjects: { items: { s: { ...subjectWith(), ...more } } } });

describe('the document', () => {
  const refuse = (patch: object): SetupError => {
    try {
      parseSetup(applyPatch(setupWith(), patch));
    } catch (error) {
      if (error instanceof SetupError) return error;
    }
    throw new Error('it was taken');
  };
  it('takes a setup and gives back the same', () => expect(parseSetup(setupWith())).toEqual(setupWith()));
  it('takes steps, landmarks, a gaze and a part of a clip, and loses nothing of them', () => {
    const full = applyPatch(setupWith(), {
      stage: { smoothness: 0.5, gradient: { colour: [0, 0, 0.1], from: 0.2, to: 2 } },
      props: { items: { p: STEPS } },
      ...withSubject({
        landmarks: { crown: [0, 1.7, 0], earL: [0.07, 1.6, 0] },
        gaze: { target: [0, 1.6, 3], parts: ['eyes'] },
        pose: { clip: 'nods', time: 1, range: [0.5, 2] },
      }),
    });
    expect(parseSetup(JSON.parse(JSON.stringify(full)))).toEqual(full);
  });
  it.each([
    [{ lights: { items: { key: { stops: 'loud' } } } }, 'lights.items.key.stops'],
    [{ lights: { items: { key: { kelvin: 12 } } } }, 'lights.items.key.kelvin'],
    [{ lights: { items: { key: { place: { elevation: 91 } } } } }, 'lights.items.key.place.elevation'],
    [{ lights: { order: ['key'] } }, 'lights'],
    [{ lights: { items: { key: { rank: 'zz top' } } } }, 'lights.items.key.rank'],
    [{ camera: { position: [0, 1] } }, 'camera.position'],
    [{ stage: { kind: 'cave' } }, 'stage.kind'],
    [{ schemaVersion: 9 }, 'schemaVersion'],
    [{ surprise: 1 }, ''],
    [{ stage: { smoothness: 1.2 } }, 'stage.smoothness'],
    [{ stage: { gradient: { colour: [0, 0, 0], from: -1, to: 2 } } }, 'stage.gradient.from'],
    [{ stage: { gradient: { colour: [0, 0, 0], from: 1 } } }, 'stage.gradient.to'],
    [withSubject({ head: { ...HEAD, up: [0, 0, 2] } }), 'subjects.items.s.head.up'],
    [{ props: { items: { p: { ...STEPS, count: 2.5 } } } }, 'props.items.p.count'],
    [{ props: { items: { p: { ...STEPS, rise: 0 } } } }, 'props.items.p.rise'],
    [{ props: { items: { p: { ...STEPS, kind: 'ladder' } } } }, 'props.items.p.kind'],
    [withSubject({ landmarks: { tail: [0, 0, 0] } }), 'subjects.items.s.landmarks'],
    [withSubject({ landmarks: { crown: [0, 0] } }), 'subjects.items.s.landmarks.crown'],
    [withSubject({ gaze: { target: [0, 0, 0], parts: [] } }), 'subjects.items.s.gaze.parts'],
    [withSubject({ pose: { clip: 'nods', time: 0, range: [2, 1] } }), 'subjects.items.s.pose.range'],
  ])('refuses %j and names the field', (patch, field) => expect(refuse(patch).problems.map((p) => p.field)).toContain(field));
  it('says field and reason in one line', () => expect(refuse({ name: '' }).message).toMatch(/^name: /));
});

describe('a patch in words', () => {
  const setup = setupWith({ key: panelLight(), rim: panelLight({ name: 'Rim' }) });
  it.each([
    [{ lights: { items: { rim: { stops: 2 / 3 } } } }, 'rim: +⅔ stop'],
    [{ lights: { items: { key: { on: false } } } }, 'key: off'],
    [{ lights: { items: { key: { place: { azimuth: -20 } } } } }, 'key: round to −20°'],
    [{ lights: { items: { rim: null } } }, 'rim: removed'],
    [{ brief: 'she waits', camera: { ev: 9 } }, 'brief · exposure EV 9.0'],
    [{ lights: { items: { key: { kelvin: 4000, name: 'Window' } } } }, 'Key is now Window · window: 4000 K'],
  ])('%j is “%s”', (patch, words) => expect(describePatch(setup, patch)).toBe(words));
});

describe('documents of older versions', () => {
  /** As version 1 wrote them. */
  const old = () => {
    const { props: _, haze: __, flags: ___, ...rest } = setupWith({}, { subjects: { items: { s: subjectWith() } } });
    const { materials: ____, ...plain } = subjectWith();
    const { lens: _____, ...camera } = rest.camera;
    const common = { on: true, stops: 0, kelvin: 6500, diffuse: 1, specular: 1 };
    const key = {
      kind: 'rectangle',
      name: 'Key',
      ...common,
      place: { azimuth: 40, elevation: 35, distance: 1.5, aim: [0, 0, 0] },
      width: 0.6,
      height: 0.8,
      output: { held: 'luminance', value: 1000 },
    };
    const dome = { kind: 'dome', name: 'Dome', ...common, specular: 8, output: { held: 'luminance', value: 6 } };
    return {
      ...rest,
      schemaVersion: 1,
      camera,
      look: { view: 'neutral' },
      lights: { order: ['key', 'dome'], items: { key, dome } },
      subjects: { order: ['s'], items: { s: plain } },
    };
  };
  it('are brought up to date and lose nothing', () => {
    const now = parseSetup(old());
    expect(now.schemaVersion).toBe(SCHEMA_VERSION);
    expect(now.lights.items['key']).toEqual(panelLight());
    expect(now.lights.items['dome']).toMatchObject({
      role: 'dome',
      fill: { kind: 'even' },
      specular: 4,
      output: { value: 6, unit: 'cd/m²' },
    });
    expect(now).toMatchObject({
      look: { view: 'neutral', contrast: 1, smooth: 1 },
      haze: { density: 0 },
      camera: { lens: { fNumber: 0 } },
      flags: { items: {} },
    });
    expect(now.subjects.items['s']!.materials).toEqual({});
    expect(old()).toMatchObject({ name: now.name, stage: now.stage });
  });
  it('are judged as they are when they are broken: the field is still named', () => {
    expect(() => parseSetup({ ...old(), look: 'bright' })).toThrow('look:');
    expect(() => parseSetup({ ...old(), lights: { order: ['key'], items: { key: { kind: 'rectangle' } } } })).toThrow('lights.items.key.');
    expect(migrateSetup('nonsense')).toBe('nonsense');
  });
});

describe('the words of a patch', () => {
  const around = { ...dome({ name: 'All round' }), rank: 'a1' } as Light;
  const setup = setupWith({ key: panelLight(), around }, { subjects: { items: { s: subjectWith({ name: 'Goat' }) } } });
  it.each([
    [{ camera: { lens: { fNumber: 2, focus: 1.5 } } }, 'f/2, sharp at 1.50 m'],
    [{ haze: { density: 0.1 } }, 'haze'],
    [{ look: { grain: 0.5 } }, 'look'],
    [{ subjects: { items: { s: { materials: { skin: { roughness: 0.3 } } } } } }, 'Goat: material'],
    [{ lights: { items: { key: { volume: 2 } } } }, 'key: share in the haze × 2'],
    [{ subjects: { items: { s: { gaze: { target: [0, 1, 3], parts: ['eye L'] } } } } }, 'Goat: eyes at the camera'],
    [{ subjects: { items: { s: { landmarks: { crown: [0, 1, 0] } } } } }, 'Goat: landmarks'],
    [{ props: { items: { p: STEPS } } }, 'things on the stage'],
    [{ lights: { items: { key: { roll: 12 } } } }, 'key: rolled to 12'],
    [{ lights: { items: { key: { twoSided: true } } } }, 'key: sides'],
    [{ lights: { items: { key: { beam: { angle: 60 } } } } }, 'key: grid'],
    [{ lights: { items: { around: { fill: { kind: 'gradient' } } } } }, 'all round: dome'],
  ])('%j', (patch, words) => expect(describePatch(setup, patch)).toBe(words));
});
