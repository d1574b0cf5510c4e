// Joints, what hangs on them, and the clips that turn them.
import { armKnots, type Build } from './coat.ts';
import { FLOOR } from './body.ts';
import { smoothStep, type Point } from './field.ts';

export interface Joint {
  name: string;
  /** Name of the parent; the first joint has none. */
  parent?: string;
  /** Millimetres, in the frame of proportions.ts. */
  at: Point;
}
/** Joints that move a place, with weights that add up to 1. */
export type Hold = [joint: string, weight: number][];
/** How a part follows the skeleton. */
export type Follow = (x: number, y: number, z: number) => Hold;

/** Turns of one joint over time, degrees about x, y and z (applied z first, then x, then y). */
export interface Turn {
  joint: string;
  keys: [time: number, x: number, y: number, z: number][];
}
export interface Motion {
  name: string;
  turns: Turn[];
}

/** The joints of a bust, or of a whole figure; `held` hangs from the left hand. */
export function joints(build: Build, held?: Point): Joint[] {
  const trunk: Joint[] = [
    { name: 'root', at: [0, build.full ? FLOOR : -420, -45] },
    { name: 'chest', parent: build.full ? 'spine' : 'root', at: [0, -380, -50] },
    { name: 'neck', parent: 'chest', at: [0, -160, -42] },
    { name: 'head', parent: 'neck', at: [0, -45, -22] },
  ];
  if (!build.full) return trunk;
  const [shoulder, , elbow, , wrist] = armKnots(build).map(([x, y, z]): Point => [x, y, z]);
  const out: Joint[] = [
    trunk[0]!,
    { name: 'hips', parent: 'root', at: [0, -760, -45] },
    { name: 'spine', parent: 'hips', at: [0, -560, -45] },
    ...trunk.slice(1),
  ];
  for (const [side, tag] of [
    [1, 'L'],
    [-1, 'R'],
  ] as const) {
    const on = ([x, y, z]: Point): Point => [side * x, y, z];
    out.push(
      { name: `upper arm ${tag}`, parent: 'chest', at: on(shoulder!) },
      { name: `forearm ${tag}`, parent: `upper arm ${tag}`, at: on(elbow!) },
      { name: `hand ${tag}`, parent: `forearm ${tag}`, at: on(wrist!) },
      { name: `thigh ${tag}`, parent: 'hips', at: on([85, -800, -45]) },
      { name: `shin ${tag}`, parent: `thigh ${tag}`, at: on([98, -1160, -42]) },
      { name: `foot ${tag}`, parent: `shin ${tag}`, at: on([101, -1550, -60]) },
    );
  }
  if (held) out.push({ name: 'held', parent: 'hand L', at: held });
  return out;
}

export const rigid =
  (joint: string): Follow =>
  () => [[joint, 1]];

/** The skin of head and neck: the jaw goes with the head although it hangs lower than the nape. */
export const followNeck: Follow = (_x, y, z) => {
  const s = y + 0.7 * (z + 30);
  const head = smoothStep(-112, -48, s),
    above = Math.max(head, smoothStep(-200, -125, s));
  return [
    ['head', head],
    ['neck', above - head],
    ['chest', 1 - above],
  ];
};

/** Clothes of the trunk; sleeves go with the arms. */
export function followTrunk(build: Build): Follow {
  if (!build.full) return rigid('chest');
  const arm = armKnots(build);
  return (x, y, z) => {
    const chest = smoothStep(-560, -420, y),
      spine = smoothStep(-760, -600, y) - chest;
    const ax = Math.abs(x),
      tag = x > 0 ? 'L' : 'R';
    // how much of the arm a place is: near its axis, and outwards of the shoulder
    let near = Infinity;
    for (let i = 0; i + 1 < arm.length; i++) {
      const [px, py, pz, r] = arm[i]!,
        [qx, qy, qz] = arm[i + 1]!;
      const d = [qx - px, qy - py, qz - pz] as const;
      const t = Math.min(1, Math.max(0, ((ax - px) * d[0] + (y - py) * d[1] + (z - pz) * d[2]) / (d[0] ** 2 + d[1] ** 2 + d[2] ** 2)));
      near = Math.min(near, Math.hypot(ax - px - d[0] * t, y - py - d[1] * t, z - pz - d[2] * t) / r);
    }
    const of = smoothStep(1.5, 1.12, near) * smoothStep(112, 190, ax * (1 + Math.max(0, (-300 - y) / 900)));
    const lower = smoothStep(-475, -550, y),
      hand = smoothStep(-745, -790, y);
    return [
      [`upper arm ${tag}`, of * (1 - lower)],
      [`forearm ${tag}`, of * lower * (1 - hand)],
      [`hand ${tag}`, of * lower * hand],
      ['chest', (1 - of) * chest],
      ['spine', (1 - of) * spine],
      ['hips', (1 - of) * (1 - chest - spine)],
    ];
  };
}

export const followHands: Follow = (x, y) => {
  const hand = smoothStep(-740, -775, y),
    tag = x > 0 ? 'L' : 'R';
  return [
    [`hand ${tag}`, hand],
    [`forearm ${tag}`, 1 - hand],
  ];
};

export const followLegs: Follow = (x, y) => {
  const tag = x > 0 ? 'L' : 'R';
  const thigh = smoothStep(-720, -840, y) * smoothStep(12, 60, Math.abs(x)),
    shin = smoothStep(-1110, -1210, y),
    foot = smoothStep(-1500, -1560, y);
  return [
    ['hips', 1 - thigh],
    [`thigh ${tag}`, thigh * (1 - shin)],
    [`shin ${tag}`, thigh * shin * (1 - foot)],
    [`foot ${tag}`, thigh * shin * foot],
  ];
};

/** The four strongest of a hold as joint numbers and weights, which add up to 1. */
export function strongest(hold: Hold, number: (joint: string) => number): { joints: number[]; weights: number[] } {
  const best = hold
    .filter(([, w]) => w > 1e-3)
    .sort((a, b) => b[1] - a[1])
    .slice(0, 4);
  const sum = best.reduce((s, [, w]) => s + w, 0);
  return {
    joints: Array.from({ length: 4 }, (_, i) => (best[i] ? number(best[i][0]) : 0)),
    weights: Array.from({ length: 4 }, (_, i) => (best[i] ? best[i][1] / sum : 0)),
  };
}
