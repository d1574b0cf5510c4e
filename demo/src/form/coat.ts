import { Shape, smoothMax, smoothMaxOf, type Field, type Knot } from './field.ts';
import { ellipsoid, polygon, stretched, stroke, tube } from './primitives.ts';

/** How wide the body is against an average one, and whether it is all there or ends as a bust. */
export interface Build {
  shoulder: number;
  chest: number;
  waist: number;
  hip: number;
  full: boolean;
}

/** Half the way down the thigh: where a coat ends. */
export const COAT_HEM = -1010;
/** The left arm at rest, a little away from the body: shoulder, elbow, wrist, as knots of a sleeve. */
export const armKnots = (b: Build, r = 1): Knot[] => [
  [150 * b.shoulder, -232, -54, 47 * r],
  [196 * b.shoulder, -370, -62, 47 * r],
  [236 * b.shoulder, -510, -62, 44 * r],
  [262 * b.shoulder, -630, -42, 42 * r],
  [286 * b.shoulder, -775, -12, 42 * r],
];

/** The mass that coat and shirt are laid on. */
function torso(b: Build): Field {
  const s = new Shape();
  const trunk = tube(
    [
      [0, -250, 0, 125 * b.shoulder],
      [0, -340, 4, 158 * b.chest],
      [0, -540, 2, 142 * b.waist],
      [0, -720, 0, 168 * b.hip],
      ...(b.full ? [[0, COAT_HEM - 60, 4, 190 * b.hip] as Knot] : []),
    ],
    14,
  );
  s.add(stretched(trunk, [1, 1, 0.7], [0, 0, -42]), 1);
  s.addBoth(
    tube([
      [34, -186, -64, 26],
      [95 * b.shoulder, -203, -58, 36],
      [158 * b.shoulder, -224, -54, 46],
    ]),
    34,
  );
  s.addBoth(ellipsoid([68, -320, 6], [72, 78, 52]), 40);
  s.add(ellipsoid([0, -226, -66], [105, 58, 46]), 30);
  return (x, y, z) => s.at(x, y, z);
}

const inFront: Field = (_x, _y, z) => -(z + 20);
/** Where a field begins at (x, y), marched from the front. */
export const frontOf = (f: Field, x: number, y: number, from = 300): number => {
  let z = from;
  for (let i = 0; i < 200; i++) {
    const d = f(x, y, z);
    if (d < 0.05) break;
    z -= Math.max(0.05, d * 0.8);
  }
  return z;
};

/** A heavy coat with a turned-up collar, cut off as a bust, over a collarless shirt. */
export function buildCoat(b: Build, neckRadius: number): { coat: Shape; shirt: Shape } {
  const base = torso(b),
    w = b.shoulder,
    k = neckRadius / 54;
  const vee = polygon([
    [0, -395],
    [52, -185],
    [52, -120],
    [-52, -120],
    [-52, -185],
  ]);
  const coat = new Shape();
  coat.add(base, 1);
  if (b.full) sleeves(coat, b);
  else
    coat.addBoth(
      tube(
        [
          [158 * w, -232, -54, 50],
          [192 * w, -350, -60, 50],
          [206 * w, -460, -60, 47],
        ],
        3,
      ),
      22,
    );
  coat.cut((x, y, z) => smoothMaxOf(3, vee(x, y, z), inFront(x, y, z), -(base(x, y, z) + 13)), 3);
  coat.cut(
    tube(
      [
        [0, -80, -34, neckRadius + 8],
        [0, -200, -42, neckRadius + 10],
      ],
      1,
    ),
    8,
  );
  lapels(coat, base);
  collar(coat, base, k);
  const placket = polygon([
    [-16, -388],
    [22, -398],
    [26, -2000],
    [-16, -2000],
  ]);
  coat.add((x, y, z) => smoothMaxOf(3, placket(x, y, z), inFront(x, y, z), base(x, y, z) - 3.5, -(base(x, y, z) + 6)), 2);
  // folds from the shoulder, and a fainter one across the chest
  coat.bumpBoth(
    stroke([
      [150, -250, 10, 16],
      [128, -330, 50, 22],
      [120, -420, 50, 16],
    ]),
    -6,
  );
  coat.bumpBoth(
    stroke([
      [176, -262, -10, 12],
      [160, -330, 26, 18],
      [166, -400, 20, 14],
    ]),
    3.5,
  );
  coat.bumpBoth(
    stroke([
      [96, -228, 6, 12],
      [104, -282, 42, 16],
    ]),
    -2.5,
  );
  if (b.full) skirts(coat, base);
  else coat.keep(ellipsoid([0, -170, -40], [222, 232, 175]), 10);
  return { coat, shirt: shirt(base, vee, neckRadius) };
}

function sleeves(coat: Shape, b: Build): void {
  const sleeve = tube(armKnots(b), 12),
    w = b.shoulder;
  // the cuff's cut belongs to the sleeve alone
  coat.addBoth((x, y, z) => smoothMax(sleeve(x, y, z), -752 - y, 4), 14);
  const fold = (y: number, out: number, amount: number) =>
    coat.bumpBoth(
      stroke(
        [
          [212 * w + out, y, -16, 15],
          [238 * w + out, y - 18, -12, 17],
          [262 * w + out, y + 2, -34, 13],
        ],
        6,
      ),
      amount,
    );
  fold(-492, -6, -5);
  fold(-528, 2, 3.4);
  fold(-566, 8, -4);
  coat.bumpBoth(
    stroke(
      [
        [150 * w, -300, -54, 16],
        [172 * w, -450, -58, 22],
      ],
      6,
    ),
    -4,
  );
}

/** Below the waist: pocket flaps, folds that fall to the hem, the opening in front, the hem. */
function skirts(coat: Shape, base: Field): void {
  const flap = polygon([
    [70, -668],
    [136, -655],
    [138, -700],
    [72, -712],
  ]);
  coat.add((x, y, z) => smoothMaxOf(2, flap(Math.abs(x), y, z), inFront(x, y, z), base(x, y, z) - 5, -(base(x, y, z) + 6)), 1.5);
  for (const [x0, x1, deep] of [
    [52, 70, -7],
    [88, 112, -6],
    [128, 160, -7],
  ] as const)
    coat.bumpBoth(
      stroke(
        [
          [x0, -700, 62, 16],
          [x1, -840, 78, 30],
          [x1 + 10, -1020, 84, 40],
        ],
        6,
      ),
      deep,
    );
  coat.bump(
    stroke(
      [
        [26, -700, 92, 6],
        [30, -860, 100, 9],
        [36, -1040, 108, 14],
      ],
      6,
    ),
    -7,
  );
  coat.cut((x, y) => y - COAT_HEM - 6 * Math.sin(x * 0.02), 4);
  // hollow from below, so that the legs come out of a coat and not out of a block
  coat.cut((x, y, z) => Math.max(base(x, y, z) + 24, y - COAT_HEM - 120), 6);
}

function lapels(coat: Shape, base: Field): void {
  const outline = polygon([
    [4, -398],
    [50, -186],
    [66, -176],
    [98, -252],
    [84, -262],
    [92, -278],
    [40, -372],
  ]);
  coat.add((x, y, z) => smoothMaxOf(3.2, outline(Math.abs(x), y, z), inFront(x, y, z), base(x, y, z) - 6, -(base(x, y, z) + 8)), 1.5);
}

/** A cone between two tilted planes, open along the V, and a wider one over it: the fold. */
function collar(coat: Shape, base: Field, k: number): void {
  const cone = (x: number, y: number, z: number, r: number) => (Math.hypot(x, (z + 38) * 0.96) - (r * k + 0.3 * (-118 - y))) * 0.95;
  const top = (y: number, z: number) => (y + 112 + 0.6 * (z + 100)) * 0.85;
  const gap = polygon([
    [0, -330],
    [50, -232],
    [54, -186],
    [62, -60],
    [-62, -60],
    [-54, -186],
    [-50, -232],
  ]);
  const open: Field = (x, y, z) => -smoothMaxOf(3, gap(x, y, z), -(z + 10));
  // below the neck it lies close to the coat, so that its end is no step
  const close: Field = (x, y, z) => base(x, y, z) - 3 - 0.9 * Math.max(0, y + 232);
  coat.add((x, y, z) => smoothMaxOf(3, Math.abs(cone(x, y, z, 61)) - 5, top(y, z), -290 - y, open(x, y, z), close(x, y, z)), 5);
  coat.add(
    (x, y, z) =>
      smoothMaxOf(
        3,
        Math.abs(cone(x, y, z, 66.5) + 0.06 * Math.min(0, top(y, z))) - 4.5,
        top(y, z) + 2,
        -(top(y, z) + 36 + Math.abs(x) * 0.12),
        open(x, y, z),
      ),
    3,
  );
}

function shirt(base: Field, vee: Field, neckRadius: number): Shape {
  const s = new Shape();
  // below the band round the neck, so that nothing of it runs into the neck
  s.add((x, y, z) => base(x, y, z) + 11, 1);
  s.keep((x, y, z) => Math.max(vee(x, y, z) - 12, inFront(x, y, z) - 20, -390 - y, (y + 196) * 0.9), 3);
  const slit = polygon([
    [0, -222],
    [20, -150],
    [-20, -150],
  ]);
  s.add(
    (x, y, z) =>
      smoothMaxOf(
        2.2,
        Math.abs((Math.hypot(x, (z + 38) * 0.96) - (neckRadius + 7 + 0.2 * (-118 - y))) * 0.97) - 3.2,
        (y + 109 + 0.52 * (z + 100)) * 0.88,
        -225 - y,
        -smoothMax(slit(x, y, 0), -(z + 5), 3),
      ),
    3,
  );
  return s;
}
