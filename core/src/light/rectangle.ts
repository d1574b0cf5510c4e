// Rectangles seen from a point: sampling by solid angle, and the closed form of their irradiance.
import { cosTurn, cross, dot, fastAcos, length, normalize, scale, sinTurn, sub, type Vec3 } from '../math/index.ts';

/** A rectangle: corner s, edges ex and ey (orthogonal, metres). It shines to the side of ex × ey. */
export interface Rectangle {
  corner: Vec3;
  ex: Vec3;
  ey: Vec3;
}

/** A rectangle that is farther than so many of its half diagonals is sampled evenly by its area. */
const FAR = 3;
/** And so is one of a smaller solid angle: the kernel's single precision can do no better. */
const SMALL = 0.05;

/**
 * Prepared view of one rectangle from one point, and the direction and distance of a sample on it.
 * Ureña, Fajardo, King 2013, "An Area-Preserving Parametrization for Spherical Rectangles", algorithms 1 and 2; the
 * names are the paper's. One object is re-used for many points: nothing is allocated.
 */
export class SphericalRectangle {
  /** Solid angle, steradians; 0 when seen from behind or edge-on. */
  S = 0;
  /** The last sample's direction (unit) and distance (metres). */
  wx = 0;
  wy = 0;
  wz = 0;
  d = 0;
  private readonly s: Vec3;
  private readonly x: Vec3;
  private readonly y: Vec3;
  private readonly z: Vec3;
  private readonly exl: number;
  private readonly eyl: number;
  private ox = 0;
  private oy = 0;
  private oz = 0;
  private z0 = 0;
  private x0 = 0;
  private y0 = 0;
  private x1 = 0;
  private y1 = 0;
  private b0 = 0;
  private b1 = 0;
  private k = 0;

  constructor(rect: Rectangle) {
    this.s = rect.corner;
    this.exl = length(rect.ex);
    this.eyl = length(rect.ey);
    this.x = scale(rect.ex, 1 / this.exl);
    this.y = scale(rect.ey, 1 / this.eyl);
    this.z = cross(this.x, this.y);
  }

  /** Looks at the rectangle from o; answers the solid angle. `sample` samples by it, or by area below 1e-4 sr: `spread` says which density. */
  prepare(ox: number, oy: number, oz: number): number {
    return this.stand(ox, oy, oz) ? this.solidAngle() : (this.S = 0);
  }

  /**
   * Looks at the rectangle from o for sampling in the quickest way that is even there: by area where it is small or far, by
   * solid angle elsewhere. Answers whether it is seen from the front; `spread` is one over the density of the sample that
   * `sample` takes, `spreadAt` that of any other.
   */
  look(ox: number, oy: number, oz: number): boolean {
    if (!this.stand(ox, oy, oz)) return false;
    const { x0, y0, z0, exl, eyl } = this;
    const cx = x0 + exl / 2,
      cy = y0 + eyl / 2;
    const far = cx * cx + cy * cy + z0 * z0 > (FAR * FAR * (exl * exl + eyl * eyl)) / 4;
    if (far || !(this.solidAngle() >= SMALL)) this.k = NaN;
    return true;
  }

  /** After `look` or `prepare`, and `sample`: one over the density with which that sample was taken, steradians. */
  get spread(): number {
    return Number.isNaN(this.k) ? this.spreadAt(this.z0 / this.d, this.d) : this.S;
  }

  /** After `look` or `prepare`: one over the density of a sample `t` away, seen at the cosine `facing` (negative) from the light. */
  spreadAt(facing: number, t: number): number {
    return Number.isNaN(this.k) ? (this.exl * this.eyl * -facing) / (t * t) : this.S;
  }

  /** Cosine at the light of a ray that comes to its front, negative. */
  facing(dx: number, dy: number, dz: number): number {
    return dx * this.z[0] + dy * this.z[1] + dz * this.z[2];
  }

  /** Local coordinates of the rectangle from o, z towards the point's far side; answers whether its front is seen. */
  private stand(ox: number, oy: number, oz: number): boolean {
    const { s, x, y, z } = this;
    const dx = s[0] - ox,
      dy = s[1] - oy,
      dz = s[2] - oz;
    const height = dx * z[0] + dy * z[1] + dz * z[2];
    // the point sees the front when the plane's normal faces it
    if (!(height < -1e-7)) return false;
    this.ox = ox;
    this.oy = oy;
    this.oz = oz;
    this.z0 = height;
    this.x0 = dx * x[0] + dy * x[1] + dz * x[2];
    this.y0 = dx * y[0] + dy * y[1] + dz * y[2];
    this.x1 = this.x0 + this.exl;
    this.y1 = this.y0 + this.eyl;
    return true;
  }

  private solidAngle(): number {
    const { x0, y0, x1, y1, z0 } = this;
    // Normals of the four side planes, reduced to the components that are not 0; their dot products are the products
    // of the z components.
    const z2 = z0 * z0;
    const n0z = -y0 / Math.sqrt(z2 + y0 * y0),
      n1z = x1 / Math.sqrt(z2 + x1 * x1),
      n2z = y1 / Math.sqrt(z2 + y1 * y1),
      n3z = -x0 / Math.sqrt(z2 + x0 * x0);
    const g0 = fastAcos(-n0z * n1z),
      g1 = fastAcos(-n1z * n2z),
      g2 = fastAcos(-n2z * n3z),
      g3 = fastAcos(-n3z * n0z);
    this.b0 = n0z;
    this.b1 = n2z;
    this.k = 2 * Math.PI - g2 - g3;
    const S = g0 + g1 - this.k;
    // far away, or very thin, the angles cancel: by area from here on; for the whole, area · cosine / distance² at the centre
    if (!(S > 1e-4)) {
      const cx = (x0 + x1) / 2,
        cy = (y0 + y1) / 2,
        d2 = cx * cx + cy * cy + z2;
      this.S = (this.exl * this.eyl * -z0) / (d2 * Math.sqrt(d2));
      this.k = NaN;
    } else this.S = S;
    return this.S;
  }

  /** Sample (u, v) in [0,1)², uniform over the solid angle; direction and distance stand in wx wy wz and d. */
  sample(u: number, v: number): void {
    const { x, y, z, z0 } = this;
    let xu: number, yv: number;
    if (Number.isNaN(this.k)) {
      xu = this.x0 + u * this.exl;
      yv = this.y0 + v * this.eyl;
    } else {
      const turn = (u * this.S + this.k) * (0.5 / Math.PI),
        fu = (cosTurn(turn) * this.b0 - this.b1) / sinTurn(turn);
      let cu = 1 / Math.sqrt(fu * fu + this.b0 * this.b0);
      if (fu < 0) cu = -cu;
      cu = cu > 1 ? 1 : cu < -1 ? -1 : cu;
      xu = -(cu * z0) / Math.max(1e-9, Math.sqrt(1 - cu * cu));
      xu = xu < this.x0 ? this.x0 : xu > this.x1 ? this.x1 : xu;
      const dd = Math.sqrt(xu * xu + z0 * z0);
      const h0 = this.y0 / Math.sqrt(dd * dd + this.y0 * this.y0),
        h1 = this.y1 / Math.sqrt(dd * dd + this.y1 * this.y1);
      const hv = h0 + v * (h1 - h0),
        hv2 = hv * hv;
      yv = hv2 < 1 - 1e-6 ? (hv * dd) / Math.sqrt(1 - hv2) : this.y1;
    }
    const px = xu * x[0] + yv * y[0] + z0 * z[0],
      py = xu * x[1] + yv * y[1] + z0 * z[1],
      pz = xu * x[2] + yv * y[2] + z0 * z[2];
    const d = Math.sqrt(px * px + py * py + pz * pz);
    this.d = d;
    this.wx = px / d;
    this.wy = py / d;
    this.wz = pz / d;
  }

  /** Distance at which a ray from the prepared point meets the front of the rectangle, or infinity. */
  intersect(dx: number, dy: number, dz: number): number {
    return this.intersectFrom(this.ox, this.oy, this.oz, dx, dy, dz);
  }

  /** Distance at which a ray meets the front of the rectangle, or infinity. */
  intersectFrom(ox: number, oy: number, oz: number, dx: number, dy: number, dz: number): number {
    const { s, x, y, z } = this;
    const facing = dx * z[0] + dy * z[1] + dz * z[2];
    if (!(facing < 0)) return Infinity;
    const sx = s[0] - ox,
      sy = s[1] - oy,
      sz = s[2] - oz;
    const t = (sx * z[0] + sy * z[1] + sz * z[2]) / facing;
    if (!(t > 0)) return Infinity;
    const px = dx * t - sx,
      py = dy * t - sy,
      pz = dz * t - sz;
    const u = px * x[0] + py * x[1] + pz * x[2],
      v = px * y[0] + py * y[1] + pz * y[2];
    return u >= 0 && u <= this.exl && v >= 0 && v <= this.eyl ? t : Infinity;
  }
}

/**
 * Irradiance (lx) at the origin from a Lambertian polygon of luminance 1 cd/m², without anything in the way: Lambert's
 * formula (Lambert 1760; Baum, Rushmeier, Winget 1989, eq. 5), clipped at the horizon of the receiver's unit normal `n`.
 */
export function polygonIrradiance(corners: Vec3[], n: Vec3): number {
  const polygon = clipAbove(corners, n);
  let sum = 0;
  for (let i = 0; i < polygon.length; i++) {
    const a = normalize(polygon[i]!),
      b = normalize(polygon[(i + 1) % polygon.length]!);
    const c = cross(a, b),
      l = length(c);
    if (l > 1e-12) sum += (Math.atan2(l, dot(a, b)) * dot(c, n)) / l;
  }
  return Math.abs(sum) / 2;
}

/** Irradiance (lx) at a point from a one-sided Lambertian rectangle of luminance 1 cd/m², without anything in the way. */
export function rectangleIrradiance(rect: Rectangle, point: Vec3, normal: Vec3): number {
  const facing = dot(cross(rect.ex, rect.ey), sub(point, rect.corner));
  if (facing <= 0) return 0;
  const { corner, ex, ey } = rect;
  const at = (u: number, v: number): Vec3 =>
    sub([corner[0] + u * ex[0] + v * ey[0], corner[1] + u * ex[1] + v * ey[1], corner[2] + u * ex[2] + v * ey[2]], point);
  return polygonIrradiance([at(0, 0), at(1, 0), at(1, 1), at(0, 1)], normalize(normal));
}

/** The part of a polygon above the plane through the origin with normal n. */
function clipAbove(polygon: Vec3[], n: Vec3): Vec3[] {
  const out: Vec3[] = [];
  for (let i = 0; i < polygon.length; i++) {
    const a = polygon[i]!,
      b = polygon[(i + 1) % polygon.length]!;
    const ha = dot(a, n),
      hb = dot(b, n);
    if (ha >= 0) out.push(a);
    if (ha * hb < 0) {
      const t = ha / (ha - hb);
      out.push([a[0] + t * (b[0] - a[0]), a[1] + t * (b[1] - a[1]), a[2] + t * (b[2] - a[2])]);
    }
  }
  return out;
}
