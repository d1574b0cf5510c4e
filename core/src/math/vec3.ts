/** A point or direction: x y z. */
export type Vec3 = [number, number, number];

export const add = (a: Vec3, b: Vec3): Vec3 => [a[0] + b[0], a[1] + b[1], a[2] + b[2]];
export const sub = (a: Vec3, b: Vec3): Vec3 => [a[0] - b[0], a[1] - b[1], a[2] - b[2]];
export const scale = (a: Vec3, s: number): Vec3 => [a[0] * s, a[1] * s, a[2] * s];
export const dot = (a: Vec3, b: Vec3): number => a[0] * b[0] + a[1] * b[1] + a[2] * b[2];
export const length = (a: Vec3): number => Math.hypot(a[0], a[1], a[2]);
export const distance = (a: Vec3, b: Vec3): number => length(sub(a, b));
export const cross = (a: Vec3, b: Vec3): Vec3 => [a[1] * b[2] - a[2] * b[1], a[2] * b[0] - a[0] * b[2], a[0] * b[1] - a[1] * b[0]];

/** The direction of `a`; `fallback` where `a` has no length. */
export function normalize(a: Vec3, fallback: Vec3 = [0, 0, 1]): Vec3 {
  const l = length(a);
  return l > 1e-12 ? scale(a, 1 / l) : fallback;
}

/** Turns a point about the vertical axis; positive angles (radians) turn +Z towards +X, the subject's left. */
export function turnY(a: Vec3, angle: number): Vec3 {
  const c = Math.cos(angle),
    s = Math.sin(angle);
  return [a[0] * c + a[2] * s, a[1], -a[0] * s + a[2] * c];
}

/** Two orthogonal directions, turned in their plane by an angle (radians) from x towards y. */
export function rolled(x: Vec3, y: Vec3, angle: number): { x: Vec3; y: Vec3 } {
  const c = Math.cos(angle),
    s = Math.sin(angle);
  return { x: add(scale(x, c), scale(y, s)), y: add(scale(x, -s), scale(y, c)) };
}

/**
 * A direction given by its parts along two axes across a unit normal and along that itself (Duff et al. 2017, "Building an Orthonormal Basis,
 * Revisited").
 */
export function aroundNormal([x, y, z]: Vec3, a: number, b: number, h: number): Vec3 {
  const s = z >= 0 ? 1 : -1,
    a0 = -1 / (s + z),
    b0 = x * y * a0;
  return [a * (1 + s * x * x * a0) + b * b0 + h * x, a * s * b0 + b * (s + y * y * a0) + h * y, -a * s * x - b * y + h * z];
}

export const DEGREE = Math.PI / 180;
