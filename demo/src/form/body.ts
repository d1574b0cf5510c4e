// What coats leave to see: trousers, boots, hands. Millimetres, the frame of proportions.ts; the floor lies at FLOOR.
import { Shape, type Knot } from './field.ts';
import { ellipsoid, stretched, stroke, tube } from './primitives.ts';
import { armKnots, type Build } from './coat.ts';

export const FLOOR = -1635;

/** Trousers; `flare` widens them towards the foot, as sailors wear them. */
export function buildTrousers(b: Build, flare = 0): Shape {
  const s = new Shape(),
    hem = FLOOR + (flare > 0 ? 40 : 105);
  s.addBoth(
    tube(
      [
        [74, -700, -45, 92 * b.hip],
        [84, -860, -44, 86 * b.hip],
        [92, -1000, -40, 78 * b.hip + flare * 6],
        [96, -1140, -40, 66 * b.hip + flare * 14],
        [100, -1320, -50, 60 * b.hip + flare * 26],
        [103, hem - 20, -52, 56 * b.hip + flare * 36],
      ],
      14,
    ),
    1,
  );
  s.add(ellipsoid([0, -720, -45], [150 * b.hip, 110, 105 * b.hip]), 24);
  // the left leg carries, the right one rests: its knee bends, and the folds are not the same
  const fold = (x: number, y: number, z: number, r: number, amount: number) =>
    s.bump(
      stroke(
        [
          [x - 34, y + 6, z - 8, r],
          [x, y - 8, z, r * 1.15],
          [x + 36, y + 10, z - 16, r * 0.9],
        ],
        6,
      ),
      amount,
    );
  fold(98, -1120, 22, 18, -5);
  fold(100, -1172, 16, 15, -4);
  fold(-96, -1098, 26, 20, -6);
  fold(-98, -1160, 18, 16, -3);
  if (!flare)
    for (const [x, y, d] of [
      [100, -1420, -5],
      [104, -1462, -3.5],
      [-100, -1405, -3],
      [-104, -1448, -5],
      [-101, -1484, -3],
    ] as const)
      fold(x, y, -8, 14, d);
  else
    for (const [x, r] of [
      [70, 16],
      [128, 22],
      [-84, 20],
      [-136, 16],
    ] as const)
      s.bump(
        stroke(
          [
            [x, -1200, 10, r * 0.6],
            [x * 1.04, -1400, 22, r],
            [x * 1.08, hem, 36, r * 1.5],
          ],
          6,
        ),
        -6,
      );
  s.cut((x, y) => y - hem - 3 * Math.sin(x * 0.05), 4);
  return s;
}

/** Boots with a sole. */
export function buildBoots(): Shape {
  const s = new Shape(),
    f = FLOOR;
  s.addBoth(
    tube(
      [
        [101, -1470, -60, 46],
        [101, f + 80, -58, 44],
        [101, f + 45, -62, 42],
      ],
      6,
    ),
    1,
  );
  s.addBoth(
    tube(
      [
        [101, f + 40, -64, 40],
        [106, f + 44, 10, 40],
        [111, f + 34, 75, 40],
        [114, f + 26, 112, 32],
      ],
      6,
    ),
    22,
  );
  for (const y of [70, 92])
    s.bumpBoth(
      stroke(
        [
          [66, f + y, 8, 9],
          [106, f + y + 4, 22, 11],
          [146, f + y, 6, 9],
        ],
        6,
      ),
      -3,
    );
  s.cut((_x, y) => y - f, 1);
  const foot = tube(
    [
      [101, f + 10, -66, 44],
      [107, f + 10, 20, 42],
      [113, f + 10, 108, 39],
    ],
    6,
  );
  s.addBoth((x, y, z) => Math.max(foot(x, y, z), y - (f + 16), f - y), 2);
  return s;
}

/** Where the left hand holds something: the middle of its fist. */
export function grip(b: Build): [number, number, number] {
  const [x, y, z] = armKnots(b).at(-1)!;
  return [x - 6, y - 92, z + 20];
}

/** Both hands, fingers curled as if they held a bar that runs from front to back. */
export function buildHands(b: Build): Shape {
  const s = new Shape(),
    [X, Y, Z] = armKnots(b).at(-1)!;
  s.addBoth(
    tube(
      [
        [X - 4, Y + 50, Z - 6, 27],
        [X, Y, Z, 25],
      ],
      1,
    ),
    1,
  );
  const palm = tube(
    [
      [0, 0, 0, 25],
      [0, -40, 4, 36],
      [0, -78, 8, 37],
    ],
    6,
  );
  s.addBoth(stretched(palm, [0.45, 1, 1], [X, Y, Z]), 12);
  for (let i = 0; i < 4; i++) {
    const z = Z + 36 - i * 19,
      l = [0.92, 1, 0.97, 0.84][i]!;
    s.addBoth(
      tube(
        [
          [X + 3, Y - 76, z, 11.5],
          [X + 1, Y - 76 - 32 * l, z + 2, 10.6],
          [X - 14, Y - 78 - 44 * l, z + 4, 9.8],
          [X - 27, Y - 74 - 30 * l, z + 5, 9],
          [X - 26, Y - 74 - 10 * l, z + 5, 7.8],
        ] as Knot[],
        5,
      ),
      4,
    );
  }
  s.addBoth(
    tube(
      [
        [X - 5, Y - 24, Z + 26, 14],
        [X - 20, Y - 54, Z + 42, 12],
        [X - 30, Y - 88, Z + 40, 9.5],
      ],
      6,
    ),
    8,
  );
  return s;
}
