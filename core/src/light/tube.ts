import { cross, normalize, type Vec3 } from '../math/index.ts';
import type { ShapeView } from './view.ts';

/** A straight tube without end caps: its centre, unit axis, length and radius in metres. */
export interface Tube {
  centre: Vec3;
  axis: Vec3;
  length: number;
  radius: number;
}

/** A tube, sampled evenly over the half of its surface that faces the point. */
export class TubeView implements ShapeView {
  wx = 0;
  wy = 0;
  wz = 0;
  d = 0;
  met = 0;
  private readonly tube: Tube;
  private readonly p: Vec3;
  private readonly q: Vec3;

  constructor(tube: Tube) {
    this.tube = tube;
    const { axis } = tube;
    this.p = normalize(cross(axis, Math.abs(axis[1]) < 0.9 ? [0, 1, 0] : [1, 0, 0]));
    this.q = cross(axis, this.p);
  }

  /** Half of the arc of the tube's circle that a point at distance `rho` from the axis sees, radians; 0 inside. */
  private arc(rho: number): number {
    const { radius } = this.tube;
    return rho > radius * (1 + 1e-9) ? Math.acos(radius / rho) : 0;
  }

  sample(x: number, y: number, z: number, u: number, v: number): number {
    const { p, q } = this,
      { centre: c, axis: a, length, radius } = this.tube;
    const ox = x - c[0],
      oy = y - c[1],
      oz = z - c[2];
    const op = ox * p[0] + oy * p[1] + oz * p[2],
      oq = ox * q[0] + oy * q[1] + oz * q[2],
      rho = Math.sqrt(op * op + oq * oq);
    const half = this.arc(rho);
    if (half === 0) return 0;
    const angle = Math.atan2(oq, op) + (2 * u - 1) * half,
      np = Math.cos(angle),
      nq = Math.sin(angle),
      h = (v - 0.5) * length;
    const nx = np * p[0] + nq * q[0],
      ny = np * p[1] + nq * q[1],
      nz = np * p[2] + nq * q[2];
    const dx = nx * radius + a[0] * h - ox,
      dy = ny * radius + a[1] * h - oy,
      dz = nz * radius + a[2] * h - oz;
    const d2 = dx * dx + dy * dy + dz * dz,
      d = Math.sqrt(d2);
    if (!(d > 1e-7)) return 0;
    this.wx = dx / d;
    this.wy = dy / d;
    this.wz = dz / d;
    this.d = d;
    const cos = -(nx * this.wx + ny * this.wy + nz * this.wz);
    return cos > 0 ? (2 * half * radius * length * cos) / d2 : 0;
  }

  meet(ox: number, oy: number, oz: number, dx: number, dy: number, dz: number): number {
    const { p, q } = this,
      { centre: c, axis: a, length, radius } = this.tube;
    const rx = ox - c[0],
      ry = oy - c[1],
      rz = oz - c[2];
    const op = rx * p[0] + ry * p[1] + rz * p[2],
      oq = rx * q[0] + ry * q[1] + rz * q[2],
      dp = dx * p[0] + dy * p[1] + dz * p[2],
      dq = dx * q[0] + dy * q[1] + dz * q[2];
    const A = dp * dp + dq * dq,
      B = op * dp + oq * dq,
      C = op * op + oq * oq - radius * radius;
    const root = B * B - A * C;
    if (!(A > 1e-12) || !(C > 0) || !(root > 0)) return Infinity;
    const t = (-B - Math.sqrt(root)) / A;
    if (!(t > 0)) return Infinity;
    const h = rx * a[0] + ry * a[1] + rz * a[2] + t * (dx * a[0] + dy * a[1] + dz * a[2]);
    if (Math.abs(h) > length / 2) return Infinity;
    // the normal at the met point against the ray
    const cos = -((op + t * dp) * dp + (oq + t * dq) * dq) / radius;
    const half = this.arc(Math.sqrt(op * op + oq * oq));
    this.met = (2 * half * radius * length * cos) / (t * t);
    return this.met > 0 ? t : Infinity;
  }
}

/**
 * Irradiance (lx) at distance `d` from the middle of a thin tube of luminance 1 cd/m², facing it: a line source of
 * diameter 2r and length l, E = r/d · (β + sin β cos β) · 2 with tan β = l / 2d (Foote's line source in photometry texts).
 */
export function thinTubeIrradiance(radius: number, length: number, d: number): number {
  const beta = Math.atan2(length / 2, d);
  return (2 * radius * (beta + Math.sin(beta) * Math.cos(beta))) / d;
}
