import { type Vec3 } from '../math/index.ts';

/** Directions to a side of their square, and of all the sphere: at equal areas. */
export const SIDE = 36,
  DIRECTIONS = SIDE * SIDE;

/**
 * A direction for each point of a square of 0…1, areas in proportion (P. Clarberg, "Fast Equal-Area Mapping of the (Hemi)Sphere using
 * SIMD", 2008): the middle is z, the corners are −z.
 */
export function directionOf(u: number, v: number): Vec3 {
  const a = 2 * u - 1,
    b = 2 * v - 1,
    d = 1 - (Math.abs(a) + Math.abs(b)),
    r = 1 - Math.abs(d);
  const phi = r === 0 ? 0 : (Math.PI / 4) * ((Math.abs(b) - Math.abs(a)) / r + 1);
  const k = r * Math.sqrt(Math.max(0, 2 - r * r));
  return [Math.sign(a || 1) * k * Math.cos(phi), Math.sign(b || 1) * k * Math.sin(phi), (d < 0 ? -1 : 1) * (1 - r * r)];
}

/** The point of the square that a unit direction belongs to, into `out`. */
export function squareOf(x: number, y: number, z: number, out: Float64Array): void {
  const r = Math.sqrt(Math.max(0, 1 - Math.abs(z))),
    ax = Math.abs(x),
    ay = Math.abs(y);
  const phi = ax === 0 && ay === 0 ? 0 : Math.atan2(ay, ax) * (2 / Math.PI);
  let b = phi * r,
    a = r - b;
  if (z < 0) {
    const t = a;
    a = 1 - b;
    b = 1 - t;
  }
  out[0] = ((x < 0 ? -a : a) + 1) / 2;
  out[1] = ((y < 0 ? -b : b) + 1) / 2;
}

/** Number of the direction at column i and row j of the square; over an edge lies its mirror image. */
export function wrapped(i: number, j: number): number {
  if (i < 0 || i >= SIDE) {
    i = i < 0 ? -1 - i : 2 * SIDE - 1 - i;
    j = SIDE - 1 - j;
  }
  if (j < 0 || j >= SIDE) {
    j = j < 0 ? -1 - j : 2 * SIDE - 1 - j;
    i = SIDE - 1 - i;
  }
  return j * SIDE + i;
}

/** All directions, x y z of each, in the axes that they are counted in. */
export const allDirections = (): Float32Array =>
  Float32Array.from(
    Array.from({ length: DIRECTIONS }, (_, n) => directionOf(((n % SIDE) + 0.5) / SIDE, (Math.floor(n / SIDE) + 0.5) / SIDE)).flat(),
  );
