import { Shape, type Field, type Knot, type Point } from './field.ts';
import { ellipsoid, roundedBox, tube } from './primitives.ts';
import { earFrame, eyeCentre, lidCurves, type Proportions } from './proportions.ts';
import { faceOpening } from './head.ts';

/** Receding hair, combed back in locks that follow the skull. */
export function buildHair(p: Proportions): Shape {
  const s = new Shape();
  const middle = (p.foreheadZ + p.backZ) / 2,
    half = (p.foreheadZ - p.backZ) / 2,
    cy = p.crown - 77;
  const lock: Field = (x, y, z) => {
    const phi = Math.atan2(x, y - cy + 30 + Math.max(0, middle - z) * 0.25);
    const w = phi * 9 + 0.55 * Math.sin(z * 0.045 + phi * 3) + 0.3 * Math.sin(z * 0.11 + phi * 11);
    return (
      2.3 * (Math.sqrt(Math.abs(Math.sin(w)) + 0.02) - 0.75) +
      0.75 * (Math.abs(Math.sin(w * 2.7 + 1 + z * 0.02)) - 0.6) +
      0.2 * Math.sin(w * 7.3) +
      0.14 * Math.sin(w * 15.1 + z * 0.05)
    );
  };
  const cap = ellipsoid([0, cy + 4, middle - 1], [p.headWidth + 2.5, 82, half + 4]);
  s.add((x, y, z) => {
    const d = cap(x, y, z);
    return Math.abs(d) > 12 ? d : d - 0.75 * lock(x, y, z);
  }, 1);
  // the face's opening blends wide, so that the hairline tapers, and it is never straight
  const opening = faceOpening(104, 24);
  s.cut(
    (x, y, z) =>
      opening(x, y, z) +
      1.6 * Math.sin(x * 0.21 + 1) +
      0.9 * Math.sin(x * 0.55 + y * 0.4) +
      3.2 * Math.exp(-((x / 13) ** 2)) -
      2.5 * Math.exp(-(((Math.abs(x) - 38) / 12) ** 2)),
    14,
  );
  s.cut(ellipsoid([0, 98, 12], [50, 50, 98]), 24);
  const { o } = earFrame(p);
  s.cutBoth(ellipsoid([o[0] + 6, o[1] + 1, o[2] - 1], [20, 34, 23], [14, 0, 0]), 5);
  s.cut(roundedBox([0, -64, 45], [120, 60, 48], 8), 6);
  s.cut(roundedBox([0, -170, -20], [130, 108, 160], 12), 8);
  s.cutBoth(roundedBox([74, -66, -14], [26, 46, 30], 8), 5);
  return s;
}

/** Hair combed up into a bun, with two strands that frame the face. */
export function buildBun(p: Proportions): Shape {
  const s = new Shape();
  const middle = (p.foreheadZ + p.backZ) / 2,
    half = (p.foreheadZ - p.backZ) / 2,
    cy = p.crown - 77;
  const knot: Point = [0, 100, -92],
    R = 36;
  // strands run from the hairline towards the bun: even along lines of one angle around the axis that leads there
  const lock: Field = (x, y, z) => {
    const along = (z - middle) / half,
      phi = Math.atan2(x, y - cy + 34 + Math.max(0, -along) * 22);
    const w = phi * 12 + 0.5 * Math.sin(z * 0.04 + phi * 3) + 0.3 * Math.sin(z * 0.1 + phi * 9);
    return 1.5 * (Math.sqrt(Math.abs(Math.sin(w)) + 0.02) - 0.75) + 0.5 * (Math.abs(Math.sin(w * 2.7 + 1)) - 0.6) + 0.2 * Math.sin(w * 7.3);
  };
  const cap = ellipsoid([0, cy + 8, middle - 1], [p.headWidth + 4.5, 85, half + 6]);
  s.add((x, y, z) => {
    const d = cap(x, y, z);
    return Math.abs(d) > 12 ? d : d - 0.8 * lock(x, y, z);
  }, 1);
  const opening = faceOpening(80, 33);
  s.cut(
    (x, y, z) => opening(x, y, z) + 1.2 * Math.sin(x * 0.21 + 1) + 0.7 * Math.sin(x * 0.55 + y * 0.4) + 2.4 * Math.exp(-((x / 12) ** 2)),
    10,
  );
  const { o } = earFrame(p);
  s.cutBoth(ellipsoid([o[0] + 6, o[1] + 1, o[2] - 1], [20, 34, 23], [14, 0, 0]), 5);
  s.cut(roundedBox([0, -64, 45], [120, 60, 48], 8), 6);
  s.cut(roundedBox([0, -170, -20], [130, 108, 160], 12), 8);
  s.cutBoth(roundedBox([74, -66, -14], [26, 46, 30], 8), 5);
  s.add((x, y, z) => {
    const dx = x - knot[0],
      dy = (y - knot[1]) * 1.1,
      dz = z - knot[2];
    const d = Math.sqrt(dx * dx + dy * dy + dz * dz) - R;
    if (d > 10) return d * 0.85;
    const a = Math.atan2(dy, dx),
      b = Math.atan2(dz, Math.hypot(dx, dy));
    const twist = a * 2.5 + b * 3.4;
    return (d - 2.2 * (Math.sqrt(Math.abs(Math.sin(twist)) + 0.01) - 0.7) - 0.5 * Math.sin(twist * 5.1)) * 0.85;
  }, 5);
  s.add(ellipsoid([0, 80, -80], [22, 22, 20]), 7);
  const strand = (knots: Knot[]) => s.add(tube(knots, 6), 4);
  strand([
    [4, 88, 72, 3.5],
    [38, 79, 66, 5.5],
    [61, 46, 45, 5],
    [66, 4, 31, 4],
    [67, -34, 29, 2.6],
    [63, -60, 36, 1.1],
  ]);
  strand([
    [0, 88, 72, 3.5],
    [-36, 80, 65, 5.5],
    [-61, 47, 45, 5],
    [-66, 8, 29, 3.8],
    [-67, -20, 26, 2.4],
    [-64, -40, 31, 1.1],
  ]);
  return s;
}

/** Brows: a stroke in the front view, laid over whatever ridge is there. */
export function buildBrows(p: Proportions, skin: Shape, thick: number, arch: number): Shape {
  const s = new Shape(),
    { browY: y, browZ: z } = p,
    wide = p.cheekboneX / 62;
  const region = tube(
    [
      [10, y - 2.2, 0, 2.7 * thick],
      [19 * wide, y + arch, 0, 4.3 * thick],
      [33 * wide, y + 2.5 + 2 * arch, 0, 3.5 * thick],
      [44 * wide, y + 0.5 + arch, 0, 2.2 * thick],
      [51 * wide, y - 5, 0, 0.8],
    ],
    6,
  );
  s.addBoth((x, y2, z2) => {
    const d = Math.max(region(x, y2, 0), z - 40 - z2);
    if (d > 12) return d;
    const hairs = 0.22 * Math.abs(Math.sin(x * 1.3 + (y2 - y) * 0.5)) + 0.2 * Math.sin(x * 0.62 - y2 * 0.7) + 0.1 * Math.sin(x * 2.9 + y2);
    return d * 0.9 - hairs;
  }, 1);
  s.keep((x, y2, z2) => skin.at(x, y2, z2) - 1.3 - 0.3 * Math.sin(x * 0.7 + y2 * 0.9), 2.6);
  return s;
}

/** Upper lashes as one dark line that thickens outwards. */
export function buildLashes(p: Proportions, weight: number): Shape {
  const e = eyeCentre(p),
    lids = lidCurves(p),
    r = p.eyeRadius + 1.85;
  const knots: Knot[] = [];
  for (let i = 0; i <= 8; i++) {
    const u = lids.inner + 3.5 + ((lids.outer - lids.inner - 3.2) * i) / 8,
      v = lids.upper(u) - 0.15;
    knots.push([e[0] + u, e[1] + v, e[2] + Math.sqrt(Math.max(1, r * r - u * u - v * v)) + 0.25, (0.3 + (0.35 * i) / 8) * weight]);
  }
  const last = knots[8]!;
  knots.push([last[0] + 1.8 * weight, last[1] + 0.4 * weight, last[2] - 1.2, 0.3]);
  return new Shape().addBoth(tube(knots, 3), 0.1);
}
