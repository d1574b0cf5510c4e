import { cosTurn, sinTurn, type Vec3 } from '../math/index.ts';
import type { ShapeView } from './view.ts';

/** A sphere, sampled evenly over the cone that it takes (Shirley, Wang, Zimmerman 1996, "Monte Carlo Techniques for Direct Lighting Calculations"). */
export class BallView implements ShapeView {
  wx = 0;
  wy = 0;
  wz = 0;
  d = 0;
  met = 0;
  private readonly c: Vec3;
  private readonly r: number;

  constructor(centre: Vec3, radius: number) {
    this.c = centre;
    this.r = radius;
  }

  sample(x: number, y: number, z: number, u: number, v: number): number {
    const cx = this.c[0] - x,
      cy = this.c[1] - y,
      cz = this.c[2] - z;
    const d2 = cx * cx + cy * cy + cz * cz,
      sin2 = (this.r * this.r) / d2;
    if (!(sin2 < 1)) return 0;
    const l = 1 / Math.sqrt(d2),
      zx = cx * l,
      zy = cy * l,
      zz = cz * l;
    // 1 − cos of the cone's half angle, without cancellation for small spheres
    const open = sin2 / (1 + Math.sqrt(1 - sin2));
    const down = u * open,
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
    // the near side of the sphere along that direction
    const along = cx * this.wx + cy * this.wy + cz * this.wz || 0,
      off2 = Math.max(0, d2 - along * along);
    this.d = along - Math.sqrt(Math.max(0, this.r * this.r - off2));
    return 2 * Math.PI * open;
  }

  meet(ox: number, oy: number, oz: number, dx: number, dy: number, dz: number): number {
    const cx = this.c[0] - ox,
      cy = this.c[1] - oy,
      cz = this.c[2] - oz;
    const d2 = cx * cx + cy * cy + cz * cz,
      r2 = this.r * this.r;
    if (!(d2 > r2)) return Infinity;
    const along = cx * dx + cy * dy + cz * dz,
      off2 = d2 - along * along;
    if (!(along > 0) || !(off2 < r2)) return Infinity;
    const sin2 = r2 / d2;
    this.met = (2 * Math.PI * sin2) / (1 + Math.sqrt(1 - sin2));
    return along - Math.sqrt(r2 - off2);
  }
}

/**
 * Irradiance (lx) from a sphere of luminance 1 cd/m² that stands wholly above the receiver's horizon:
 * E = π (R/d)² cos θ (Howell's catalogue, plane element to sphere).
 */
export const ballIrradiance = (radius: number, distance: number, cos: number): number => Math.PI * (radius / distance) ** 2 * cos;
