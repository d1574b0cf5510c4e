import { readFileSync } from 'node:fs';
import { beforeAll, describe, expect, it } from '@jest/globals';
import {
  compile,
  parseSetup,
  partsAt,
  readGlb,
  rectangleIrradiance,
  rectangleInWorld,
  refCovers,
  setupHead,
  type CharacterAsset,
  type RectangleLight,
} from '@plinket/core';
import { validateBytes } from 'gltf-validator';
import { Shape, smoothMin } from './form/field.ts';
import { actorOf, CAST, generateCharacter } from './cast/index.ts';
import { even, polygonise } from './form/nets.ts';
import { ellipsoid, roundedBox, sphere, stroke, tube } from './form/primitives.ts';
import { writeCharacter } from './file/glb.ts';
import { CHARACTER_FILES, demoSetup, goatSetup, keeperFile, lanternSetup, signallerSetup, type Kept } from './index.ts';
import { quaternion, turnOf } from './file/turn.ts';
import { Euler, Quaternion } from 'three';

interface Report {
  issues: { numErrors: number; numWarnings: number; messages: { code: string; severity: number }[] };
}

describe('distance fields', () => {
  it('measure spheres and boxes exactly, ellipsoids on their surface', () => {
    expect(sphere([1, 0, 0], 2)(4, 0, 0)).toBeCloseTo(1, 9);
    expect(roundedBox([0, 0, 0], [3, 2, 1], 0.5)(5, 0, 0)).toBeCloseTo(2, 9);
    expect(ellipsoid([0, 0, 0], [3, 2, 1])(0, 2, 0)).toBeCloseTo(0, 9);
    expect(
      tube(
        [
          [0, 0, 0, 1],
          [10, 0, 0, 2],
        ],
        1,
      )(5, 4, 0),
    ).toBeCloseTo(2.5, 6);
  });
  it('blend smoothly: never above the plain minimum, equal to it where far apart', () => {
    expect(smoothMin(1, 1, 4)).toBeCloseTo(0, 9);
    expect(smoothMin(0, 9, 4)).toBe(0);
  });
  it('fold to shapes: union, cut, both sides, bump', () => {
    const s = new Shape().addBoth(sphere([5, 0, 0], 2), 0.1).cut(sphere([5, 0, 2], 1), 0.1);
    expect(s.at(-5, 1.5, -0.5)).toBeLessThan(0);
    expect(s.at(5, 0, 1.8)).toBeGreaterThan(0);
    const plain = new Shape().add(sphere([0, 0, 0], 10), 1),
      raised = new Shape().add(sphere([0, 0, 0], 10), 1).bump(
        stroke(
          [
            [0, 0, 10, 4],
            [0, 1, 10, 4],
          ],
          1,
        ),
        1,
      );
    expect(plain.at(0, 0, 10) - raised.at(0, 0, 10)).toBeCloseTo(1, 3);
    expect(raised.front(0, 0)).toBeCloseTo(11, 0);
  });
});

describe('surface nets', () => {
  const ball = polygonise(new Shape().add(sphere([0, 0, 0], 20), 1), 'ball', {
    xs: even(-25, 25, 2),
    ys: even(-25, 25, 2.3),
    zs: even(-25, 25, 1.7),
  });
  it('lie on the surface with normals outwards', () => {
    for (let i = 0; i < ball.positions.length; i += 3) {
      const [x, y, z] = ball.positions.slice(i, i + 3);
      expect(Math.hypot(x!, y!, z!)).toBeCloseTo(20, 1);
      expect((x! * ball.normals[i]! + y! * ball.normals[i + 1]! + z! * ball.normals[i + 2]!) / 20).toBeGreaterThan(0.99);
    }
  });
  it('are closed: every edge belongs to two triangles that run against each other', () => {
    const edges = new Map<string, number>();
    for (let i = 0; i < ball.indices.length; i += 3)
      for (let k = 0; k < 3; k++) {
        const [a, b] = [ball.indices[i + k]!, ball.indices[i + ((k + 1) % 3)]!];
        const key = a < b ? `${a}-${b}` : `${b}-${a}`;
        edges.set(key, (edges.get(key) ?? 0) + (a < b ? 1 : -1));
      }
    expect([...edges.values()].every((v) => v === 0)).toBe(true);
  });
  it('enclose the volume of the ball', () => {
    let volume = 0;
    const p = (i: number) => ball.positions.subarray(i * 3, i * 3 + 3);
    for (let i = 0; i < ball.indices.length; i += 3) {
      const [a, b, c] = [p(ball.indices[i]!), p(ball.indices[i + 1]!), p(ball.indices[i + 2]!)];
      volume +=
        (a[0]! * (b[1]! * c[2]! - b[2]! * c[1]!) + a[1]! * (b[2]! * c[0]! - b[0]! * c[2]!) + a[2]! * (b[0]! * c[1]! - b[1]! * c[0]!)) / 6;
    }
    expect(volume / ((4 / 3) * Math.PI * 8000)).toBeCloseTo(1, 1);
    expect(volume).toBeGreaterThan(0);
  });
});

describe('the old keeper', () => {
  let asset: CharacterAsset;
  beforeAll(async () => {
    asset = await readGlb(readFileSync(keeperFile), 'keeper.glb');
  });
  const { landmarks, surfaces, ...rest } = generateCharacter(actorOf('keeper'), 'bust', 4);
  it('has a face in order from the top down, nose foremost', () => {
    const y = (n: string) => landmarks[n]![1];
    const down = ['crown', 'browCentre', 'sellion', 'noseTip', 'noseBase', 'mouthCornerL', 'chinFront', 'chinBottom'].map(y);
    expect([...down].sort((a, b) => b - a)).toEqual(down);
    for (const [name, p] of Object.entries(landmarks)) if (name !== 'noseTip') expect(p[2]).toBeLessThan(landmarks['noseTip']![2]);
    // pupils about 63 mm apart: common anatomy, from memory
    expect(landmarks['pupilL']![0] - landmarks['pupilR']![0]).toBeCloseTo(0.063, 3);
  });
  it('comes in the parts that lighting needs', () => {
    expect(surfaces.map((s) => s.name)).toEqual([
      'skin',
      'brows',
      'lashes',
      'hair',
      'beard',
      'wet line',
      'coat',
      'shirt',
      'shirt buttons',
      'stitches',
      'eye white L',
      'iris L',
      'cornea L',
      'eye white R',
      'iris R',
      'cornea R',
    ]);
  });
  it.each([
    ['the file that ships', async () => Uint8Array.from(readFileSync(keeperFile))],
    ['one made just now', () => writeCharacter({ ...rest, surfaces, landmarks }, 'keeper', 8000)],
  ])('passes the official glTF validator: %s', async (_name, make) => {
    const report = (await validateBytes(await make())) as Report;
    expect(report.issues.messages.filter((m) => m.severity < 2)).toEqual([]);
    expect(report.issues.numErrors).toBe(0);
  });
  it('has weights that add up to 1 and joints that exist, at every vertex', () => {
    for (const { joints, weights, positions } of surfaces) {
      expect(joints.length).toBe((positions.length / 3) * 4);
      for (let i = 0; i < weights.length; i += 4)
        expect(weights[i]! + weights[i + 1]! + weights[i + 2]! + weights[i + 3]!).toBeCloseTo(1, 5);
      expect(joints.every((j) => j < rest.joints.length)).toBe(true);
    }
  });
  it('is lit by a setup that is valid and whose key gives the face more than the fill', () => {
    const setup = parseSetup(demoSetup('a'.repeat(64), asset.head));
    const head = setupHead(setup);
    const lux = (id: string) => {
      const light = setup.lights.items[id] as RectangleLight;
      return rectangleIrradiance(rectangleInWorld(head, light), head.origin, head.z) * light.output.value;
    };
    expect(lux('key')).toBeGreaterThan(2 * lux('fill'));
    expect(lux('rim')).toBe(0);
    expect(compile(setup, () => asset).lights.map((l) => l.id)).toEqual(['key', 'fill', 'rim', 'wall', 'dome']);
  });
});

describe('turns', () => {
  it('are quaternions as three.js makes them of the same angles, eased between keys', () => {
    const [x, y, z] = quaternion(20, -35, 12);
    const theirs = new Quaternion().setFromEuler(new Euler(20 * (Math.PI / 180), -35 * (Math.PI / 180), 12 * (Math.PI / 180), 'YXZ'));
    [theirs.x, theirs.y, theirs.z].forEach((v, k) => expect([x, y, z][k]!).toBeCloseTo(v, 9));
    const keys: [number, number, number, number][] = [
      [0, 0, 0, 0],
      [2, 0, 40, 0],
    ];
    expect(turnOf(keys, 1)).toEqual(quaternion(0, 20, 0));
    expect(turnOf(keys, 0.5)[1]).toBeLessThan(quaternion(0, 10, 0)[1]);
    expect(turnOf(keys, -1)).toEqual(quaternion(0, 0, 0));
    expect(turnOf(keys, 9)).toEqual(quaternion(0, 40, 0));
  });
});

describe('the cast', () => {
  const kept = new Map<string, Kept>();
  beforeAll(async () => {
    for (const { name, path } of CHARACTER_FILES) {
      kept.set(name, { sha256: 'a'.repeat(64), asset: await readGlb(Uint8Array.from(readFileSync(path)), name) });
    }
  });
  it('ships three, each as a bust and as a figure with a clip of its own, with landmarks and feet on the floor', () => {
    expect(CHARACTER_FILES).toHaveLength(2 * CAST.length);
    for (const { name, cut, id } of CHARACTER_FILES) {
      const { asset } = kept.get(name)!;
      expect(asset.head.source).toBe('file');
      expect(asset.rig!.clips.map((c) => c.name)).toEqual([actorOf(id).motion[cut].name]);
      if (cut === 'bust') continue;
      expect(Math.abs(asset.bounds.min[1])).toBeLessThan(0.003);
      expect(asset.bounds.max[1]).toBeGreaterThan(1.6);
      expect(asset.bounds.max[1]).toBeLessThan(2);
    }
  });
  it('the keeper’s lantern rises with his hand and keeps hanging straight down', () => {
    const { asset } = kept.get('keeper-figure.glb')!;
    const at = (time: number, part: string) => {
      const { positions } = partsAt(asset, { clip: 'lifts the lantern', time }).find((p) => p.name === part)!;
      const mean = [0, 0, 0],
        low = [0, Infinity, 0];
      for (let i = 0; i < positions.length; i += 3) {
        for (let k = 0; k < 3; k++) mean[k]! += positions[i + k]! / (positions.length / 3);
        low[1] = Math.min(low[1]!, positions[i + 1]!);
      }
      return { mean, low: low[1]! };
    };
    expect(at(3.1, 'flame').mean[1]! - at(0, 'flame').mean[1]!).toBeGreaterThan(0.3);
    for (const time of [0, 1.7, 3.1]) {
      // the flame stays over the middle of the lantern
      const flame = at(time, 'flame').mean,
        frame = at(time, 'lantern glass').mean;
      expect(Math.hypot(flame[0]! - frame[0]!, flame[2]! - frame[2]!)).toBeLessThan(0.012);
    }
  });
  it('the signaller’s head turns to her left when she listens, and her lights with it', () => {
    const setup = parseSetup(signallerSetup(kept.get('signaller-figure.glb')!));
    expect(setupHead(setup).z[0]).toBeGreaterThan(0.5);
  });
  it('is shown in setups that are valid and name parts that exist', () => {
    const of = (n: string) => kept.get(n)!;
    for (const [setup, { asset }] of [
      [goatSetup(of('goat.glb')), of('goat.glb')],
      [lanternSetup(of('keeper-figure.glb')), of('keeper-figure.glb')],
    ] as const) {
      const scene = compile(parseSetup(setup), () => asset);
      for (const light of scene.lights)
        if (light.kind === 'object') expect(scene.geometry.objects.some((o) => refCovers(light.object, o))).toBe(true);
    }
  });
});
