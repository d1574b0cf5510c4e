import { smoothStep, type Point } from '../form/field.ts';
import { ellipsoid } from '../form/primitives.ts';
import { earFrame, type Proportions } from '../form/proportions.ts';

/** A line through points, straight between them, level beyond both ends. */
export function along(points: readonly (readonly [at: number, value: number])[]): (at: number) => number {
  return (at) => {
    const next = points.findIndex(([x]) => x > at);
    if (next === 0) return points[0]![1];
    if (next < 0) return points[points.length - 1]![1];
    const [x0, y0] = points[next - 1]!,
      [x1, y1] = points[next]!;
    return y0 + ((y1 - y0) * (at - x0)) / (x1 - x0);
  };
}

/** Degrees round the head from its front, the same on both sides. */
export const around = ([x, , z]: Point): number => (Math.atan2(Math.abs(x), z + 8) * 180) / Math.PI;

/** A hairline is never straight: millimetres that it wanders. */
export const uneven = ([x, y, z]: Point): number =>
  2 * Math.sin(x * 0.21 + 1) + 1.3 * Math.sin(x * 0.55 + z * 0.4) + 1.1 * Math.sin(y * 0.37 + z * 0.23);

/** 1 where no ear is, 0 on it and right behind it. */
export function besideEars(p: Proportions): (at: Point) => number {
  if (p.ear === 0) return () => 1;
  const { o } = earFrame(p);
  const ear = ellipsoid([o[0] + 9, o[1] + 2, o[2] - 6], [17, 31 * p.ear, 22], [12, 0, 0]);
  return ([x, y, z]) => smoothStep(-1, 4, ear(Math.abs(x), y, z));
}

/**
 * Share of hair on a scalp: above a line that is given by angles round the head, thinning out towards it.
 * @param soft millimetres over which it thins
 */
export function scalp(p: Proportions, line: (angle: number) => number, soft = 9): (at: Point) => number {
  const free = besideEars(p);
  return (at) => smoothStep(-soft * 0.4, soft, at[1] - line(around(at)) + uneven(at)) * free(at);
}

/**
 * The way over the skull from the forehead to the nape, laid into the skin at a place: up the front, back over the top, down
 * behind; at the sides back and down.
 */
export function backwards([nx, ny, nz]: Point, fall = 0.55): Point {
  const side = nx * nx;
  return [-0.15 * nx, nz * (1 - side) - fall * side - 0.12, -ny * (1 - side) - 0.85 * side];
}
