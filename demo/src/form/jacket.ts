// The signaller's clothes: a short double-breasted jacket with a standing collar, and a long knitted scarf.
import { Shape, smoothMax, smoothMaxOf, type Field, type Knot } from './field.ts';
import { ellipsoid, polygon, stretched, stroke, tube } from './primitives.ts';
import { armKnots, type Build } from './coat.ts';

export const JACKET_HEM = -700;

/** The edge of the flap that closes to her right, from the collar down. */
export const FLAP: [number, number][] = [
  [-64, -205],
  [-50, -330],
  [-46, JACKET_HEM - 80],
];
/** Buttons in two rows. */
export const jacketButtons = (b: Build): [number, number][] =>
  (b.full ? [-275, -365, -455, -545] : [-275, -365]).flatMap((y): [number, number][] => [
    [-34, y],
    [40 + (y + 275) * 0.06, y],
  ]);

function trunk(b: Build): Field {
  const s = new Shape();
  const core = tube(
    [
      [0, -250, 0, 118 * b.shoulder],
      [0, -345, 4, 146 * b.chest],
      [0, -500, 2, 128 * b.waist],
      [0, -640, 0, 158 * b.hip],
      [0, JACKET_HEM - 60, 0, 176 * b.hip],
    ],
    14,
  );
  s.add(stretched(core, [1, 1, 0.7], [0, 0, -42]), 1);
  s.addBoth(
    tube([
      [30, -186, -62, 24],
      [95 * b.shoulder, -206, -58, 33],
      [156 * b.shoulder, -230, -54, 42],
    ]),
    30,
  );
  s.addBoth(ellipsoid([60, -345, 22], [58, 62, 44]), 40);
  s.add(ellipsoid([0, -226, -64], [98, 56, 44]), 30);
  return (x, y, z) => s.at(x, y, z);
}

export function buildJacket(b: Build): Shape {
  const s = new Shape(),
    base = trunk(b);
  s.add(base, 1);
  if (b.full) {
    const sleeve = tube(armKnots(b, 0.86), 12);
    s.addBoth((x, y, z) => smoothMax(sleeve(x, y, z), -748 - y, 4), 14);
    // turned-up cuffs
    s.addBoth((x, y, z) => smoothMaxOf(3, sleeve(x, y, z) - 5, -750 - y, y + 690), 3);
  } else
    s.addBoth(
      tube(
        [
          [154 * b.shoulder, -236, -54, 43],
          [188 * b.shoulder, -350, -60, 43],
          [204 * b.shoulder, -460, -60, 41],
        ],
        6,
      ),
      18,
    );
  // standing collar, open in front, under the scarf
  const cone: Field = (x, y, z) => (Math.hypot(x, (z + 40) * 0.95) - (54 + 0.34 * (-118 - y))) * 0.94;
  const gap = polygon([
    [0, -240],
    [34, -120],
    [-34, -120],
  ]);
  s.add(
    (x, y, z) => smoothMaxOf(3, Math.abs(cone(x, y, z)) - 4.5, y + 152 + 0.4 * (z + 80), -220 - y, -smoothMaxOf(3, gap(x, y, 0), -(z + 5))),
    4,
  );
  s.cut(
    tube(
      [
        [0, -80, -36, 52],
        [0, -190, -42, 55],
      ],
      1,
    ),
    6,
  );
  // the flap that closes to her right, with two rows of buttons
  const flap = polygon([...FLAP, [120, JACKET_HEM - 80], [120, -205]]);
  s.add((x, y, z) => smoothMaxOf(3.4, flap(x, y, z), -(z - 10), base(x, y, z) - 4, -(base(x, y, z) + 8)), 1.5);
  // folds: from the armpits, and at the waist
  s.bumpBoth(
    stroke(
      [
        [142, -262, 4, 12],
        [112, -340, 50, 20],
        [104, -430, 48, 15],
      ],
      6,
    ),
    -4.5,
  );
  s.bump(
    stroke(
      [
        [-110, -500, 24, 12],
        [-30, -520, 56, 18],
        [70, -494, 44, 12],
      ],
      6,
    ),
    -4,
  );
  s.bump(
    stroke(
      [
        [-80, -548, 40, 10],
        [0, -560, 58, 14],
        [96, -536, 34, 10],
      ],
      6,
    ),
    3,
  );
  if (b.full) s.cut((x, y) => y - JACKET_HEM - 4 * Math.sin(x * 0.03), 5);
  else s.keep(ellipsoid([0, -170, -40], [206, 226, 165]), 10);
  return s;
}

/** Two turns round the neck, one end in front and one over the shoulder. `full`: the ends hang down. */
export function buildScarf(full: boolean): Shape {
  const s = new Shape();
  const ring = (y: number, tilt: number, wide: number, r: number): Knot[] =>
    Array.from({ length: 17 }, (_, i) => {
      const a = (i / 16) * 2 * Math.PI;
      return [
        Math.sin(a) * wide,
        y + tilt * Math.cos(a) + 4 * Math.sin(3 * a + y),
        -38 + Math.cos(a) * wide * 0.94,
        r + 2 * Math.sin(2 * a + y),
      ] as Knot;
    });
  const ribs: Field = (x, y, z) => {
    const a = Math.atan2(x, z + 38);
    return 0.9 * Math.abs(Math.sin(a * 34)) + 0.7 * Math.abs(Math.sin((y + 12 * Math.cos(a)) * 0.35));
  };
  const knitted =
    (f: Field, pattern: Field): Field =>
    (x, y, z) => {
      const d = f(x, y, z);
      return d > 12 ? d * 0.9 : (d + pattern(x, y, z) - 0.8) * 0.8;
    };
  s.add(knitted(tube(ring(-158, -17, 68, 23), 4), ribs), 1);
  s.add(knitted(tube(ring(-190, -22, 86, 25), 4), ribs), 2.5);
  const end = full ? -560 : -330;
  const tail: Knot[] = [
    [28, -200, 62, 24],
    [44, -250, 92, 25],
    [50, (end - 250) / 2, 96, 27],
    [58, end, 84, 28],
  ];
  const flat = stretched(
    tube(
      tail.map(([x, y, z, r]) => [x, y, z / 0.5, r] as Knot),
      8,
    ),
    [1, 1, 0.5],
    [0, 0, 0],
  );
  s.add(
    knitted(
      (x, y, z) => Math.max(flat(x, y, z), end + 6 - y),
      (x, y) => 0.9 * Math.abs(Math.sin(x * 0.6)) + 0.5 * Math.abs(Math.sin(y * 0.35)),
    ),
    3,
  );
  // fringe
  for (let i = -2; i <= 2; i++)
    s.add(
      tube(
        [
          [58 + i * 9.5, end + 10, 84, 4],
          [59 + i * 10.5, end - 34, 82 + i, 2.4],
        ],
        1,
      ),
      2,
    );
  s.add(
    knitted(
      tube(
        [
          [-54, -196, -82, 24],
          [-92, -216, -104, 23],
          [-112, -260, -132, 22],
          [-118, full ? -420 : -300, -150, 20],
        ],
        8,
      ),
      (x, y) => 0.8 * Math.abs(Math.sin(y * 0.35)) + 0.5 * Math.abs(Math.sin(x * 0.5)),
    ),
    4,
  );
  return s;
}
