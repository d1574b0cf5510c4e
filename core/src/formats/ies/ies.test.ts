// Profiles against an interpolation of the test's own, which shares nothing with the reader: numbers are picked out of the text, angles are folded by hand.
import { describe, expect, it } from '@jest/globals';
import { OpticsView } from '../../light/index.ts';
import { normalize, type Vec3 } from '../../math/index.ts';
import { Dice } from '../../testing/fuzz/spoil.ts';
import { readProfile } from './index.ts';

const VERTICAL = [0, 5, 12.5, 30, 47, 60, 88];
/** Horizontal angles of a file, and to which of them an angle falls by symmetry. */
const KINDS: [string, number[], (c: number) => number][] = [
  ['measured all round', [0, 22.5, 90, 135, 180, 250, 360], (c) => c],
  ['round but for its end', [0, 60, 120, 180, 240, 300], (c) => c],
  ['one half, from 0° to 180°', [0, 45, 90, 180], (c) => (c > 180 ? 360 - c : c)],
  ['a quarter', [0, 30, 90], (c) => 90 - Math.abs(90 - (c % 180))],
  ['one half, from 90° to 270°', [90, 130, 180, 270], (c) => (c < 90 ? 180 - c : c > 270 ? 540 - c : c)],
  ['alike all round', [0], () => 0],
];
const candela = (i: number, j: number): number => Math.round(1000 * (1 + Math.sin(i * 2.1 + j * 1.3)) + 10 * (i + 1) * (j + 1));

const fileOf = (horizontal: number[]): string =>
  [
    'IESNA:LM-63-2002',
    'TILT=NONE',
    `1 1000 1 ${VERTICAL.length} ${horizontal.length} 1 2 0 0 0`,
    '1 1 50',
    VERTICAL.join(' '),
    horizontal.join(' '),
    ...horizontal.map((_, i) => VERTICAL.map((__, j) => candela(i, j)).join(' ')),
  ].join('\n');

/** Bilinear between the rows that stand around an angle; what is open goes round to the first. */
function expected(horizontal: number[], gamma: number, c: number): number {
  if (gamma > VERTICAL.at(-1)!) return 0;
  const j = VERTICAL.findLastIndex((v) => v <= gamma),
    k = Math.min(j + 1, VERTICAL.length - 1),
    s = k === j ? 0 : (gamma - VERTICAL[j]!) / (VERTICAL[k]! - VERTICAL[j]!);
  const of = (i: number): number => candela(i, j) + s * (candela(i, k) - candela(i, j));
  const at = horizontal.findLastIndex((h) => h <= c),
    open = at === horizontal.length - 1 && c > horizontal[at]!;
  const next = open ? 0 : Math.min(at + 1, horizontal.length - 1),
    end = open ? 360 : horizontal[next]!;
  const t = end === horizontal[at]! ? 0 : (c - horizontal[at]!) / (end - horizontal[at]!);
  return of(at) + t * (of(next) - of(at));
}

describe('a profile', () => {
  it.each(KINDS)('%s, is as interpolated by hand in 500 directions', (_name, horizontal, folded) => {
    const { profile } = readProfile(fileOf(horizontal));
    // it hangs two metres up and shines down; x is where C begins
    const view = new OpticsView({ centre: [0, 2, 0], x: [1, 0, 0], y: [0, 0, 1], z: [0, -1, 0], profile });
    const peak = Math.max(...horizontal.flatMap((_, i) => VERTICAL.map((__, j) => candela(i, j))));
    const dice = new Dice(7);
    for (let n = 0; n < 500; n++) {
      const gamma = dice.next() * 100,
        c = dice.next() * 360;
      const [sin, cos, a] = [Math.sin((gamma * Math.PI) / 180), Math.cos((gamma * Math.PI) / 180), (c * Math.PI) / 180];
      // seen from above, with x to the right and z towards the viewer's feet, C turns against the clock: from x away from z
      const out: Vec3 = [sin * Math.cos(a), -cos, -sin * Math.sin(a)];
      const lit = view.at(out[0], 2 + out[1], out[2], ...(normalize(out.map((v) => -v) as Vec3) as [number, number, number]), 1);
      const wished = expected(horizontal, gamma, folded(c)) / peak;
      expect(lit ? view.r : 0).toBeCloseTo(wished, 6);
    }
  });

  it('runs against the clock for who looks down on it', () => {
    // bright towards 90° only
    const rows = [0, 90, 180, 270, 360].map((c) => VERTICAL.map(() => (c === 90 ? 100 : 1)).join(' '));
    const { profile } = readProfile(fileOf([0, 90, 180, 270, 360]).split('\n').slice(0, 6).concat(rows).join('\n'));
    const view = new OpticsView({ centre: [0, 2, 0], x: [1, 0, 0], y: [0, 0, 1], z: [0, -1, 0], profile });
    const towards = (x: number, z: number): number => {
      const w = normalize([-x, 1, -z]);
      view.at(x, 1, z, w[0], w[1], w[2], 1);
      return view.r;
    };
    // on a plan with x to the right and the viewer's feet at +z, up on the sheet is −z
    expect(towards(0, -0.5)).toBeCloseTo(1, 6);
    expect(towards(0, 0.5)).toBeCloseTo(0.01, 6);
  });
});
