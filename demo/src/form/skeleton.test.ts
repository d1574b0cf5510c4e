import { describe, expect, it } from '@jest/globals';
import { FLOOR, grip } from './body.ts';
import { CAST } from '../cast/cast.ts';
import { armKnots, type Build } from './coat.ts';
import { followHands, followLegs, followNeck, followTrunk, joints, strongest, type Follow, type Hold } from './skeleton.ts';

const build: Build = { shoulder: 1, chest: 1, waist: 1, hip: 1, full: true };
const bones = joints(build, grip(build));
const of = (hold: Hold, joint: string): number => hold.reduce((sum, [j, w]) => sum + (j === joint ? w : 0), 0);
/** Places all over a figure, millimetres. */
const places = Array.from({ length: 400 }, (_, i) => {
  const r = (k: number) => ((i * 7919 + k * 104729) % 1000) / 1000;
  return [r(1) * 600 - 300, FLOOR + r(2) * 1750, r(3) * 300 - 150] as const;
});

describe('the skeleton', () => {
  it('is a tree with one root, parents before children, left and right alike', () => {
    const seen = new Set<string>();
    for (const { name, parent } of bones) {
      expect(parent === undefined ? seen.size === 0 : seen.has(parent)).toBe(true);
      expect(seen.has(name)).toBe(false);
      seen.add(name);
    }
    for (const { name, at } of bones.filter((b) => b.name.endsWith(' L'))) {
      const right = bones.find((b) => b.name === name.replace(/L$/, 'R'))!;
      expect(right.at).toEqual([-at[0], at[1], at[2]]);
    }
    expect(joints({ ...build, full: false }).map((b) => b.name)).toEqual(['root', 'chest', 'neck', 'head']);
  });
  it('has every joint that the clips of the cast turn, and clips end where they begin', () => {
    for (const actor of CAST)
      for (const cut of ['bust', 'figure'] as const) {
        const names = joints({ ...actor.build, full: cut === 'figure' }, [0, 0, 0]).map((b) => b.name);
        for (const { joint, keys } of actor.motion[cut].turns) {
          expect(names).toContain(joint);
          expect(keys.map((k) => k[0])).toEqual([...keys.map((k) => k[0])].sort((a, b) => a - b));
          expect(keys[keys.length - 1]!.slice(1)).toEqual(keys[0]!.slice(1));
        }
      }
  });
});

describe('what hangs on it', () => {
  const follows: [string, Follow][] = [
    ['neck', followNeck],
    ['trunk', followTrunk(build)],
    ['hands', followHands],
    ['legs', followLegs],
  ];
  it.each(follows)('%s: weights add up to 1, are never negative, and name joints that exist', (_name, follow) => {
    for (const [x, y, z] of places) {
      const hold = follow(x, y, z);
      expect(hold.reduce((sum, [, w]) => sum + w, 0)).toBeCloseTo(1, 9);
      for (const [joint, w] of hold) {
        expect(w).toBeGreaterThanOrEqual(-1e-12);
        expect(bones.some((b) => b.name === joint)).toBe(true);
      }
    }
  });
  it('the jaw goes with the head, the pit of the neck with the chest', () => {
    expect(of(followNeck(0, -119, 90), 'head')).toBeCloseTo(1, 9);
    expect(of(followNeck(0, -240, 10), 'chest')).toBeCloseTo(1, 9);
    const between = followNeck(0, -150, 15);
    expect(of(between, 'neck')).toBeGreaterThan(0.3);
  });
  it('a sleeve goes with its own arm and turns at the elbow; the chest beside it does not', () => {
    const follow = followTrunk(build),
      [, upper, elbow, lower] = armKnots(build);
    expect(of(follow(upper![0], upper![1], upper![2]), 'upper arm L')).toBeGreaterThan(0.9);
    expect(of(follow(-lower![0], lower![1], lower![2]), 'forearm R')).toBeGreaterThan(0.9);
    const bend = follow(elbow![0], elbow![1], elbow![2]);
    expect(of(bend, 'upper arm L')).toBeGreaterThan(0.2);
    expect(of(bend, 'forearm L')).toBeGreaterThan(0.2);
    expect(of(follow(0, -400, 60), 'chest')).toBeCloseTo(1, 1);
    // a bust has no arms to go with
    expect(followTrunk({ ...build, full: false })(upper![0], upper![1], upper![2])).toEqual([['chest', 1]]);
  });
  it('a foot stands on its own side, the seat on the hips', () => {
    expect(of(followLegs(100, FLOOR + 20, 0), 'foot L')).toBeCloseTo(1, 9);
    expect(of(followLegs(-100, FLOOR + 20, 0), 'foot R')).toBeCloseTo(1, 9);
    expect(of(followLegs(100, -700, 0), 'hips')).toBeCloseTo(1, 9);
    expect(of(followLegs(98, -1000, 0), 'thigh L')).toBeCloseTo(1, 9);
  });
  it('keeps the four strongest joints, in order, and makes them whole again', () => {
    const number = (j: string) => ['a', 'b', 'c', 'd', 'e'].indexOf(j);
    const kept = strongest(
      [
        ['a', 0.05],
        ['b', 0.4],
        ['c', 0.3],
        ['d', 0.15],
        ['e', 0.1],
      ],
      number,
    );
    expect(kept.joints).toEqual([1, 2, 3, 4]);
    expect(kept.weights[0]!).toBeCloseTo(0.4 / 0.95, 9);
    expect(kept.weights.reduce((a, b) => a + b)).toBeCloseTo(1, 9);
    expect(strongest([['c', 1]], number)).toEqual({ joints: [2, 0, 0, 0], weights: [1, 0, 0, 0] });
  });
});
