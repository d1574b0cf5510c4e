import { readFileSync } from 'node:fs';
import { beforeAll, describe, expect, it } from '@jest/globals';
import { Object3D, Vector3 } from 'three';
import { readGlb } from '../formats/index.ts';
import { buildBall } from '../geometry/index.ts';
import { DEGREE, distance, dot, normalize, sub, type Vec3 } from '../math/index.ts';
import { material } from '../surface/index.ts';
import type { CharacterAsset, Part } from './asset.ts';
import { eyeParts, eyesOf, MOST_TURN, withGaze } from './gaze.ts';

let keeper: CharacterAsset;
beforeAll(async () => {
  keeper = await readGlb(Uint8Array.from(readFileSync(new URL('../../../demo/assets/keeper.glb', import.meta.url))), 'keeper.glb');
});
const ball = (name: string, centre: Vec3, radius: number): Part => ({
  name,
  ...buildBall(centre, radius, 24),
  material: material({ name }),
});
const joined = (name: string, a: Part, b: Part): Part => ({
  ...a,
  name,
  positions: Float32Array.of(...a.positions, ...b.positions),
  normals: Float32Array.of(...a.normals, ...b.normals),
  indices: Uint32Array.of(...a.indices, ...[...b.indices].map((i) => i + a.positions.length / 3)),
});
const stand = { position: [0, 0, 0] as Vec3, turn: 0, scale: 1 };
const middleOf = ({ positions }: Part): Vec3 => {
  const sum: Vec3 = [0, 0, 0];
  for (let i = 0; i < positions.length; i++) sum[i % 3]! += positions[i]! / (positions.length / 3);
  return sum;
};
const angle = (a: Vec3, b: Vec3): number => Math.acos(Math.min(1, dot(normalize(a), normalize(b)))) / DEGREE;

describe('eyes among parts', () => {
  it('are known by their names, without what is about them', () => {
    expect(
      eyeParts([
        'skin',
        'eye white L',
        'iris L',
        'Eye_R',
        'cornea.R',
        'eyebrow',
        'eyelid',
        'eye lashes',
        'eyeglasses',
        'eyes',
        'eyes',
        'boots',
      ]),
    ).toEqual(['eye white L', 'iris L', 'Eye_R', 'cornea.R', 'eyes']);
    expect(eyeParts(keeper.parts.map((p) => p.name)).sort()).toEqual([
      'cornea L',
      'cornea R',
      'eye white L',
      'eye white R',
      'iris L',
      'iris R',
    ]);
  });
  it('of the demo turn about the centres that its maker gave them, and look ahead', () => {
    const parts = keeper.parts.filter((p) => eyeParts([p.name]).length);
    const eyes = eyesOf(parts, keeper.head.origin, [1, 0, 0], [0, 0, 1]);
    expect(eyes).toHaveLength(2);
    for (const { centre, looks, shares } of eyes) {
      expect(shares).toHaveLength(3);
      const known = keeper.landmarks[centre[0] > 0 ? 'eyeCentreL' : 'eyeCentreR']!;
      expect(distance(centre, known)).toBeLessThan(0.0005);
      expect(angle(looks, [0, 0, 1])).toBeLessThan(3);
    }
  });
  it('that are one part are parted at the middle of the head', () => {
    const both = joined('eyes', ball('l', [0.03, 1.6, 0.1], 0.012), ball('r', [-0.03, 1.6, 0.1], 0.012));
    const eyes = eyesOf([both], [0, 1.6, 0.1], [1, 0, 0], [0, 0, 1]);
    expect(eyes.map((e) => e.centre.map((v) => Number(v.toFixed(4)))).sort()).toEqual([
      [-0.03, 1.6, 0.1],
      [0.03, 1.6, 0.1],
    ]);
    // nothing but a ball: it looks where the nose points
    expect(eyes.map((e) => e.looks)).toEqual([
      [0, 0, 1],
      [0, 0, 1],
    ]);
    // one eye in the middle of a face stays one
    expect(eyesOf([ball('eye', [0, 1.6, 0.1], 0.03)], [0, 1.6, 0.1], [1, 0, 0], [0, 0, 1])).toHaveLength(1);
  });
});

describe('eyes that look at a point', () => {
  const gaze = (target: Vec3) => ({ target, parts: eyeParts(keeper.parts.map((p) => p.name)) });
  const looksOf = (parts: Part[], side: 'L' | 'R'): [from: Vec3, to: Vec3] => {
    const at = (name: string) => parts.find((p) => p.name === `${name} ${side}`)!;
    return [keeper.landmarks[`eyeCentre${side}`]!, middleOf(at('iris'))];
  };
  it('both look at it, each from its own place, and nothing else moves', () => {
    const target: Vec3 = [0.35, 1.5, 1.1];
    const parts = withGaze(keeper.parts, { ...stand, head: keeper.head, gaze: gaze(target) });
    const before = { L: looksOf(keeper.parts, 'L'), R: looksOf(keeper.parts, 'R') };
    for (const side of ['L', 'R'] as const) {
      const [from, to] = looksOf(parts, side);
      // the iris is a ring about where the eye looks, not a point: as far off as it was before
      const was = angle(sub(before[side][1], before[side][0]), [0, 0, 1]);
      expect(angle(sub(to, from), sub(target, from))).toBeLessThan(was + 1);
      expect(distance(to, from)).toBeCloseTo(distance(before[side][1], before[side][0]), 3);
    }
    keeper.parts.forEach((p, i) => expect(parts[i] === p).toBe(!p.name.match(/eye|iris|cornea/)));
    // the eyes converge: their looks are not parallel
    const [l, r] = (['L', 'R'] as const).map((s) => sub(looksOf(parts, s)[1], looksOf(parts, s)[0]));
    expect(angle(l!, r!)).toBeGreaterThan(1);
  });
  it('turn as three.js turns by the same rotation, normals with them', () => {
    const target: Vec3 = [-0.2, 1.8, 1];
    const eye = ball('eye', [0.03, 1.6, 0.1], 0.012);
    const [out] = withGaze([eye], { ...stand, head: keeper.head, gaze: { target, parts: ['eye'] } });
    const object = new Object3D();
    object.quaternion.setFromUnitVectors(
      new Vector3(...keeper.head.forward).normalize(),
      new Vector3(...sub(target, [0.03, 1.6, 0.1])).normalize(),
    );
    for (let i = 0; i < eye.positions.length; i += 51 * 3) {
      const p = new Vector3(eye.positions[i]! - 0.03, eye.positions[i + 1]! - 1.6, eye.positions[i + 2]! - 0.1).applyQuaternion(
        object.quaternion,
      );
      [p.x + 0.03, p.y + 1.6, p.z + 0.1].forEach((v, k) => expect(out!.positions[i + k]!).toBeCloseTo(v, 5));
      const n = new Vector3(eye.normals[i]!, eye.normals[i + 1]!, eye.normals[i + 2]!).applyQuaternion(object.quaternion);
      n.toArray().forEach((v, k) => expect(out!.normals[i + k]!).toBeCloseTo(v, 5));
    }
  });
  it('follow the stand: a turned, scaled, moved figure looks at the same point of the set', () => {
    const where = { position: [1, 0.2, -2] as Vec3, turn: 25, scale: 1.3 };
    const target: Vec3 = [1.6, 1.9, 1];
    const parts = withGaze(keeper.parts, { ...where, head: keeper.head, gaze: gaze(target) });
    const world = (p: Vec3): Vec3 => {
      const v = new Vector3(...p).multiplyScalar(1.3).applyAxisAngle(new Vector3(0, 1, 0), 25 * DEGREE);
      return [v.x + 1, v.y + 0.2, v.z - 2];
    };
    const [from, to] = looksOf(parts, 'L').map(world) as [Vec3, Vec3];
    expect(angle(sub(to, from), sub(target, from))).toBeLessThan(3.5);
  });
  it('do not turn further than eyes do', () => {
    const parts = withGaze(keeper.parts, { ...stand, head: keeper.head, gaze: gaze([5, 1.35, -3]) });
    const [from, to] = looksOf(parts, 'R');
    const [was, there] = looksOf(keeper.parts, 'R');
    expect(angle(sub(to, from), sub(there, was))).toBeCloseTo(MOST_TURN, 0);
  });
  it('without a gaze all parts are the very same', () => {
    expect(withGaze(keeper.parts, { ...stand, head: keeper.head })).toBe(keeper.parts);
  });
});
