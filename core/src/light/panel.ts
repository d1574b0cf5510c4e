import { SphericalRectangle, type Rectangle } from './rectangle.ts';
import type { ShapeView } from './view.ts';

/** The other side of a rectangle. */
const turned = ({ corner, ex, ey }: Rectangle): Rectangle => ({
  corner: [corner[0] + ex[0], corner[1] + ex[1], corner[2] + ex[2]],
  ex: [-ex[0], -ex[1], -ex[2]],
  ey,
});

/** A rectangle that shines to one side or both, sampled by solid angle; a very small one by area. */
export class PanelView implements ShapeView {
  wx = 0;
  wy = 0;
  wz = 0;
  d = 0;
  met = 0;
  private readonly sides: SphericalRectangle[];

  constructor(rectangle: Rectangle, twoSided: boolean) {
    this.sides = (twoSided ? [rectangle, turned(rectangle)] : [rectangle]).map((r) => new SphericalRectangle(r));
  }

  sample(x: number, y: number, z: number, u: number, v: number): number {
    for (let i = 0; i < this.sides.length; i++) {
      const side = this.sides[i]!;
      if (!(side.prepare(x, y, z) > 0)) continue;
      side.sample(u, v);
      this.wx = side.wx;
      this.wy = side.wy;
      this.wz = side.wz;
      this.d = side.d;
      return side.spread;
    }
    return 0;
  }

  meet(ox: number, oy: number, oz: number, dx: number, dy: number, dz: number): number {
    for (let i = 0; i < this.sides.length; i++) {
      const side = this.sides[i]!;
      const t = side.intersectFrom(ox, oy, oz, dx, dy, dz);
      if (t === Infinity) continue;
      if (!(side.prepare(ox, oy, oz) > 0)) return Infinity;
      this.met = side.spreadAt(side.facing(dx, dy, dz), t);
      return t;
    }
    return Infinity;
  }
}
