import { Shape, smoothMax, smoothMaxOf, type Field } from './field.ts';
import { ellipsoid, polygon, stretched, stroke, tube } from './primitives.ts';

/** How wide the body is against an average one. */
export interface Build {
  shoulder: number;
  chest: number;
  waist: number;
}

/** The mass that coat and shirt are laid on. */
function torso(b: Build): Field {
  const s = new Shape();
  const trunk = tube(
    [
      [0, -250, 0, 125 * b.shoulder],
      [0, -340, 4, 158 * b.chest],
      [0, -540, 2, 142 * b.waist],
      [0, -720, 0, 168],
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
const frontOf = (f: Field, x: number, y: number): number => {
  let z = 300;
  for (let i = 0; i < 200; i++) {
    const d = f(x, y, z);
    if (d < 0.05) break;
    z -= Math.max(0.05, d * 0.8);
  }
  return z;
};

/** A heavy coat with a turned-up collar, cut off as a bust, over a collarless shirt. */
export function buildClothes(b: Build, neckRadius: number): { coat: Shape; shirt: Shape } {
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
  collar(coat, k);
  const placket = polygon([
    [-16, -388],
    [22, -398],
    [26, -2000],
    [-16, -2000],
  ]);
  coat.add((x, y, z) => smoothMaxOf(2, placket(x, y, z), inFront(x, y, z), base(x, y, z) - 3.5, -(base(x, y, z) + 6)), 2);
  coat.add(ellipsoid([14, -425, frontOf(base, 14, -425) + 3.5], [11, 11, 4]), 1);
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
  coat.keep(ellipsoid([0, -170, -40], [222, 232, 175]), 10);
  return { coat, shirt: shirt(base, vee, neckRadius) };
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
  coat.add((x, y, z) => smoothMaxOf(2.2, outline(Math.abs(x), y, z), inFront(x, y, z), base(x, y, z) - 6, -(base(x, y, z) + 8)), 1.5);
}

/** A cone between two tilted planes, open along the V, and a wider one over it: the fold. */
function collar(coat: Shape, k: number): void {
  const cone = (x: number, y: number, z: number, r: number) => (Math.hypot(x, (z + 38) * 0.96) - (r * k + 0.3 * (-118 - y))) * 0.95;
  const top = (y: number, z: number) => (y + 112 + 0.6 * (z + 100)) * 0.85;
  const gap = polygon([
    [0, -300],
    [40, -192],
    [60, -60],
    [-60, -60],
    [-40, -192],
  ]);
  const open: Field = (x, y, z) => -smoothMaxOf(3, gap(x, y, z), -(z + 10));
  coat.add((x, y, z) => smoothMaxOf(3, Math.abs(cone(x, y, z, 61)) - 5, top(y, z), -230 - y, open(x, y, z)), 5);
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
  s.add((x, y, z) => base(x, y, z) + 11, 1);
  s.keep((x, y, z) => Math.max(vee(x, y, z) - 12, inFront(x, y, z) - 20, -390 - y), 3);
  const slit = polygon([
    [0, -222],
    [20, -150],
    [-20, -150],
  ]);
  s.add(
    (x, y, z) =>
      smoothMaxOf(
        2.2,
        Math.abs((Math.hypot(x, (z + 38) * 0.96) - (neckRadius + 4.2 + 0.16 * (-118 - y))) * 0.97) - 3.2,
        (y + 120 + 0.52 * (z + 100)) * 0.88,
        -225 - y,
        -smoothMax(slit(x, y, 0), -(z + 5), 3),
      ),
    3,
  );
  for (const y of [-255, -300]) s.add(ellipsoid([0, y, frontOf(base, 0, y) - 10], [5.5, 5.5, 3]), 0.6);
  return s;
}
