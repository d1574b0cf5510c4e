import { beforeAll, describe, expect, it } from '@jest/globals';
import { Shape, type Point } from '../form/field.ts';
import { buildSkin } from '../form/head.ts';
import { axis, even, polygonise, zone, type Surface } from '../form/nets.ts';
import { sphere } from '../form/primitives.ts';
import { KEEPER, SIGNALLER } from '../form/proportions.ts';
import { actorOf } from '../cast/index.ts';
import { goatFur } from './goat.ts';
import { growHair, plus, type Growth, type Strand } from './growth.ts';
import { keeperBeard } from './keeper.ts';
import { brows, lashes } from './brows.ts';
import { ribbons } from './ribbons.ts';
import { scalp } from './scalp.ts';

const R = 50;
const ball = new Shape().add(sphere([0, 0, 0], R), 1);
const coarse = even(-60, 60, 5);
// triangles are far smaller where x is positive, and no more hair grows there for that
const mesh = polygonise(ball, 'ball', { xs: axis(-60, 60, zone(5, 60, 1.2, 5)), ys: coarse, zs: coarse });
const plain: Growth = {
  count: 300,
  steps: 6,
  density: ([, y]) => (y > 20 ? 1 : 0),
  flow: () => [0, -1, 0],
  length: () => 30,
  stand: (t) => 0.5 + 3 * t,
  hug: 1,
  stiff: 0.3,
  frizz: 0.2,
  width: 1,
  tip: 0.2,
  colour: [
    [0.1, 0.1, 0.1],
    [0.5, 0.4, 0.3],
  ],
  uneven: 0.1,
};
const far = (a: Point, b: Point): number => Math.hypot(...plus(a, b, -1));
const rootsOf = (strands: Strand[]): Point[] => strands.map((s) => s.points[0]!);

describe('strands on a ball', () => {
  const strands = growHair(plain, ball, mesh, 1);
  it('begin on it, where hair grows, and stay outside of it', () => {
    expect(strands).toHaveLength(300);
    for (const { points } of strands) {
      expect(Math.abs(Math.hypot(...points[0]!) - R)).toBeLessThan(0.05);
      expect(points[0]![1]).toBeGreaterThan(16);
      for (const p of points.slice(1)) expect(Math.hypot(...p)).toBeGreaterThan(R + 0.3);
    }
  });
  it('lie over it as evenly as their density says: by area, not by triangles', () => {
    // Archimedes: a sphere’s area between two planes goes by their distance
    const share = rootsOf(strands).filter((p) => p[1] > 35).length / strands.length;
    expect(share).toBeGreaterThan(0.4);
    expect(share).toBeLessThan(0.6);
    const left = rootsOf(strands).filter((p) => p[0] > 0).length / strands.length;
    expect(left).toBeGreaterThan(0.4);
    expect(left).toBeLessThan(0.6);
  });
  it('go where the flow leads and are as long as they shall be', () => {
    const falls = strands.filter(({ points }) => points.at(-1)![1] < points[0]![1] - 5);
    expect(falls.length / strands.length).toBeGreaterThan(0.9);
    const long = strands.map(({ points }) => points.slice(1).reduce((s, p, i) => s + far(p, points[i]!), 0));
    const mean = long.reduce((a, b) => a + b) / long.length;
    expect(mean).toBeGreaterThan(27);
    expect(mean).toBeLessThan(34);
  });
  it('are the same each time for one seed and others for another', () => {
    expect(growHair(plain, ball, mesh, 1)[7]).toEqual(strands[7]);
    expect(growHair(plain, ball, mesh, 2)[7]).not.toEqual(strands[7]);
  });
  it('draw together at their tips where they lie in clumps', () => {
    const spread = (clump?: Growth['clump']): number => {
      const some = growHair({ ...plain, ...(clump ? { clump } : {}) }, ball, mesh, 3);
      // mean distance to the nearest other tip
      const tips = some.map((s) => s.points.at(-1)!);
      return tips.reduce((s, t) => s + Math.min(...tips.filter((o) => o !== t).map((o) => far(o, t))), 0) / tips.length;
    };
    expect(spread({ size: 12, pull: 0.9 })).toBeLessThan(0.75 * spread());
  });
  it('are refused where nothing grows', () => {
    expect(() => growHair({ ...plain, density: () => 0 }, ball, mesh, 1)).toThrow('No place on the skin grows this hair.');
  });
});

describe('ribbons', () => {
  const strands = growHair(plain, ball, mesh, 1);
  const made = ribbons('hair', [{ growth: plain, strands }], 1);
  it('have two vertices a point, V along the strand, and their colours from root to tip', () => {
    expect(made.positions.length / 3).toBe(300 * 7 * 2);
    expect(made.indices.length / 3).toBe(300 * 6 * 2);
    expect([...made.uvs!.slice(0, 4)]).toEqual([0, 0, 1, 0]);
    expect(made.uvs![13 * 2 + 1]).toBe(1);
    expect(made.colours![0]! / made.colours![12 * 3]!).toBeCloseTo(0.1 / 0.5, 2);
  });
  it('are as wide as they shall be, thinner at the tip, with normals of length 1 that look away from the skin', () => {
    const wide = (i: number) =>
      far([...made.positions.slice(i * 3, i * 3 + 3)] as Point, [...made.positions.slice(i * 3 + 3, i * 3 + 6)] as Point);
    expect(wide(6)).toBeGreaterThan(0.7);
    expect(wide(6)).toBeLessThan(1.01);
    expect(wide(12)).toBeCloseTo(0.2, 2);
    for (let i = 0; i < made.positions.length; i += 3) {
      const n = made.normals.slice(i, i + 3);
      expect(Math.hypot(...n)).toBeCloseTo(1, 4);
    }
    const outwards = strands.map((_, s) => [0, 1, 2].reduce((d, k) => d + made.normals[s * 42 + k]! * made.positions[s * 42 + k]!, 0));
    expect(outwards.filter((d) => d > 0).length / outwards.length).toBeGreaterThan(0.9);
  });
});

describe('the cast’s hair', () => {
  let skin: Shape, head: Surface;
  beforeAll(() => {
    skin = buildSkin(KEEPER);
    head = polygonise(skin, 'skin', { xs: even(-110, 110, 6), ys: even(-200, 125, 6), zs: even(-120, 140, 6) });
  });
  it('has its roots within half a millimetre of the skin and nothing in the skull', () => {
    const few = (g: Growth): Growth => ({ ...g, count: Math.min(g.count, 120) });
    for (const growth of [
      ...actorOf('keeper')
        .hair(KEEPER)
        .flatMap((h) => h.growths),
      brows(KEEPER, actorOf('keeper').brows),
    ].map(few))
      for (const { points } of growHair(growth, skin, head, 5)) {
        expect(Math.abs(skin.at(...points[0]!))).toBeLessThan(0.5);
        for (const p of points) expect(skin.at(...p)).toBeGreaterThan(-0.5);
      }
  });
  it('has lashes on the margins of the lids, the same on both sides', () => {
    for (const { roots } of lashes(KEEPER, skin, 1))
      for (let i = 0; i < roots!.length; i += 2) {
        const [left, right] = [roots![i]!.at, roots![i + 1]!.at];
        expect([-left[0], left[1], left[2]]).toEqual(right);
        expect(Math.abs(skin.at(...left))).toBeLessThan(0.5);
        expect(Math.abs(left[1])).toBeLessThan(10);
      }
  });
  it('leaves free what the face is read by: no beard on lip and cheek, no fur about the goat’s eyes', () => {
    const beard = keeperBeard(KEEPER)[0]!.density!;
    for (const [x, y] of [
      [0, -60],
      [20, KEEPER.mouthY],
      [35, -30],
    ] as const)
      expect(beard([x, y, skin.front(x, y)], [0, 0, 1])).toBe(0);
    const fur = goatFur(actorOf('goat').proportions)[0]!.density!;
    expect(fur([37, 0, 80], [0, 0, 1])).toBe(0);
    expect(fur([0, -20, 120], [0, 0, 1])).toBe(0);
  });
  it('thins out towards its line and grows on no ear', () => {
    const grows = scalp(SIGNALLER, () => 60, 10);
    const at = (y: number) => grows([0, y, 80]);
    expect(at(40)).toBe(0);
    expect(at(95)).toBe(1);
    expect(grows([SIGNALLER.cheekboneX + 15, 75, -17])).toBe(1);
    expect(scalp(SIGNALLER, () => -60)([SIGNALLER.cheekboneX + 15, -10, -17])).toBe(0);
  });
});
