// The old keeper: white hair combed back from a high forehead, a curtain of beard along the jaw, brows like thatch.
import { smoothStep } from '../form/field.ts';
import type { Proportions } from '../form/proportions.ts';
import { along, backwards, besideEars, scalp, uneven } from './scalp.ts';
import type { Growth } from './growth.ts';

const GREY: Growth['colour'] = [
  [0.3, 0.28, 0.255],
  [0.74, 0.71, 0.66],
];

export function keeperHair(p: Proportions): Growth[] {
  const line = along([
    [0, 96],
    [18, 99],
    [34, 92],
    [52, 60],
    [66, 30],
    [78, -22],
    [92, -22],
    [108, -34],
    [130, -58],
    [180, -72],
  ]);
  return [
    {
      count: 3300,
      steps: 8,
      density: scalp(p, line, 10),
      flow: ([x, y], n, t) => {
        const [a, b, c] = backwards(n, 0.5);
        // swept a little to his left, and loose at the ends over the nape
        return [a + 0.22 * (y > 60 ? 1 : 0) + (y < -30 ? 0.25 * Math.sign(x) * t : 0), b, c];
      },
      length: ([, y, z]) => 30 + 34 * smoothStep(0, 90, y) + (z < -60 ? 8 : 0),
      stand: (t, [, y, z]) => 0.8 + 9 * t ** 0.7 * (0.35 + 0.65 * smoothStep(10, 95, y)) * (z > 55 ? 1.15 : 1),
      layer: 5,
      hug: 0.6,
      stiff: 0.55,
      clump: { size: 9, pull: 0.72 },
      wave: { width: 2.4, turns: 0.8 },
      frizz: 0.3,
      width: 1.3,
      tip: 0.25,
      colour: GREY,
      uneven: 0.16,
    },
  ];
}

/** A sailor's beard: along the jaw and under the chin, none on the lip. */
export function keeperBeard(p: Proportions): Growth[] {
  const upper = along([
      [-6, 30],
      [2, 22],
      [8, 0],
      [22, -38],
      [40, -58],
      [60, -74],
      [76, -84],
      [96, p.mouthY - 21],
    ]),
    lower = along([
      [-6, -30],
      [8, -92],
      [30, -122],
      [60, -140],
      [96, -150],
    ]),
    free = besideEars(p);
  return [
    {
      count: 2700,
      steps: 7,
      density: (at) => {
        const [x, y, z] = at;
        if (z < -4) return 0;
        const edge = uneven(at) * 0.6;
        return (
          smoothStep(4, -7, y - upper(z) - edge - (Math.abs(x) < 16 ? 2.5 : 0)) *
          smoothStep(-4, 6, y - lower(z)) *
          smoothStep(-4, 3, z) *
          free(at)
        );
      },
      flow: ([x, y, z], _n, t) => [0.1 * Math.sign(x) - 0.006 * x * t, -1, 0.2 + 0.006 * (z - 30) - 0.25 * t + (y > -30 ? -0.1 : 0)],
      length: ([x, y, z]) => 10 + 36 * smoothStep(-10, -100, y) * smoothStep(0, 70, z) * (1 - 0.25 * Math.min(1, Math.abs(x) / 60)),
      stand: (t, [, y]) => 0.8 + (3 + 9 * smoothStep(-20, -95, y)) * t,
      layer: 5,
      hug: 0.3,
      stiff: 0.62,
      clump: { size: 7.5, pull: 0.7 },
      wave: { width: 2.6, turns: 1.1 },
      frizz: 0.4,
      width: 1.2,
      tip: 0.2,
      colour: GREY,
      uneven: 0.16,
    },
  ];
}
