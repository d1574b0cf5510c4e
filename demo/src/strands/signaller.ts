// The young signaller: dark hair drawn back into a knot, with strands that the wind has loosened.
import { smoothStep, type Point } from '../form/field.ts';
import type { Proportions } from '../form/proportions.ts';
import { along, around, backwards, scalp } from './scalp.ts';
import { across, plus, unit, type Growth, type Root } from './growth.ts';

/** Middle and radius of the knot at the back of her head. */
export const KNOT: { at: Point; radius: number } = { at: [0, 86, -98], radius: 30 };

const BROWN: Growth['colour'] = [
  [0.03, 0.014, 0.008],
  [0.16, 0.075, 0.036],
];

const hairline = along([
  [0, 78],
  [20, 76],
  [40, 66],
  [58, 44],
  [72, 12],
  [84, -16],
  [98, -14],
  [112, -28],
  [140, -62],
  [180, -80],
]);

const shared = { hug: 0.85, stiff: 0.5, width: 1.2, tip: 0.35, colour: BROWN, uneven: 0.14 };

export function signallerHair(p: Proportions): Growth[] {
  const grows = scalp(p, hairline, 7);
  const toKnot = (at: Point): Point => unit(plus(KNOT.at, at, -1));
  return [
    {
      ...shared,
      count: 3200,
      steps: 10,
      density: grows,
      flow: (at, n, t) => {
        // back over the skull first, then straight at the knot
        const far = Math.hypot(...plus(KNOT.at, at, -1));
        const k = smoothStep(150, 60, far) * 0.7 + 0.3 * t;
        const over = backwards(n, at[1] < 20 ? -0.35 : 0.1);
        return plus([over[0] * (1 - k), over[1] * (1 - k), over[2] * (1 - k)], toKnot(at), k);
      },
      length: (at) => Math.min(235, Math.hypot(...plus(KNOT.at, at, -1)) * 1.13 - KNOT.radius * 0.6),
      stand: (t, [, y]) => 0.8 + (3 + 4.5 * smoothStep(20, 90, y)) * Math.sin(Math.PI * Math.min(1, t * 0.9 + 0.1)) ** 0.7,
      layer: 4,
      clump: { size: 11, pull: 0.5 },
      wave: { width: 1.6, turns: 0.7 },
      frizz: 0.16,
    },
    // loosened: from the temples down beside the face, and short ones along the hairline
    {
      ...shared,
      count: 150,
      steps: 14,
      hug: 0.05,
      density: (at) => grows(at) * (around(at) > 44 && around(at) < 66 && at[1] < hairline(around(at)) + 12 ? 1 : 0),
      flow: ([x, y], _n, t) => [Math.sign(x) * (0.5 - 0.75 * t) + 0.25 * Math.sin(y * 0.06), -1, 0.34 - 0.6 * t],
      length: ([x]) => (x > 0 ? 118 : 88),
      stand: (t) => 2 + 5 * t,
      layer: 5,
      clump: { size: 14, pull: 0.78 },
      wave: { width: 4, turns: 1.2 },
      frizz: 0.22,
      width: 0.85,
      tip: 0.15,
    },
    {
      ...shared,
      count: 320,
      steps: 7,
      hug: 0.1,
      density: (at) => grows(at) * (1 - smoothStep(3, 10, at[1] - hairline(around(at)))),
      flow: ([x], n) => plus(backwards(n, 0.2), [0.3 * Math.sign(x), 0.25, 0.2]),
      length: () => 24,
      stand: (t) => 1 + 7 * t,
      layer: 5,
      frizz: 0.7,
      width: 0.5,
      tip: 0.2,
    },
  ];
}

/** How many strands the knot has. */
const KNOT_STRANDS = 800;

/** The knot itself: strands wound round a ball, in turns that cross. */
export function signallerKnot(): Growth {
  const axis = unit([0.25, 0.75, -0.6]);
  const u = unit(across(axis, [1, 0, 0])),
    v = across(axis, u);
  const roots: Root[] = Array.from({ length: KNOT_STRANDS }, (_, i) => {
    const a = i * 2.39996,
      h = 1 - (2 * (i + 0.5)) / KNOT_STRANDS,
      r = Math.sqrt(1 - h * h);
    const normal = plus(plus([axis[0] * h, axis[1] * h, axis[2] * h], u, r * Math.cos(a)), v, r * Math.sin(a));
    return { normal: unit(normal), at: plus(KNOT.at, unit(normal), KNOT.radius) };
  });
  return {
    ...shared,
    count: 0,
    roots,
    steps: 7,
    hug: 1,
    // the turns cross each other in three bands
    flow: (_at, n) =>
      plus(
        across(axis, n),
        axis,
        0.55 * Math.sin(3.2 * Math.atan2(n[0] * v[0] + n[1] * v[1] + n[2] * v[2], n[0] * u[0] + n[1] * u[1] + n[2] * u[2])),
      ),
    length: () => 46,
    stand: (t) => 0.5 + 2.5 * Math.sin(Math.PI * t),
    layer: 2.5,
    clump: { size: 9, pull: 0.55 },
    frizz: 0.14,
  };
}
