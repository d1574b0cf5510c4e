import type { Vec3 } from '../math/index.ts';
import { BallView } from './ball.ts';
import { DiskView, type Disk } from './disk.ts';
import { PanelView } from './panel.ts';
import type { Rectangle } from './rectangle.ts';
import { SunView } from './sun.ts';
import { TubeView, type Tube } from './tube.ts';
import type { ShapeView } from './view.ts';

/** The shape of a source in the world: metres, unit directions. */
export type Shape =
  | { kind: 'rectangle'; rectangle: Rectangle; twoSided: boolean }
  | { kind: 'disk'; disk: Disk; twoSided: boolean }
  | { kind: 'ball'; centre: Vec3; radius: number }
  | { kind: 'tube'; tube: Tube }
  /** Infinitely far away: the direction towards it and half the angle that it takes, radians. */
  | { kind: 'sun'; towards: Vec3; half: number };

/** How rays see a shape. */
export function viewOf(shape: Shape): ShapeView {
  switch (shape.kind) {
    case 'rectangle':
      return new PanelView(shape.rectangle, shape.twoSided);
    case 'disk':
      return new DiskView(shape.disk, shape.twoSided);
    case 'ball':
      return new BallView(shape.centre, shape.radius);
    case 'tube':
      return new TubeView(shape.tube);
    case 'sun':
      return new SunView(shape.towards, shape.half);
  }
}

/** A point in the middle of a shape; nothing for what is infinitely far away. */
export function centreOf(shape: Shape): Vec3 | undefined {
  switch (shape.kind) {
    case 'rectangle': {
      const { corner, ex, ey } = shape.rectangle;
      return [0, 1, 2].map((k) => corner[k]! + (ex[k]! + ey[k]!) / 2) as Vec3;
    }
    case 'disk':
      return shape.disk.centre;
    case 'ball':
      return shape.centre;
    case 'tube':
      return shape.tube.centre;
    case 'sun':
      return undefined;
  }
}
