import { cosTurn, cross, dot, length, normalize, scale, sinTurn, type Vec3 } from '../math/index.ts';
import type { ShapeView } from './view.ts';

/** A flat ellipse: centre and its two half axes (orthogonal, metres). It shines to the side of a × b. */
export interface Disk {
  centre: Vec3;
  a: Vec3;
  b: Vec3;
}

/** An ellipse, sampled evenly over its area. */
export class DiskView implements ShapeView {
  wx = 0;
  wy = 0;
  wz = 0;
  d = 0;
  met = 0;
  private readonly disk: Disk;
  private readonly n: Vec3;
  private readonly area: number;
  private readonly ia: Vec3;
  private readonly ib: Vec3;
  private readonly twoSided: boolean;

  constructor(disk: Disk, twoSided: boolean) {
    this.disk = disk;
    const la = length(disk.a),
      lb = length(disk.b);
    this.n = normalize(cross(disk.a, disk.b));
    this.area = Math.PI * la * lb;
    this.ia = scale(disk.a, 1 / (la * la));
    this.ib = scale(disk.b, 1 / (lb * lb));
    this.twoSided = twoSided;
  }

  sample(x: number, y: number, z: number, u: number, v: number): number {
    const { centre, a, b } = this.disk;
    const r = Math.sqrt(u),
      p = r * cosTurn(v),
      q = r * sinTurn(v);
    const dx = centre[0] + a[0] * p + b[0] * q - x,
      dy = centre[1] + a[1] * p + b[1] * q - y,
      dz = centre[2] + a[2] * p + b[2] * q - z;
    const d2 = dx * dx + dy * dy + dz * dz,
      d = Math.sqrt(d2);
    if (!(d > 1e-7)) return 0;
    this.wx = dx / d;
    this.wy = dy / d;
    this.wz = dz / d;
    this.d = d;
    return this.seen(this.wx, this.wy, this.wz, d2);
  }

  /** Area as seen along a direction from afar, over the square of the distance. */
  private seen(dx: number, dy: number, dz: number, d2: number): number {
    const facing = -(dx * this.n[0] + dy * this.n[1] + dz * this.n[2]);
    if (!(facing > 1e-6) && !(this.twoSided && facing < -1e-6)) return 0;
    return (this.area * Math.abs(facing)) / d2;
  }

  meet(ox: number, oy: number, oz: number, dx: number, dy: number, dz: number): number {
    const { n, ia, ib } = this,
      { centre } = this.disk;
    const along = dx * n[0] + dy * n[1] + dz * n[2];
    if (!(along < -1e-9) && !(this.twoSided && along > 1e-9)) return Infinity;
    const cx = centre[0] - ox,
      cy = centre[1] - oy,
      cz = centre[2] - oz;
    const t = (cx * n[0] + cy * n[1] + cz * n[2]) / along;
    if (!(t > 0)) return Infinity;
    const px = dx * t - cx,
      py = dy * t - cy,
      pz = dz * t - cz;
    const p = px * ia[0] + py * ia[1] + pz * ia[2],
      q = px * ib[0] + py * ib[1] + pz * ib[2];
    if (p * p + q * q > 1) return Infinity;
    this.met = this.seen(dx, dy, dz, t * t);
    return this.met > 0 ? t : Infinity;
  }
}

/**
 * Irradiance (lx) at a point whose normal `n` faces a disk of luminance 1 cd/m² centred on it and parallel to it:
 * E = π r² / (d² + r²) (Howell's catalogue, B-12 with the element on the axis).
 */
export const diskIrradianceOnAxis = (radius: number, distance: number): number =>
  (Math.PI * radius * radius) / (distance * distance + radius * radius);

/** Irradiance (lx) from a far small source of luminance 1: L · area · cos · cos / distance². */
export function smallSource(area: number, at: Vec3, sourceNormal: Vec3, point: Vec3, normal: Vec3): number {
  const to: Vec3 = [at[0] - point[0], at[1] - point[1], at[2] - point[2]],
    d = length(to),
    w = scale(to, 1 / d);
  return (area * Math.max(0, dot(w, normal)) * Math.max(0, -dot(w, sourceNormal))) / (d * d);
}
