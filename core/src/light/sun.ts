import { cosTurn, sinTurn, type Vec3 } from '../math/index.ts';
import type { ShapeView } from './view.ts';

/** Distance that stands for "infinitely far", metres. */
export const FAR = 1e6;

/** Solid angle (sr) of a disk in the sky of half angle `half` (radians): 2π(1 − cos). */
export const capAngle = (half: number): number => 4 * Math.PI * Math.sin(half / 2) ** 2;

/** A disk in the sky, sampled evenly over its solid angle. */
export class SunView implements ShapeView {
  wx = 0;
  wy = 0;
  wz = 0;
  d = FAR;
  met: number;
  private readonly w: Vec3;
  private readonly open: number;

  constructor(towards: Vec3, half: number) {
    this.w = towards;
    this.open = 2 * Math.sin(half / 2) ** 2;
    this.met = capAngle(half);
  }

  sample(_x: number, _y: number, _z: number, u: number, v: number): number {
    const [zx, zy, zz] = this.w;
    const down = u * this.open,
      cos = 1 - down,
      sin = Math.sqrt(Math.max(0, down * (2 - down)));
    const s = zz >= 0 ? 1 : -1,
      a0 = -1 / (s + zz),
      b0 = zx * zy * a0;
    const p = sin * cosTurn(v),
      q = sin * sinTurn(v);
    this.wx = p * (1 + s * zx * zx * a0) + q * b0 + cos * zx;
    this.wy = p * s * b0 + q * (s + zy * zy * a0) + cos * zy;
    this.wz = -p * s * zx - q * zy + cos * zz;
    return this.met;
  }

  meet(_ox: number, _oy: number, _oz: number, dx: number, dy: number, dz: number): number {
    // 1 − cos by half the squared chord: exact for small angles
    const ex = dx - this.w[0],
      ey = dy - this.w[1],
      ez = dz - this.w[2];
    return (ex * ex + ey * ey + ez * ez) / 2 <= this.open ? FAR : Infinity;
  }
}
