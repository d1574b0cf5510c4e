// The tide-goat: a forelock between the horns, a mane down the nape, fur that thickens from the jaw to the neck and on the ears, a beard.
import { smoothStep } from '../form/field.ts';
import type { Proportions } from '../form/proportions.ts';
import type { Growth } from './growth.ts';

const PALE: Growth['colour'] = [
  [0.24, 0.21, 0.175],
  [0.58, 0.53, 0.46],
];
const shared = { stiff: 0.55, tip: 0.2, colour: PALE, uneven: 0.2, frizz: 0.35 };

export function goatHair(p: Proportions): Growth[] {
  return [
    {
      ...shared,
      count: 1150,
      steps: 9,
      density: ([x, y, z]) => smoothStep(34, 26, Math.abs(x)) * smoothStep(p.crown - 38, p.crown - 26, y) * smoothStep(-20, 10, z),
      flow: ([x], _n, t) => [0.012 * x + 0.25 * Math.sin(x * 0.2), 0.25 - 1.2 * t, 1],
      length: ([x]) => 62 + 14 * Math.cos(x * 0.13),
      stand: (t) => 1 + 9 * Math.sin(Math.PI * Math.min(1, 0.1 + t * 0.8)),
      layer: 5,
      hug: 0.5,
      clump: { size: 9, pull: 0.8 },
      wave: { width: 3, turns: 0.9 },
      width: 1.35,
    },
    {
      ...shared,
      count: 1700,
      steps: 7,
      density: ([x, y, z]) => smoothStep(10, -25, z) * smoothStep(60, 40, Math.abs(x)) * smoothStep(-190, -150, y),
      flow: ([x, y, z], [, ny, nz]) => [0.012 * x, z < -40 || y < 60 ? -1 : nz - 0.2, z < -40 ? -0.25 : -ny],
      length: ([, y]) => 40 + 10 * Math.sin(y * 0.05),
      stand: (t) => 1 + 9 * t,
      layer: 6,
      hug: 0.4,
      clump: { size: 10, pull: 0.78 },
      wave: { width: 3, turns: 0.8 },
      width: 1.45,
    },
  ];
}

/** Fur: short, lying back; none about eyes, nose and mouth, where light is read. */
export function goatFur(p: Proportions): Growth[] {
  return [
    {
      ...shared,
      count: 5200,
      steps: 3,
      density: ([x, y, z]) => {
        const neck = smoothStep(p.chinY + 18, p.chinY - 8, y) * smoothStep(-215, -190, y),
          flank = smoothStep(46, 24, z) * smoothStep(70, 40, y) * smoothStep(60, 42, z),
          ear = smoothStep(70, 84, Math.abs(x)) * (y > -60 ? 1.6 : 0);
        return Math.min(1.6, Math.max(neck, flank, ear));
      },
      flow: ([x], _n, t) => [Math.abs(x) > 70 ? Math.sign(x) : 0.1 * Math.sign(x), -0.55 - 0.3 * t, Math.abs(x) > 70 ? -0.35 : -0.7],
      length: ([x, y]) => (Math.abs(x) > 70 && y > -60 ? 9 : 11 + 9 * smoothStep(-80, -150, y)),
      stand: (t) => 0.5 + 2.2 * t,
      layer: 1.6,
      hug: 0.3,
      clump: { size: 6, pull: 0.6 },
      width: 1.45,
    },
  ];
}

export function goatBeard(p: Proportions): Growth[] {
  return [
    {
      ...shared,
      count: 850,
      steps: 8,
      density: ([x, y, z]) =>
        smoothStep(19, 12, Math.abs(x)) * smoothStep(p.chinY + 14, p.chinY + 8, y) * smoothStep(p.chinZ - 50, p.chinZ - 36, z),
      flow: ([x], _n, t) => [-0.02 * x * t, -1, 0.25 - 0.5 * t],
      length: ([x]) => 74 - 1.4 * Math.abs(x),
      stand: (t) => 1 + 4 * t,
      layer: 3,
      hug: 0.05,
      clump: { size: 8, pull: 0.82 },
      wave: { width: 3.5, turns: 1 },
      width: 1.25,
    },
  ];
}
