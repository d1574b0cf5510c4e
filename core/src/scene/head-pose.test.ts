import { describe, expect, it } from '@jest/globals';
import { Matrix4, Quaternion, Vector3 } from 'three';
import type { HeadFrame } from '../setup/index.ts';
import { material } from '../surface/index.ts';
import { headAt, rigidMotion } from './head-pose.ts';
import type { CharacterAsset, Rig } from './index.ts';

const random = (seed: number) => () => (seed = (seed * 16807) % 2147483647) / 2147483647;

describe('the motion that carries points to points', () => {
  // against the rotation that three.js made them with
  it.each([1, 2, 3, 4, 5])('is the one that made them (%i)', (seed) => {
    const r = random(seed * 7919);
    const q = new Quaternion(r() - 0.5, r() - 0.5, r() - 0.5, r() - 0.5).normalize(),
      shift = new Vector3(r(), r(), r());
    const a: number[] = [],
      b: number[] = [];
    for (let i = 0; i < 40; i++) {
      const p = new Vector3(r(), 2 * r(), r() / 2);
      a.push(p.x, p.y, p.z);
      p.applyQuaternion(q).add(shift);
      b.push(p.x, p.y, p.z);
    }
    const { turn } = rigidMotion(a, b);
    const wanted = new Matrix4().makeRotationFromQuaternion(q).elements;
    for (let row = 0; row < 3; row++) for (let c = 0; c < 3; c++) expect(turn[row]![c]!).toBeCloseTo(wanted[c * 4 + row]!, 5);
  });
});

describe('a head at a moment of a clip', () => {
  const half = Math.SQRT1_2;
  // a neck at 1.5 m that turns by 90° to the left; the body below it stays
  const rig: Rig = {
    nodes: [
      { name: 'body', parent: -1, translation: [0, 0, 0], rotation: [0, 0, 0, 1], scale: [1, 1, 1] },
      { name: 'neck', parent: -1, translation: [0, 1.5, 0], rotation: [0, 0, 0, 1], scale: [1, 1, 1] },
    ],
    clips: [
      {
        name: 'turn',
        duration: 1,
        channels: [
          {
            node: 1,
            path: 'rotation',
            times: Float32Array.of(0, 1),
            values: Float32Array.of(0, 0, 0, 1, 0, half, 0, half),
            interpolation: 'LINEAR',
          },
        ],
      },
    ],
  };
  const box = (y: number): Float32Array =>
    Float32Array.from([-1, 1].flatMap((x) => [-1, 1].flatMap((h) => [-1, 1].flatMap((z) => [x * 0.08, y + h * 0.1, z * 0.1]))));
  const part = (name: string, node: number, y: number, local: Float32Array) => ({
    name,
    positions: box(y),
    normals: new Float32Array(24).fill(0.577),
    indices: Uint32Array.of(0, 1, 2, 5, 6, 7),
    material: material(),
    rig: { node, positions: local, normals: new Float32Array(24).fill(0.577), targets: [], weights: [] },
  });
  const head: HeadFrame = { origin: [0, 1.62, 0.09], forward: [0, 0, 1], up: [0, 1, 0], height: 0.24, source: 'file' };
  const asset = { name: 'x', parts: [part('body', 0, 1, box(1)), part('head', 1, 1.62, box(0.12))], rig } as unknown as CharacterAsset;
  it('goes with the mesh around it', () => {
    const at = headAt(asset, head, { clip: 'turn', time: 1 });
    [0.09, 1.62, 0].forEach((v, k) => expect(at.origin[k]!).toBeCloseTo(v, 4));
    [1, 0, 0].forEach((v, k) => expect(at.forward[k]!).toBeCloseTo(v, 4));
    [0, 1, 0].forEach((v, k) => expect(at.up[k]!).toBeCloseTo(v, 4));
    expect(at).toMatchObject({ height: 0.24, source: 'file' });
  });
  it('stays without a pose, and where nothing of the mesh is near it', () => {
    expect(headAt(asset, head, undefined)).toBe(head);
    const far: HeadFrame = { ...head, origin: [0, 9, 0] };
    expect(headAt(asset, far, { clip: 'turn', time: 1 })).toBe(far);
  });
});
