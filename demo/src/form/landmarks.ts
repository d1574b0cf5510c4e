import type { Point, Shape } from './field.ts';
import { CORNEA_FRONT } from './eyes.ts';
import { earFrame, eyeCentre, type Proportions } from './proportions.ts';

/** The point of a surface next to one near it, along its slope. */
function nearest(shape: Shape, [x, y, z]: Point): Point {
  const e = 0.5;
  for (let i = 0; i < 20; i++) {
    const d = shape.at(x, y, z);
    const g = [shape.at(x + e, y, z) - d, shape.at(x, y + e, z) - d, shape.at(x, y, z + e) - d];
    const l = Math.hypot(...g) || 1;
    x -= (g[0]! / l) * d;
    y -= (g[1]! / l) * d;
    z -= (g[2]! / l) * d;
  }
  return [x, y, z];
}

/** Named points of the face, from the proportions and by marching the skin, millimetres. */
export function findLandmarks(p: Proportions, skin: Shape): Record<string, Point> {
  const at = (x: number, y: number): Point => [x, y, skin.front(x, y)];
  const extreme = (from: number, to: number, score: (q: Point) => number): Point => {
    let best = at(0, from);
    for (let y = from; y <= to; y += 0.5) {
      const q = at(0, y);
      if (score(q) > score(best)) best = q;
    }
    return best;
  };
  const cornea = p.eyeZ + p.eyeRadius * CORNEA_FRONT,
    ear = nearest(skin, earFrame(p).o);
  return {
    noseTip: extreme(p.noseBaseY, p.noseBaseY + 20, (q) => q[2]),
    noseBase: extreme(p.noseBaseY - 8, p.noseBaseY - 1, (q) => -q[2] + q[1] * 0.3),
    sellion: extreme(-8, 12, (q) => -q[2]),
    browCentre: extreme(p.browY - 6, p.browY + 10, (q) => q[2]),
    pupilL: [p.pupilX, 0, cornea],
    pupilR: [-p.pupilX, 0, cornea],
    eyeCentreL: eyeCentre(p),
    eyeCentreR: [-p.pupilX, 0, p.eyeZ],
    mouthCornerL: at(p.mouthWidth, p.mouthY - 1 + p.smile),
    mouthCornerR: at(-p.mouthWidth, p.mouthY - 1 + p.smile),
    chinFront: extreme(p.chinY + 4, p.chinY + 26, (q) => q[2]),
    chinBottom: skin.march([0, p.chinY - 60, p.chinZ - 14], [0, 1, 0]),
    cheekL: skin.march([140, -16, 130], [-0.758, 0, -0.652]),
    cheekR: skin.march([-140, -16, 130], [0.758, 0, -0.652]),
    earL: ear,
    earR: [-ear[0], ear[1], ear[2]],
    crown: skin.march([0, 260, 0], [0, -1, 0]),
  };
}
