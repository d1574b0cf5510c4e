// The keeper's lantern, hanging from his left hand: a frame with a roof, and the glass that glows.
import { Shape, smoothMaxOf, type Field, type Point } from './field.ts';
import { sphere, tube } from './primitives.ts';

/** A body of revolution about the vertical through `c`, as a rounded slab. */
const drum =
  ([cx, , cz]: Point, low: number, high: number, lowRadius: number, highRadius: number, round = 3): Field =>
  (x, y, z) => {
    const t = Math.min(1, Math.max(0, (y - low) / (high - low)));
    const q = Math.hypot(x - cx, z - cz) - (lowRadius + (highRadius - lowRadius) * t) + round,
      h = Math.abs(y - (low + high) / 2) - (high - low) / 2 + round;
    return (Math.min(Math.max(q, h), 0) + Math.hypot(Math.max(q, 0), Math.max(h, 0)) - round) * 0.9;
  };

/** @param grip where the hand holds the bow, millimetres */
export function buildLantern(grip: Point): { frame: Shape; glass: Shape } {
  const [x, y, z] = grip,
    roof = y - 96,
    base = roof - 178;
  const frame = new Shape();
  // the bow runs from front to back through the fist, and down to the roof
  frame.add(
    tube(
      [
        [x, roof - 10, z + 62, 3.6],
        [x, y - 34, z + 58, 3.6],
        [x, y - 4, z + 34, 3.8],
        [x, y, z, 4.2],
        [x, y - 4, z - 34, 3.8],
        [x, y - 34, z - 58, 3.6],
        [x, roof - 10, z - 62, 3.6],
      ],
      8,
    ),
    1,
  );
  frame.add(drum(grip, roof - 8, roof + 34, 76, 22), 1);
  frame.add(drum(grip, roof + 30, roof + 46, 20, 20), 2);
  frame.add(drum(grip, roof - 18, roof - 4, 68, 78), 2);
  frame.add(drum(grip, base - 26, base, 72, 66), 2);
  frame.add(drum(grip, base - 34, base - 22, 78, 78), 2);
  for (let i = 0; i < 6; i++) {
    const a = (i / 6) * 2 * Math.PI + 0.3,
      px = x + Math.cos(a) * 62,
      pz = z + Math.sin(a) * 62;
    frame.add(
      tube(
        [
          [px, base - 6, pz, 4],
          [px, roof - 8, pz, 4],
        ],
        1,
      ),
      2,
    );
  }
  // a wire guard half way up
  frame.add((px, py, pz) => Math.hypot(Math.hypot(px - x, pz - z) - 62, py - (base + roof) / 2) - 2.6, 2);
  frame.add(drum(grip, base - 2, base + 34, 20, 16), 2);
  const glass = new Shape();
  const body: Field = (px, py, pz) => {
    const t = (py - (base + roof) / 2) / ((roof - base) / 2);
    return (Math.hypot(px - x, pz - z) - (50 - 9 * t * t)) * 0.9;
  };
  glass.add((px, py, pz) => smoothMaxOf(5, body(px, py, pz), base - py, py - (roof - 12)), 1);
  return { frame, glass };
}

/** The flame within, a drop. */
export const buildFlame = ([x, y, z]: Point): Shape => {
  const base = y - 96 - 178 + 36;
  return new Shape().add(sphere([x, base + 20, z], 15), 1).add(
    tube(
      [
        [x, base + 22, z, 13],
        [x + 1, base + 52, z, 6],
        [x, base + 74, z, 1],
      ],
      6,
    ),
    8,
  );
};
