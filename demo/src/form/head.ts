// The head from large to small: skull and jaw, brow and sockets, nose, mouth, soft forms, lids, age, neck.
import { Shape, type Field, type Knot } from './field.ts';
import { dab, ellipsoid, stroke, tube } from './primitives.ts';
import { age, eyelids, mouth, scales, softForms } from './features.ts';
import { earFrame, eyeCentre, type Proportions } from './proportions.ts';

/** The skin of the head and neck; `forms` may sculpt the head before it is set on its neck. */
export function buildSkin(p: Proportions, forms?: (s: Shape, p: Proportions) => void): Shape {
  const s = new Shape();
  skull(s, p);
  jaw(s, p);
  cheeks(s, p);
  brow(s, p);
  nose(s, p);
  mouth(s, p);
  softForms(s, p);
  eyelids(s, p);
  if (p.age > 0.5) age(s, p);
  if (p.ear > 0) ear(s, p);
  forms?.(s, p);
  neck(s, p);
  return s;
}

function skull(s: Shape, p: Proportions): void {
  const { deep, tall } = scales(p);
  s.add(ellipsoid([0, p.crown - 77, (p.foreheadZ + p.backZ) / 2], [p.headWidth, 77, (p.foreheadZ - p.backZ) / 2]), 1);
  s.add(ellipsoid([0, 46, p.foreheadZ - 46], [p.headWidth * 0.74, 44, 45]), 24);
  s.add(ellipsoid([0, -18 * tall, 36 + deep * 0.6], [p.cheekboneX - 7, 58 * tall, 50 + deep * 0.4]), 18);
  s.add(ellipsoid([0, p.mouthY + 9, p.mouthZ - 39], [33, 36, 37.5]), 14);
}

function jaw(s: Shape, p: Proportions): void {
  const { jawX: x, jawY: y, jawRadius: r, chinY } = p;
  s.addBoth(
    tube(
      [
        [p.cheekboneX - 10, -8, 2, 11],
        [x + 5, y + 22, 3, r],
        [x, y, 8, r],
      ],
      3,
    ),
    16,
  );
  s.addBoth(
    tube([
      [x, y, 8, r],
      [x * 0.78, (y + chinY + 14) / 2 - 2, 40, r - 0.5],
      [15 * p.chinWidth, chinY + 14, p.chinZ - 22, 12],
    ]),
    16,
  );
  s.add(ellipsoid([0, (y + chinY) / 2 + 8, 42], [x - 8, 24, 40]), 18);
  s.add(ellipsoid([0, chinY + 15, p.chinZ - 16], [18 * p.chinWidth, 14.5, 15.5]), 12);
}

function cheeks(s: Shape, p: Proportions): void {
  const { deep, wide, tall } = scales(p);
  const more = p.cheekbone - 1,
    sunk = p.hollow - 0.6;
  s.addBoth(ellipsoid([p.cheekboneX - 15, -19 * tall, 60 + deep], [17, 11.5 + 1.2 * more, 15 + 2 * more], [0, 38, -12]), 14);
  s.addBoth(
    tube(
      [
        [p.cheekboneX - 13, -19, 54 + deep, 9],
        [p.cheekboneX - 5, -14, 34, 9.5],
        [p.cheekboneX - 3, -9, 6, 9],
      ],
      3,
    ),
    18,
  );
  s.addBoth(ellipsoid([p.cheekboneX - 17 - 2 * sunk, -40 * tall, 20], [11.5, 32 * tall, 24], [8, 0, 0]), 18);
  s.addBoth(ellipsoid([36 * wide, -36 * tall, 62 + deep], [18 * wide, 22 * tall, 19]), 16);
  s.addBoth(ellipsoid([37 * wide - 2.5 * sunk, -54 * tall, 45 + deep * 0.7], [15, 24 * tall, 23]), 18);
}

function brow(s: Shape, p: Proportions): void {
  const { wide } = scales(p);
  const { browY: y, browZ: z } = p,
    r = 0.5 * p.browMass,
    e = eyeCentre(p);
  s.addBoth(
    tube(
      [
        [5, y - 1, z - 10, 7 + r],
        [20 * wide, y + 2, z - 12, 7.5 + r],
        [38 * wide, y + 2, z - 19, 7 + r],
        [47.5 * wide, y - 6, z - 29, 6.5],
        [49.5 * wide, y - 19, z - 33, 5.5],
      ],
      6,
    ),
    14,
  );
  s.cutBoth(ellipsoid([e[0] + 0.5, 0.5, e[2] + 20], [19, 12.5, 17.5], [0, 14, -4]), 10);
  // beside the bridge; any larger and the face looks angry
  s.cutBoth(ellipsoid([20.5, 1, e[2] + 20], [4, 6, 10.5]), 12);
}

function nose(s: Shape, p: Proportions): void {
  const { noseBaseY: base, noseZ: z, tipRadius: r, bridgeWidth: w, bridgeZ, tipLift: lift } = p;
  const out = z - bridgeZ,
    tipY = base + 8.5 + lift;
  s.add(
    tube([
      [0, 12, bridgeZ - w - 2, w + 1],
      [0, 0, bridgeZ - w, w - 0.5],
      [0, base * 0.3, bridgeZ - w + out * 0.3 + p.hump, w - 0.6],
      [0, base * 0.58, bridgeZ - w + out * 0.62 + p.hump * 0.6, w - 0.4],
      [0, tipY + 1, z - r - 1.5, r - 1.2],
    ]),
    9,
  );
  // side walls: without them the bridge is a wall of its own
  s.addBoth(
    tube(
      [
        [6.5, 0, bridgeZ - 14, 6],
        [6.5, base * 0.45, bridgeZ - 6, 6.8],
        [p.noseWidth - 9.2, base + 11.5, z - 21.5, 6.8],
      ],
      6,
    ),
    12,
  );
  s.add(ellipsoid([0, tipY, z - r], [r + 0.3, r - 0.8, r]), 4);
  s.addBoth(ellipsoid([p.noseWidth - 5.2, base + 6.2 + lift * 0.4, z - 20.5], [5.6, 6.8, 9.2], [-8, 20, 10]), 6.5);
  s.add(
    tube(
      [
        [0, base + 2.5 + lift, z - 8.5, 3.4],
        [0, base - 0.5 + lift * 0.5, z - 17, 4],
      ],
      1,
    ),
    4,
  );
  s.cutBoth(ellipsoid([6.6, base - 0.6 + lift * 0.6, z - 15], [2.9, 4.2, 5.4], [-14, 18, 14]), 1.8);
  s.bumpBoth(
    stroke(
      [
        [p.noseWidth + 0.5, base + 11, z - 27, 4.6],
        [p.noseWidth + 1.5, base + 4, z - 30, 4.6],
        [p.noseWidth - 2, base - 2, z - 28.5, 3],
      ],
      6,
    ),
    -0.9,
  );
}

function ear(s: Shape, p: Proportions): void {
  const { o, a, b, c } = earFrame(p),
    k = p.ear;
  const at = (u: number, v: number, w: number, r: number): Knot => [
    o[0] + (a[0] * u + b[0] * v + c[0] * w) * k,
    o[1] + (a[1] * u + b[1] * v + c[1] * w) * k,
    o[2] + (a[2] * u + b[2] * v + c[2] * w) * k,
    r * k,
  ];
  const local =
    (f: Field): Field =>
    (x, y, z) => {
      const dx = x - o[0],
        dy = y - o[1],
        dz = z - o[2];
      return (
        f((a[0] * dx + a[1] * dy + a[2] * dz) / k, (b[0] * dx + b[1] * dy + b[2] * dz) / k, (c[0] * dx + c[1] * dy + c[2] * dz) / k) * k
      );
    };
  s.addBoth(local(ellipsoid([4, 3, -2.5], [13.5, 26, 3.2], [0, 0, -8])), 4);
  s.addBoth(local(ellipsoid([-2, -20, -1.5], [7, 10, 3.4], [0, 0, -10])), 3);
  s.addBoth(local(ellipsoid([-2, -2, -7], [12, 16, 8])), 6);
  const helix = [
    at(-4, -1, -0.5, 2.2),
    at(-9, 6, 0.8, 2.7),
    at(-8, 19, 1.6, 3),
    at(1, 28.5, 2, 3.2),
    at(12, 26, 2, 3.2),
    at(18, 14, 1.8, 3.2),
    at(17, 0, 1.4, 3),
    at(11, -13, 0.8, 2.8),
    at(3, -24, 0.6, 3.2),
  ];
  s.addBoth(tube(helix), 1.6);
  s.addBoth(tube([at(-2, -15, 1, 2.4), at(6, -11, 1.5, 2.8), at(10, -1, 1.8, 2.8), at(8, 10, 1.4, 3), at(1, 18, 0.4, 2.4)]), 2.2);
  s.addBoth(local(ellipsoid([-9.5, -5.5, 0.5], [3.4, 5.2, 3.6])), 2.5);
  s.cutBoth(local(ellipsoid([-1.5, -4, 2.5], [7.2, 9.5, 5.6])), 2.2);
  s.bumpBoth(stroke([at(-3, 20, 1, 3.4), at(8, 22, 1, 3.6), at(13.5, 12, 1, 3.4), at(13.2, 0, 1, 3)]), -1.4);
}

function neck(s: Shape, p: Proportions): void {
  const r = p.neckRadius,
    k = r / 54;
  s.add(
    tube(
      [
        [0, -40, -30, r - 2],
        [0, -110, -33, r - 4],
        [0, -170, -42, r],
        [0, -230, -55, r + 15],
      ],
      3,
    ),
    16,
  );
  s.addBoth(ellipsoid([47, -26, -24], [17, 30, 24], [10, 0, 0]), 16);
  s.addBoth(
    tube(
      [
        [48 * k, -30, -34, 7 * k],
        [38.5 * k, -110, -10, 8 * k],
        [22 * k, -175, 2 - (54 - r) * 0.4, 8 * k],
        [12, -212, 8, 6 * k],
      ],
      6,
    ),
    18,
  );
  s.bump(dab([0, -138, 22], [9, 14, 12]), 4 * p.larynx);
  s.addBoth(
    tube([
      [20 * k, -80, -62, 24 * k],
      [58 * k, -160, -60, 25 * k],
      [160, -212, -48, 30],
    ]),
    20,
  );
  s.add(ellipsoid([0, -300, -42], [165, 95, 75]), 30);
  s.addBoth(
    tube(
      [
        [8, -214, 12, 7],
        [80, -206, 2, 6],
        [160, -200, -30, 7],
      ],
      3,
    ),
    12,
  );
  // nothing of it outside the collar, or the shoulders would come through the coat
  const collar: Field = (x, y, z) => {
    const cone = (Math.hypot(x, (z + 38) * 0.96) - (55 * k + 0.3 * (-118 - y))) * 0.95;
    return Math.max(-cone, (y + 118 + 0.6 * (z + 100)) * 0.85);
  };
  s.cut(collar, 4);
}
