// What is modelled on the head's large forms: mouth, soft forms, lids, age. Millimetres, the frame of proportions.ts.
import { type Field, type Knot, type Shape } from './field.ts';
import { dab, ellipsoid, sphere, stroke, tube } from './primitives.ts';
import { eyeCentre, lidCurves, type Proportions } from './proportions.ts';

/** A knot laid on the skin built so far, sunk by `sink`: a stroke below the surface would make a pit. */
const onSkin = (s: Shape, x: number, y: number, r: number, sink = 0): Knot => [x, y, s.front(x, y) - sink, r];

/** Knots from the left to the middle, continued to the right. */
function acrossMiddle(half: Knot[]): Knot[] {
  const rest = half[half.length - 1]![0] === 0 ? half.slice(0, -1) : half;
  return [...half, ...rest.reverse().map(([x, y, z, r]): Knot => [-x, y, z, r])];
}

/** How much longer and deeper than average the face is. */
export const scales = (p: Proportions) => ({ deep: p.eyeZ - 71.5, wide: p.cheekboneX / 62, tall: p.chinY / -115 });

export function mouth(s: Shape, p: Proportions): void {
  const { mouthY: y, mouthWidth: w, mouthZ: z, smile, upperLip: up, lowerLip: lo, noseBaseY: base } = p;
  const cornerZ = z - 15.5,
    cornerY = y + 0.2 + smile;
  s.add(
    tube(
      acrossMiddle([
        [w, cornerY + 0.2, cornerZ - 1.2, 0.8],
        [w * 0.72, y + 1.3, z - 8.6, 2.2 * up],
        [w * 0.42, y + 3, z - 4.6, 3.3 * up],
        [5, y + 4.1, z - 3, 3.9 * up],
        [0, y + 3, z - 2.3, 4 * up],
      ]),
      6,
    ),
    4.5,
  );
  s.add(
    tube(
      acrossMiddle([
        [w - 1.5, cornerY - 0.8, cornerZ - 1.2, 0.8],
        [w * 0.7, y - 3.6, z - 9.4, 2.6 * lo],
        [w * 0.4, y - 5.4, z - 5.8, 4.2 * lo],
        [5.5, y - 6.2, z - 4.4, 4.8 * lo],
        [0, y - 6, z - 4.3, 4.7 * lo],
      ]),
      6,
    ),
    4.5,
  );
  // the mouth's line dips in the middle, rises beside it and falls to the corner, where it runs out without a hole
  const line = acrossMiddle([
    onSkin(s, w + 0.8, cornerY + 0.1, 0.25, -0.9),
    onSkin(s, w * 0.9, y - 0.5 + smile * 0.7, 0.5, -0.2),
    onSkin(s, w * 0.72, y - 1 + smile * 0.3, 0.8, 0.5),
    onSkin(s, w * 0.42, y - 0.6, 0.9, 0.6),
    onSkin(s, 5.5, y - 1, 0.8, 0.4),
    onSkin(s, 0, y - 1.9, 0.7, 0.2),
  ]);
  s.cut(tube(line, 6), 2.6);
  s.bumpBoth(dab([w + 2.5, cornerY - 0.8, cornerZ + 0.5], [11, 12, 11]), -0.5);
  // groove and columns between nose and lip, furrow above the chin
  s.bump(
    stroke(
      [
        [0, base - 3, z + 2, 3.6],
        [0, y + 9, z + 1.5, 4.6],
      ],
      1,
    ),
    -1.5,
  );
  s.bumpBoth(
    stroke(
      [
        [4.2, base - 3, z + 2.5, 2.6],
        [5.6, y + 8.6, z + 1, 3.4],
      ],
      1,
    ),
    0.7,
  );
  s.bump(
    stroke(
      [
        [-15, y - 13, z - 9, 6],
        [0, y - 16.5, z - 5, 8],
        [15, y - 13, z - 9, 6],
      ],
      6,
    ),
    -1.9,
  );
  if (p.cleft)
    s.bump(
      stroke(
        [
          [0, p.chinY + 18, p.chinZ, 4],
          [0, p.chinY + 6, p.chinZ - 3, 4],
        ],
        1,
      ),
      -1.6 * p.cleft,
    );
}

export function softForms(s: Shape, p: Proportions): void {
  const { deep, wide, tall } = scales(p);
  const e = eyeCentre(p),
    { noseWidth: nw, noseBaseY: base, noseZ: nz } = p;
  s.bumpBoth(
    stroke([
      [nw + 1.5, base + 4, nz - 28, 4],
      [nw + 8, base - 9, nz - 31, 6],
      [p.mouthWidth + 6, p.mouthY + 2, p.mouthZ - 13.5, 6],
    ]),
    -0.8 - 1.5 * p.age,
  );
  s.bumpBoth(
    stroke(
      [
        [15, -9, e[2] + 4, 6],
        [25, -17, e[2] + 8, 8.5],
        [38, -19, e[2] + 6, 9],
        [50, -14, e[2] - 8, 8],
      ],
      6,
    ),
    -0.4 - 0.9 * p.bags,
  );
  s.bumpBoth(dab([p.cheekboneX - 12, -50 * tall, 48 + deep], [16, 22, 24]), -2.5 * p.hollow);
  s.bumpBoth(dab([34 * wide, -28 * tall, 80 + deep], [20, 17, 17]), 1.5 * p.cheekFat);
  s.bumpBoth(dab([64, 22, 44], [30, 34, 32]), -2.5);
}

export function eyelids(s: Shape, p: Proportions): void {
  const e = eyeCentre(p),
    lids = lidCurves(p),
    { browY } = p;
  s.addBoth(sphere(e, p.eyeRadius + 1.8), 7);
  s.addBoth(
    tube(
      [
        [e[0] - 13, browY - 6.5, e[2] + 6, 2.5],
        [e[0] - 2, browY - 5, e[2] + 10, 4 * p.browFat],
        [e[0] + 10, browY - 6.5, e[2] + 7.5, 4.3 * p.browFat],
        [e[0] + 17, browY - 13, e[2] - 1, 3.2 * p.browFat],
      ],
      7,
    ),
    10,
  );
  const crease = (u: number, above: number, r = 2.4): Knot => onSkin(s, e[0] + u, e[1] + lids.upper(u) + above, r, -0.2);
  s.bumpBoth(
    stroke([crease(-7.5, 4.4, 1.5), crease(-3.5, 4.7, 2.1), crease(1.5, 4.8), crease(6.5, 4.4), crease(11.5, 3.4, 1.7)], 6),
    -1.25 * p.crease,
  );
  // a lid is never thinner than this
  s.addBoth(sphere(e, p.eyeRadius + 0.9), 0.6);
  const opening: Field = (x, y, z) => {
    const u = x - e[0];
    return Math.max((y - lids.upper(u)) * 0.85, (lids.lower(u) - y) * 0.85, e[2] + 2.2 - z);
  };
  s.cutBoth(opening, 0.9);
  s.addBoth(ellipsoid([e[0] - 13.3, e[1] - p.canthus - 0.2, e[2] + 2.2], [2.6, 2.2, 2.6]), 1);
}

export function age(s: Shape, p: Proportions): void {
  const a = p.age - 0.3,
    e = eyeCentre(p),
    { browY, browZ, mouthY, mouthWidth } = p,
    cornerZ = p.mouthZ - 15.5;
  // forehead lines: uneven in depth, length and height, so that they look lived in
  const lines: [number, number, number, number][] = [
    [19, 40, 0.7, -1],
    [28.5, 47, 1, 1.4],
    [40, 38, 0.65, -0.6],
  ];
  for (const [up, half, deep, lean] of lines)
    s.bump(
      stroke(
        [
          [-half, browY + up - 3 - lean, browZ - 22, 3],
          [-half * 0.45, browY + up + 1.5, browZ - 6, 3.6],
          [2, browY + up - 1, browZ - 2, 3.1],
          [half * 0.55, browY + up + 1 + lean, browZ - 6, 3.5],
          [half * 0.92, browY + up - 3 + lean, browZ - 20, 2.6],
        ],
        6,
      ),
      -0.9 * a * deep,
    );
  s.bumpBoth(
    stroke(
      [
        [5, browY - 6, browZ - 2, 2.6],
        [6.5, browY + 8, browZ, 2.8],
      ],
      1,
    ),
    -1 * a,
  );
  for (const dy of [4, 0, -5])
    s.bumpBoth(
      stroke(
        [
          [e[0] + 16, dy * 0.6, e[2], 2.2],
          [e[0] + 24, dy * 1.9, e[2] - 10, 2.4],
        ],
        1,
      ),
      -0.6 * a,
    );
  s.bumpBoth(
    stroke(
      [
        [mouthWidth + 5, mouthY - 8, cornerZ + 2, 4],
        [mouthWidth + 4, mouthY - 22, cornerZ - 2, 5],
      ],
      1,
    ),
    -1 * a,
  );
  s.bumpBoth(dab([mouthWidth + 14, mouthY - 22, cornerZ - 12], [13, 15, 16]), 2.2 * a);
  s.bumpBoth(
    stroke(
      [
        [e[0] - 11, -13, e[2] + 9, 5],
        [e[0], -15.5, e[2] + 12, 5.5],
        [e[0] + 11, -12.5, e[2] + 9, 5],
      ],
      6,
    ),
    a,
  );
}
