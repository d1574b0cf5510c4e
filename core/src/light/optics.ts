import { length, type Vec3 } from '../math/index.ts';
import { gridPasses, inRange, spotShape, type Range } from './beam.ts';
import { flagPasses, type Flag } from './flags.ts';
import { goboAt, type GoboPattern } from './gobo.ts';
import { intensityAt, peakOf, type Profile } from './profile.ts';
import { DEGREE } from '../math/index.ts';

/** What shapes a source's light on its way, in the world; all of it can be missing. */
export interface Optics {
  /** Middle of the source and its axes: x and y across, z where it shines. */
  centre: Vec3;
  x: Vec3;
  y: Vec3;
  z: Vec3;
  /** Full angle of a honeycomb grid, radians. */
  grid?: number;
  /** Full beam angle (radians) and softness of a spot. */
  spot?: { angle: number; soft: number };
  profile?: Profile;
  range?: Range;
  /** A picture in the way: metres before the source, half width and height, turn in radians. */
  gobo?: { distance: number; half: [number, number]; turn: number; pattern: GoboPattern };
  flags?: Flag[];
}

/** Evaluates optics; the factor on a light's r g b stands in r g b. */
export class OpticsView {
  r = 1;
  g = 1;
  b = 1;
  private readonly o: Optics;
  private readonly tanGrid: number;
  private readonly spot: ((cos: number) => number) | undefined;
  private readonly peak: number;
  private readonly rgb = new Float64Array(3);

  constructor(optics: Optics) {
    this.o = optics;
    this.tanGrid = optics.grid === undefined ? 0 : Math.tan(Math.min(optics.grid / 2, Math.PI / 2 - 1e-4));
    this.spot = optics.spot && spotShape(optics.spot.angle, optics.spot.soft);
    this.peak = optics.profile ? peakOf(optics.profile) : 1;
  }

  /** Light that comes to p from the direction w, `d` metres away; false when nothing is left. */
  at(px: number, py: number, pz: number, wx: number, wy: number, wz: number, d: number): boolean {
    const { o } = this;
    let k = 1;
    const cos = -(wx * o.z[0] + wy * o.z[1] + wz * o.z[2]);
    if (this.tanGrid > 0) {
      // a panel's other side has a grid as well
      const c = Math.abs(cos);
      k *= c > 1e-6 ? gridPasses(Math.sqrt(Math.max(0, 1 - c * c)) / c, this.tanGrid) : 0;
    }
    if (this.spot) k *= this.spot(cos);
    if (o.profile) {
      const x = -(wx * o.x[0] + wy * o.x[1] + wz * o.x[2]),
        y = -(wx * o.y[0] + wy * o.y[1] + wz * o.y[2]);
      const gamma = Math.acos(Math.min(1, Math.max(-1, cos))) / DEGREE;
      // z points down where a luminaire hangs: seen from above, C runs from x against the clock, and y lies with it
      k *= intensityAt(o.profile, gamma, Math.atan2(-y, x) / DEGREE) / this.peak;
    }
    if (o.range) k *= inRange(o.range, length([px - o.centre[0], py - o.centre[1], pz - o.centre[2]]));
    if (o.flags) for (let i = 0; i < o.flags.length && k > 0; i++) k *= flagPasses(o.flags[i]!, px, py, pz, wx, wy, wz, d);
    this.r = this.g = this.b = k;
    if (!(k > 0)) return false;
    if (o.gobo) this.throughGobo(px, py, pz, wx, wy, wz, d);
    return this.r > 0 || this.g > 0 || this.b > 0;
  }

  private throughGobo(px: number, py: number, pz: number, wx: number, wy: number, wz: number, d: number): void {
    const { o, rgb } = this,
      { distance, half, turn, pattern } = o.gobo!;
    const rx = px - o.centre[0],
      ry = py - o.centre[1],
      rz = pz - o.centre[2];
    const along = wx * o.z[0] + wy * o.z[1] + wz * o.z[2],
      from = rx * o.z[0] + ry * o.z[1] + rz * o.z[2];
    // between the source and the picture nothing is in the way; behind the source its holder is
    if (from >= 0 && from <= distance) return;
    const t = along < 0 ? (distance - from) / along : Infinity;
    if (!(t > 0 && t < d)) {
      this.r = this.g = this.b = 0;
      return;
    }
    const qx = rx + wx * t,
      qy = ry + wy * t,
      qz = rz + wz * t;
    const x = qx * o.x[0] + qy * o.x[1] + qz * o.x[2],
      y = qx * o.y[0] + qy * o.y[1] + qz * o.y[2];
    const c = Math.cos(turn),
      s = Math.sin(turn);
    const u = (x * c + y * s) / half[0],
      v = (-x * s + y * c) / half[1];
    goboAt(pattern, (u + 1) / 2, (1 - v) / 2, rgb);
    this.r *= rgb[0]!;
    this.g *= rgb[1]!;
    this.b *= rgb[2]!;
  }
}
