import { SphericalRectangle, type Rectangle } from './rectangle.ts';
import type { ShapeView } from './view.ts';

/** The other side of a rectangle. */
const turned = ({ corner, ex, ey }: Rectangle): Rectangle => ({
  corner: [corner[0] + ex[0], corner[1] + ex[1], corner[2] + ex[2]],
  ex: [-ex[0], -ex[1], -ex[2]],
  ey,
});

/** A rectangle that shines to one side or both, sampled by solid angle. */
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
      const S = side.prepare(x, y, z);
      if (!(S > 0)) continue;
      side.sample(u, v);
      this.wx = side.wx;
      this.wy = side.wy;
      this.wz = side.wz;
      this.d = side.d;
      return S;
    }
    return 0;
  }

  meet(ox: number, oy: number, oz: number, dx: number, dy: number, dz: number): number {
    for (let i = 0; i < this.sides.length; i++) {
      const side = this.sides[i]!;
      const t = side.intersectFrom(ox, oy, oz, dx, dy, dz);
      if (t === Infinity) continue;
      this.met = side.prepare(ox, oy, oz);
      return this.met > 0 ? t : Infinity;
    }
    return Infinity;
  }
}
