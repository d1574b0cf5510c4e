// What makes a tide-goat of a head: muzzle, leaf ears, horns, chin tuft; and what it wears: a poncho on goat's legs.
import { Shape, smoothMaxOf, type Field, type Knot } from './field.ts';
import { dab, ellipsoid, stroke, tube } from './primitives.ts';
import { FLOOR } from './body.ts';
import type { Proportions } from './proportions.ts';

/** Sculpts the skin: called before the neck is trimmed. */
export function goatForms(s: Shape, p: Proportions): void {
  const base = p.noseBaseY;
  // the muzzle, its broad nose and the two comma-shaped nostrils
  s.add(ellipsoid([0, base - 6, 92], [31, 27, 36]), 18);
  s.add(ellipsoid([0, base + 7, 116], [19, 11, 19], [-14, 0, 0]), 9);
  s.cutBoth(ellipsoid([9.5, base + 3, 134], [4.2, 2.6, 8], [-30, 32, 28]), 2.6);
  s.bump(
    stroke(
      [
        [0, base - 2, 134, 3.4],
        [0, p.mouthY + 7, 124, 4],
      ],
      1,
    ),
    -2.4,
  );
  s.bumpBoth(dab([24, base - 8, 116], [15, 14, 16]), 2.6);
  // ears like leaves, hollow towards the front
  s.addBoth(
    tube(
      [
        [58, 8, -4, 14],
        [88, 12, -16, 16],
        [120, 2, -28, 11],
        [146, -12, -38, 2.5],
      ],
      6,
    ),
    12,
  );
  s.cutBoth(
    tube(
      [
        [76, 11, -1, 5.5],
        [100, 9, -9, 9],
        [130, -5, -22, 4],
      ],
      6,
    ),
    5,
  );
  s.bumpBoth(dab([30, 58, 70], [24, 26, 26]), 4);
}

/** Horns that coil once beside the ears, with rings of growth. */
export function buildHorns(): Shape {
  const knots: Knot[] = [];
  for (let i = 0; i <= 84; i++) {
    const t = i / 84,
      a = -0.5 + t * 5.2,
      r = 58 * (1 - 0.55 * t);
    knots.push([
      42 + 58 * t ** 1.3,
      92 + Math.sin(a + 1.2) * r - 14 + 6 * t,
      -8 - Math.cos(a + 1.2) * r + 26,
      (21 * (1 - t) ** 0.8 + 2) * (1 + 0.08 * Math.abs(Math.sin(i * 0.78))),
    ]);
  }
  return new Shape().addBoth(tube(knots, 1), 1);
}

const HEM = -760;

/** Radius of the poncho at a height, without its folds; its depth is less by FLATNESS. */
const wide = (y: number): number => {
  const t = Math.min(1.25, Math.max(0, (-140 - y) / 600));
  return 66 + 215 * t ** 0.62 - 40 * t * t;
};
const FLATNESS = 1.22;

/** A poncho of heavy felt: folds that deepen downwards, a rolled collar. As a bust it ends in a round. */
export function buildPoncho(full: boolean): Shape {
  const s = new Shape();
  const bell: Field = (x, y, z) => {
    const t = Math.min(1.25, Math.max(0, (-140 - y) / 600)),
      phi = Math.atan2(x, z + 40);
    const folds = t * (0.085 * Math.sin(7 * phi + 1.1 * Math.sin(2 * phi)) + 0.04 * Math.sin(15 * phi + 2 * Math.sin(3 * phi)));
    return (Math.hypot(x, (z + 40) * FLATNESS) - wide(y) * (1 + folds)) * 0.62;
  };
  s.add((x, y, z) => smoothMaxOf(6, bell(x, y, z), y + 138, full ? HEM + 16 * Math.sin(Math.atan2(x, z + 40) * 3) - y : -430 - y), 1);
  if (full) s.cut((x, y, z) => Math.max(bell(x, y, z) + 13, y + 330), 8);
  // rolled collar
  const ring: Knot[] = Array.from({ length: 17 }, (_, i) => {
    const a = (i / 16) * 2 * Math.PI;
    return [Math.sin(a) * 74, -160 - 16 * Math.cos(a), -38 + Math.cos(a) * 68, 22 + 2.5 * Math.sin(5 * a)];
  });
  s.add(tube(ring, 4), 6);
  s.cut(
    tube(
      [
        [0, -80, -34, 58],
        [0, -185, -42, 58],
      ],
      1,
    ),
    8,
  );
  // a band of thick stitches above the hem
  for (const y of full ? [HEM + 74, HEM + 100] : [])
    s.add((x, y2, z) => smoothMaxOf(3, Math.abs(bell(x, y2, z)) - 5, Math.abs(y2 - y) - 6), 3);
  if (!full) s.keep(ellipsoid([0, -170, -40], [236, 226, 190]), 10);
  return s;
}

/** A rope round the shoulders. */
export function buildRope(): Shape {
  const s = new Shape();
  const at = (a: number, twist: number): Knot => {
    const y = -232 - 26 * Math.cos(a) + 3.4 * Math.cos(twist),
      r = wide(y) + 3 + 3.4 * Math.sin(twist);
    return [Math.sin(a) * r, y, -40 + (Math.cos(a) * r) / FLATNESS, 5];
  };
  for (const strand of [0, 1, 2])
    s.add(
      tube(
        Array.from({ length: 181 }, (_, i) => at((i / 180) * 2 * Math.PI, (strand / 3) * 2 * Math.PI + i * 0.7)),
        1,
      ),
      1,
    );
  return s;
}

/** Goat's legs with their hair: thigh, knee forward, hock back. */
export function buildGoatLegs(): Shape {
  const s = new Shape();
  const leg = tube(
    [
      [88, -700, -52, 96],
      [92, -860, -28, 92],
      [98, -1030, 18, 70],
      [102, -1180, -34, 50],
      [104, -1300, -104, 38],
      [104, -1430, -78, 33],
      [106, -1560, -42, 34],
    ],
    14,
  );
  const hair: Field = (x, y, z) => {
    const a = Math.atan2(z + 40, Math.abs(x) - 100);
    const w = a * 15 + 0.9 * Math.sin(y * 0.03 + a * 2);
    const thick = 0.35 + 0.65 * Math.min(1, Math.max(0, (y + 1560) / 500));
    return (
      thick *
      (3.4 * (Math.sqrt(Math.abs(Math.sin(w)) + 0.02) - 0.7) +
        1.6 * Math.sin(w * 2.3 + y * 0.05) +
        2.2 * Math.sin(y * 0.085 + Math.sin(a * 7) * 2.2))
    );
  };
  s.addBoth((x, y, z) => {
    const d = leg(x, y, z);
    return d > 14 ? d * 0.85 : (d - hair(x, y, z)) * 0.72;
  }, 1);
  s.add(ellipsoid([0, -690, -45], [150, 110, 105]), 26);
  return s;
}

/** Cloven hooves. */
export function buildHooves(): Shape {
  const s = new Shape(),
    f = FLOOR;
  s.addBoth(
    tube(
      [
        [106, f + 86, -40, 36],
        [107, f + 40, -22, 44],
        [108, f + 8, -10, 50],
      ],
      6,
    ),
    1,
  );
  s.addBoth(ellipsoid([108, f + 22, 26], [44, 38, 42]), 16);
  s.cutBoth((x, y, z) => Math.max(Math.abs(x - 108) - 3.5 - 0.05 * (z + 10), -(z + 22), y - (f + 74)), 4);
  s.cut((_x, y) => y - f, 1);
  return s;
}
