import { describe, expect, it } from '@jest/globals';
import { applyPatch, dome, glowing, headInWorld, type Setup } from '../setup/index.ts';
import { HEAD, panelLight, setupWith } from '../testing/setups.ts';
import { buildSweep, smoothNormals } from '../geometry/index.ts';
import { material } from '../surface/index.ts';
import { pictureHalf } from '../trace/index.ts';
import { circleOfConfusion, compile, compileCamera, MissingAssetError, type CharacterAsset } from './index.ts';

const SHA = 'b'.repeat(64);
const part = (name: string, clear: boolean) => ({
  name,
  positions: Float32Array.from([0, 0, 0, 1, 0, 0, 0, 1, 0]),
  normals: Float32Array.from([0, 0, 1, 0, 0, 1, 0, 0, 1]),
  indices: Uint32Array.from([0, 1, 2]),
  material: material({ name, base: [1, 1, 1], roughness: 0.5, transmission: clear ? 1 : 0 }),
});
const asset: CharacterAsset = {
  name: 'C',
  parts: [part('cornea', true), part('skin', false)],
  bounds: { min: [0, 0, 0], max: [1, 1, 0] },
  triangles: 2,
  head: HEAD,
  landmarks: {},
  warnings: [],
};
const withSubject: Setup = setupWith(
  { key: panelLight(), rim: panelLight({ name: 'Rim', place: { azimuth: -150, elevation: 30, distance: 2, aim: [0, 0, 0] } }) },
  {
    subjects: {
      items: {
        s: { rank: 'a0', name: 'S', asset: SHA, visible: true, position: [0, 1, 0], turn: 90, scale: 2, head: HEAD, materials: {} },
      },
    },
  },
);
const get = (sha: string) => (sha === SHA ? asset : undefined);
const scene = compile(withSubject, get);
const again = (patch: object) => compile(applyPatch(withSubject, patch), get, scene);
const changed = (patch: object) => {
  const next = again(patch);
  return {
    geometry: next.geometry !== scene.geometry,
    camera: next.camera.key !== scene.camera.key,
    lights: next.lights.filter((l, i) => l.key !== scene.lights[i]?.key).map((l) => l.id),
  };
};

describe('compile', () => {
  it('puts clear parts last and turns, scales and moves the subject', () => {
    const { mesh, materials, triangleMaterial } = scene.geometry;
    expect(materials[triangleMaterial[mesh.clearFrom!]!]!.name).toBe('cornea');
    expect(mesh.clearFrom).toBe(mesh.indices.length / 3 - 1);
    const skin = mesh.indices.slice(-6, -3);
    const at = (v: number) => [...mesh.positions.slice(v * 3, v * 3 + 3)].map((x) => +x.toFixed(6) + 0);
    // x = 1 turned by 90° to the left points to −z, twice as large, one metre up
    expect(at(skin[1]!)).toEqual([0, 1, -2]);
    expect(at(skin[2]!)).toEqual([0, 3, 0]);
  });
  it.each<[string, object, ReturnType<typeof changed>]>([
    [
      'level, colour, off and shares cost no ray',
      {
        lights: { items: { key: { stops: -1, kelvin: 3000, on: false, specular: 0, output: { value: 9 } } } },
        look: { view: 'neutral' },
        camera: { ev: 9 },
      },
      { geometry: false, camera: false, lights: [] },
    ],
    [
      'a moved light costs its own film',
      { lights: { items: { rim: { place: { azimuth: 20 } } } } },
      { geometry: false, camera: false, lights: ['rim'] },
    ],
    ['a resized light too', { lights: { items: { key: { width: 2 } } } }, { geometry: false, camera: false, lights: ['key'] }],
    ['a moved camera costs all films, not the hierarchy', { camera: { focal: 85 } }, { geometry: false, camera: true, lights: [] }],
    [
      'a turned head takes the lights with it',
      { subjects: { items: { s: { turn: 80 } } } },
      { geometry: true, camera: false, lights: ['key', 'rim'] },
    ],
    [
      'a corrected head moves lights only',
      { subjects: { items: { s: { head: { origin: [0, 1.7, 0] } } } } },
      { geometry: false, camera: false, lights: ['key', 'rim'] },
    ],
    ['another stage costs geometry', { stage: { back: 3 } }, { geometry: true, camera: false, lights: [] }],
    ['a new brief costs nothing', { brief: 'x', name: 'y' }, { geometry: false, camera: false, lights: [] }],
  ])('%s', (_name, patch, expected) => expect(changed(patch)).toEqual(expected));
  it('names the file that is missing, and does not want it of a hidden subject', () => {
    expect(() => compile(withSubject, () => undefined)).toThrow(MissingAssetError);
    expect(() => compile(applyPatch(withSubject, { subjects: { items: { s: { visible: false } } } }), () => undefined)).not.toThrow();
  });
});

describe('what a change costs in the mesh', () => {
  const keys = (patch: object) => {
    const next = again(patch).geometry.mesh.parts!;
    return next.map((p, i) => (p.key === scene.geometry.mesh.parts![i]?.key ? 'kept' : 'built'));
  };
  it('divides the mesh into stage, opaque and clear parts of each subject', () => {
    const { parts, indices } = scene.geometry.mesh;
    expect(parts!.map((p) => p.count)).toEqual([scene.geometry.mesh.clearFrom! - 1, 1, 1]);
    expect(parts!.reduce((n, p) => n + p.count, 0)).toBe(indices.length / 3);
  });
  it('a moved subject builds its own parts only', () => {
    expect(keys({ subjects: { items: { s: { position: [1, 0, 0] } } } })).toEqual(['kept', 'built', 'built']);
    expect(keys({ stage: { back: 2.5 } })).toEqual(['built', 'kept', 'kept']);
  });
  it('a changed material builds nothing', () => {
    expect(keys({ subjects: { items: { s: { materials: { skin: { roughness: 0.1 } } } } } })).toEqual(['kept', 'kept', 'kept']);
    expect(keys({ stage: { colour: [0.9, 0.1, 0.1] } })).toEqual(['kept', 'kept', 'kept']);
  });
  it('copies what did not move to the same bytes', () => {
    const moved = applyPatch(withSubject, { subjects: { items: { s: { position: [1, 0, 0] } } } });
    const fresh = compile(moved, get).geometry,
      copied = compile(moved, get, scene).geometry;
    expect([...copied.mesh.positions]).toEqual([...fresh.mesh.positions]);
    expect([...copied.normals]).toEqual([...fresh.normals]);
  });
});

describe('materials', () => {
  it('take the artist’s changes, millimetres becoming metres; the file’s stay as they are', () => {
    const change = { roughness: 0.2, subsurface: 1, freePath: [3, 2, 1], emission: 50, sheen: 0.5 };
    const changed = compile(applyPatch(withSubject, { subjects: { items: { s: { materials: { skin: change } } } } }), get).geometry;
    const m = changed.materials.find((x) => x.name === 'skin')!;
    expect(m).toMatchObject({ roughness: 0.2, subsurface: 1, emission: [50, 50, 50], sheen: [0.5, 0.5, 0.5] });
    m.freePath.forEach((v, i) => expect(v).toBeCloseTo([0.003, 0.002, 0.001][i]!, 9));
    expect(asset.parts[1]!.material.roughness).toBe(0.5);
  });
  it('are grey clay when that is asked for; the cornea stays clear, the balls stay what they are', () => {
    const balls = {
      items: { chrome: { kind: 'ball', rank: 'a0', finish: 'chrome', name: 'Chrome', visible: true, position: [0, 1, 0], radius: 0.05 } },
    };
    const clay = compile(applyPatch(withSubject, { props: balls }), get, undefined, { clay: true }).geometry;
    expect(clay.materials.find((m) => m.name === 'skin')!.base).toEqual([0.42, 0.42, 0.42]);
    expect(clay.materials.find((m) => m.name === 'cornea')!.transmission).toBe(1);
    // colour at the vertices is colour too
    const painted = { ...asset, parts: asset.parts.map((p) => ({ ...p, colours: new Float32Array(9).fill(0.1) })) };
    const grey = compile(withSubject, () => painted, undefined, { clay: true }).geometry;
    const v = grey.mesh.indices[(grey.mesh.clearFrom! - 1) * 3]!;
    expect(grey.colours[v * 3]).toBe(1);
    expect(compile(withSubject, () => painted).geometry.colours[v * 3]).toBeCloseTo(0.1, 6);
    expect(clay.materials.find((m) => m.name === 'chrome')!.metallic).toBe(1);
  });
});

describe('depth of field', () => {
  it('opens by focal length over f-number; off it is a pinhole', () => {
    const camera = (fNumber: number) => compileCamera(applyPatch(withSubject, { camera: { focal: 100, lens: { fNumber, focus: 2 } } }));
    // drawn out to focus at 2 m: s / (s − f)
    expect(camera(2.8).lens!.radius).toBeCloseTo((0.1 / 2.8 / 2) * (2 / 1.9), 9);
    expect(camera(0).lens).toBeUndefined();
  });
  it('blurs as the thin lens says: worked by hand for 100 mm at f/2, sharp at 2 m, a point at 4 m', () => {
    // A = 50 mm; c = 50 · 100 · 2000 / (4000 · 1900) mm = 1.3158 mm
    expect(circleOfConfusion(0.1, 2, 2, 4) * 1000).toBeCloseTo(1.3158, 4);
    expect(circleOfConfusion(0.1, 2, 2, 2)).toBe(0);
  });
});

describe('the camera', () => {
  const camera = (more: object) => compileCamera(applyPatch(withSubject, { camera: more }));
  it('sees 2 · atan(s / 2f): 27° up and down for 50 mm on 24 mm, 39.6° across 3 : 2 (handbook table)', () => {
    const { halfHeight } = camera({ focal: 50, sensor: 24 });
    expect((2 * Math.atan(halfHeight) * 180) / Math.PI).toBeCloseTo(26.99, 2);
    expect((2 * Math.atan(halfHeight * 1.5) * 180) / Math.PI).toBeCloseTo(39.6, 1);
    expect(camera({ focal: 100, sensor: 48 }).halfHeight).toBeCloseTo(halfHeight, 9);
  });
  it('rolled clockwise, its right sinks; its axes stay square', () => {
    const { right, up, forward } = camera({ roll: 30 });
    expect(right[1]).toBeCloseTo(-Math.sin(Math.PI / 6) * Math.hypot(forward[0], forward[2]), 6);
    const dot = (a: number[], b: number[]) => a.reduce((s, v, k) => s + v * b[k]!, 0);
    expect(dot(right, up)).toBeCloseTo(0, 9);
    expect(dot(right, forward)).toBeCloseTo(0, 9);
    expect(camera({ roll: 0 }).right[1]).toBeCloseTo(0, 9);
  });
  it('has another key when it is rolled or its sensor changes, none when it is renamed or locked', () => {
    const { key } = camera({});
    expect(camera({ roll: 5 }).key).not.toBe(key);
    expect(camera({ sensor: 30 }).key).not.toBe(key);
    expect(camera({ name: 'Other', locked: true }).key).toBe(key);
  });
});

describe('the stage and what stands on it', () => {
  const named = (patch: object) => compile(applyPatch(withSubject, patch), get).geometry;
  it('is built of every kind; a room’s front half has its own tone', () => {
    const room = named({ stage: { kind: 'room' } });
    expect(room.objects).toEqual(expect.arrayContaining(['stage/backdrop', 'stage/front']));
    expect(room.materials.find((m) => m.name === 'front')!.base).not.toEqual(room.materials.find((m) => m.name === 'backdrop')!.base);
    expect(named({ stage: { kind: 'none' } }).objects.some((o) => o.startsWith('stage'))).toBe(false);
  });
  it('carries plinths, which become clay as everything does', () => {
    const plinth = {
      kind: 'plinth',
      rank: 'a0',
      shape: 'round',
      name: 'Drum',
      visible: true,
      position: [0, 0, 0],
      width: 1,
      height: 0.3,
      colour: [0.2, 0.2, 0.2],
      roughness: 0.5,
    };
    const patch = { props: { items: { p: plinth } } };
    expect(named(patch).objects).toContain('props/p');
    const clay = compile(applyPatch(withSubject, patch), get, undefined, { clay: true }).geometry;
    expect(clay.materials.every((m) => m.base[0] === 0.42 || m.transmission === 1)).toBe(true);
  });
});

describe('lights around a second figure', () => {
  const two: Setup = applyPatch(withSubject, {
    subjects: { items: { t: { ...withSubject.subjects.items['s']!, rank: 'a1', name: 'T', position: [3, 0, 0], turn: 0, scale: 1 } } },
  });
  const around = (setup: Setup, subject: string | null) =>
    applyPatch(setup, { lights: { items: { key: { around: subject, place: { aim: [0, 0, 0] } } } } });
  const corner = (setup: Setup) => {
    const key = compile(setup, get).lights.find((l) => l.id === 'key')!;
    return key.kind === 'rectangle' ? key.rectangle.corner : undefined;
  };
  it('stand as far from its head as they would from the first one’s, and move with it', () => {
    const off = (setup: Setup, id: string) => {
      const head = headInWorld(setup.subjects.items[id]!).origin;
      return Math.hypot(...corner(setup)!.map((v, k) => v - head[k]!));
    };
    expect(off(around(two, 't'), 't')).toBeCloseTo(off(two, 's'), 9);
    const moved = applyPatch(around(two, 't'), { subjects: { items: { t: { position: [4, 0, 0] } } } });
    expect(corner(moved)![0] - corner(around(two, 't'))![0]).toBeCloseTo(1, 9);
    // the rim stays with the first
    const rims = [two, around(two, 't'), moved].map((s) => compile(s, get).lights.find((l) => l.id === 'rim')!.key);
    expect(new Set(rims).size).toBe(1);
  });
  it('go back to the first when theirs is hidden or taken away', () => {
    for (const gone of [{ visible: false }, null])
      expect(corner(applyPatch(around(two, 't'), { subjects: { items: { t: gone } } }))).toEqual(corner(two));
  });
});

describe('what a light reaches', () => {
  const reach = (lights: object, casts: object = {}) => ({ lights: { items: { key: { reach: { lights, casts } } } } });
  it('costs that light its film and nobody else anything; saying nothing costs nothing', () => {
    expect(changed(reach({ stage: false }))).toEqual({ geometry: false, camera: false, lights: ['key'] });
    expect(changed(reach({}, { 'subjects/*/skin': false }))).toEqual({ geometry: false, camera: false, lights: ['key'] });
    expect(changed(reach({}))).toEqual({ geometry: false, camera: false, lights: [] });
    expect(again(reach({ stage: false })).lights[0]).toMatchObject({ kind: 'rectangle', reach: { lights: { stage: false } } });
  });
  it('an even dome that does not light all is drawn as one that is a picture: only such a one aims', () => {
    const even = setupWith({ key: dome() });
    expect(compile(even, get).lights[0]!.kind).toBe('dome');
    expect(compile(applyPatch(even, reach({ stage: false })), get).lights[0]).toMatchObject({ kind: 'environment', reach: { lights: {} } });
  });
});

describe('names', () => {
  it('cost nothing: no ray, and no light loses what it glows by', () => {
    const named = applyPatch(withSubject, { lights: { items: { key: { ...glowing('subjects/s/skin'), rank: 'a0' } } } });
    const before = compile(named, get);
    const after = compile(applyPatch(named, { subjects: { items: { s: { name: 'Somebody else' } } } }), get, before);
    expect(after.geometry).toBe(before.geometry);
    expect(after.lights.map((l) => l.key)).toEqual(before.lights.map((l) => l.key));
    expect(after.geometry.objects).toContain('subjects/s/skin');
  });
});

describe('the frame', () => {
  it('is held whole by a picture of any shape', () => {
    const camera = { halfHeight: 0.2, aspect: 0.8 };
    expect(pictureHalf(camera, 400, 500)).toEqual([expect.closeTo(0.16, 9), 0.2]);
    expect(pictureHalf(camera, 640, 360)[1]).toBe(0.2);
    const tall = pictureHalf(camera, 200, 500);
    expect(tall[0]).toBeCloseTo(0.16, 9);
    expect(tall[1]).toBeCloseTo(0.4, 9);
  });
});

describe('the curved backdrop', () => {
  const { positions, normals, indices } = buildSweep({ width: 4, front: 2, back: 1.5, height: 3, fillet: 0.5, floor: 0.1 });
  it('runs from the floor in front through one quarter circle up the wall', () => {
    expect([...positions.slice(0, 3)].map((v) => +v.toFixed(5))).toEqual([-2, 0.1, 2]);
    expect([...positions.slice(-3)].map((v) => +v.toFixed(5))).toEqual([2, 3.1, -1.5]);
    for (let i = 6; i < positions.length - 6; i += 3) {
      const z = positions[i + 2]! + 1,
        y = positions[i + 1]! - 0.6;
      if (i < positions.length - 6) expect(Math.hypot(z, y)).toBeCloseTo(0.5, 5);
    }
  });
  it('faces the subject: triangles turn as their normals do', () => {
    for (let t = 0; t < indices.length; t += 3) {
      const [a, b, c] = [indices[t]! * 3, indices[t + 1]! * 3, indices[t + 2]! * 3];
      const u = [0, 1, 2].map((k) => positions[b + k]! - positions[a + k]!),
        v = [0, 1, 2].map((k) => positions[c + k]! - positions[a + k]!);
      const n = [u[1]! * v[2]! - u[2]! * v[1]!, u[2]! * v[0]! - u[0]! * v[2]!, u[0]! * v[1]! - u[1]! * v[0]!];
      expect(n[1]! * normals[a + 1]! + n[2]! * normals[a + 2]!).toBeGreaterThan(0);
    }
  });
  it('is a sharp corner without a fillet', () => {
    const sharp = buildSweep({ width: 4, front: 2, back: 1.5, height: 3, fillet: 0, floor: 0 });
    expect(sharp.indices.length).toBeGreaterThanOrEqual(12);
    expect(Math.max(...sharp.positions.filter((_, i) => i % 3 === 1))).toBe(3);
  });
});

describe('smooth normals', () => {
  it('are unit and average their triangles', () => {
    const n = smoothNormals(Float32Array.from([0, 0, 0, 1, 0, 0, 0, 1, 0, 0, 0, 1]), Uint32Array.from([0, 1, 2, 0, 3, 1]));
    expect([...n.slice(0, 3)].map((v) => +v.toFixed(4))).toEqual([0, 0.7071, 0.7071]);
    expect([...n.slice(6, 9)]).toEqual([0, 0, 1]);
  });
});
