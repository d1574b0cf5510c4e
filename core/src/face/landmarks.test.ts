import { readFileSync } from 'node:fs';
import { describe, expect, it } from '@jest/globals';
import { BoxGeometry } from 'three';
import { buildBall } from '../geometry/index.ts';
import { distance, turnY, type Vec3 } from '../math/index.ts';
import type { Part } from '../scene/index.ts';
import { LANDMARK_NAMES, otherSide, type HeadFrame } from '../setup/index.ts';
import { material } from '../surface/index.ts';
import { boundsOf, readGlb } from '../formats/index.ts';
import { headFromLandmarks, mirrored, proposeHead, proposeLandmarks } from './index.ts';

const file = (name: string) => readGlb(Uint8Array.from(readFileSync(new URL(`../../../demo/assets/${name}.glb`, import.meta.url))), name);

describe('landmarks proposed from the surface of a head', () => {
  // the demo's heads carry the landmarks that their makers know; the proposal sees the mesh alone
  it.each(['keeper', 'signaller-figure'])('%s: each within a finger’s breadth of where it is', async (name) => {
    const asset = await file(name);
    const found = proposeLandmarks(asset.parts, asset.head);
    expect(Object.keys(found).sort()).toEqual([...LANDMARK_NAMES].sort());
    const off = Object.fromEntries(LANDMARK_NAMES.map((n) => [n, Number((distance(found[n]!, asset.landmarks[n]!) * 1000).toFixed(1))]));
    for (const n of ['pupilL', 'pupilR', 'noseTip', 'browCentre', 'chinBottom', 'noseBase'] as const)
      expect([n, off[n]! < 12]).toEqual([n, true]);
    for (const n of ['mouthCornerL', 'mouthCornerR', 'cheekL', 'cheekR'] as const) expect([n, off[n]! < 16]).toEqual([n, true]);
    // ears stand out from where they grow; hair lies over the crown, and is highest where it likes
    for (const n of ['earL', 'earR'] as const) expect([n, off[n]! < 30]).toEqual([n, true]);
    expect(Math.abs(found.crown![1] - asset.landmarks['crown']![1])).toBeLessThan(0.025);
  });
  it('from the proposed head, as a foreign file has it, the nose is found all the same', async () => {
    const asset = await file('keeper');
    const found = proposeLandmarks(asset.parts, proposeHead(asset.parts, asset.bounds));
    expect(distance(found.noseTip!, asset.landmarks['noseTip']!)).toBeLessThan(0.008);
    expect(distance(found.chinBottom!, asset.landmarks['chinBottom']!)).toBeLessThan(0.02);
  });
  it('turn with the head: a turned mesh with its turned frame gives the turned points', async () => {
    const asset = await file('signaller');
    const turn = (v: Vec3): Vec3 => turnY(v, 0.7);
    const parts = asset.parts.map((p): Part => {
      const positions = p.positions.slice();
      for (let i = 0; i < positions.length; i += 3) positions.set(turn([positions[i]!, positions[i + 1]!, positions[i + 2]!]), i);
      return { ...p, positions };
    });
    const { head } = asset;
    const there: HeadFrame = { ...head, origin: turn(head.origin), forward: turn(head.forward), up: turn(head.up) };
    const [still, turned] = [proposeLandmarks(asset.parts, head), proposeLandmarks(parts, there)];
    for (const name of LANDMARK_NAMES) expect(distance(turn(still[name]!), turned[name]!)).toBeLessThan(2e-4);
  });
  it('of a ball are those that a ball has: no ears to the side of its middle, and no nose base', () => {
    const part: Part = { name: 'b', ...buildBall([0, 1, 0], 0.1), material: material({ name: 'm' }) };
    const head: HeadFrame = { origin: [0, 1, 0.1], forward: [0, 0, 1], up: [0, 1, 0], height: 0.2, source: 'proposed' };
    const found = proposeLandmarks([part], head);
    for (const p of Object.values(found)) expect(Math.abs(Math.hypot(p[0], p[1] - 1, p[2]) - 0.1)).toBeLessThan(0.004);
    expect(found.crown![1]).toBeGreaterThan(1.09);
    expect(proposeLandmarks([], head)).toEqual({});
  });
  it('of a coarse box are on it, though its corners are far from the head', () => {
    const box = new BoxGeometry(0.3, 0.6, 0.3).translate(0, 0.4, 0);
    const part: Part = {
      name: 'box',
      positions: Float32Array.from(box.getAttribute('position').array),
      normals: Float32Array.from(box.getAttribute('normal').array),
      indices: Uint32Array.from(box.getIndex()!.array),
      material: material({ name: 'm' }),
    };
    const head = proposeHead([part], boundsOf([part]));
    const found = proposeLandmarks([part], head);
    for (const name of ['pupilL', 'pupilR', 'browCentre', 'cheekL'] as const) expect(found[name]![2]).toBeCloseTo(0.15, 6);
    expect(found.pupilL![0]).toBeCloseTo(-found.pupilR![0], 9);
  });
});

describe('left and right', () => {
  it('are each other’s other side, and back', () => {
    for (const name of LANDMARK_NAMES) {
      const other = otherSide(name);
      if (other) expect(otherSide(other)).toBe(name);
      else expect(name).toMatch(/crown|chin|brow|nose/);
    }
    expect(otherSide('earL')).toBe('earR');
  });
  it('a point is mirrored at the head’s own middle, however it is turned', () => {
    const head: HeadFrame = { origin: [1, 1.6, 0.5], forward: [1, 0, 0], up: [0, 1, 0], height: 0.23, source: 'hand' };
    // facing +X, its left is −Z
    expect(mirrored(head, [1.02, 1.5, 0.4]).map((v) => Number(v.toFixed(9)))).toEqual([1.02, 1.5, 0.6]);
    const back = mirrored(head, mirrored(head, [3, 2, 1]));
    [3, 2, 1].forEach((v, k) => expect(back[k]!).toBeCloseTo(v, 12));
  });
  it('landmarks make the head frame that they were measured from', async () => {
    const { landmarks, head } = await file('keeper');
    const again = headFromLandmarks(landmarks)!;
    expect(distance(again.origin, head.origin)).toBeLessThan(1e-6);
    expect(again.height).toBeCloseTo(head.height, 6);
    // without the nose's root, the middle between the brows says nearly the same
    const { sellion: _, ...marked } = landmarks;
    expect(headFromLandmarks(marked)!.up[1]).toBeGreaterThan(0.998);
    expect(headFromLandmarks(marked)!.height).toBeCloseTo(head.height, 2);
  });
});
