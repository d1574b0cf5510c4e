import { buildClothes } from './clothes.ts';
import { eyeParts } from './eyes.ts';
import { smoothStep, type Point, type Shape } from './field.ts';
import { buildBrows, buildHair, buildLashes } from './hair.ts';
import { buildSkin } from './head.ts';
import { axis, even, finest, polygonise, zone, type Surface } from './nets.ts';
import { asymmetry, earFrame, eyeCentre, KEEPER, type Proportions } from './proportions.ts';

/** A generated character: surfaces in metres, landmarks in metres. */
export interface Character {
  name: string;
  surfaces: Surface[];
  landmarks: Record<string, Point>;
}

const SKIN: Point = [0.62, 0.4, 0.3];
const IRIS: Point = [0.16, 0.2, 0.24];
/** The bust stands on the floor with the pupils at this height, metres: those of a man on a low stool. */
const PUPIL_HEIGHT = 1.35;

/** Skin colour by place: lips darker and redder, cheeks, nose and ears warmer, stubble on the jaw cooler. */
function skinColour(p: Proportions): (x: number, y: number, z: number) => Point {
  return (x, y, z) => {
    const ax = Math.abs(x),
      t = Math.min(1, ax / p.mouthWidth);
    const top = p.mouthY + 8.6 * p.upperLip * (1 - t ** 1.6) - Math.max(0, 1.6 - ax * 0.35),
      bottom = p.mouthY - 11.2 * p.lowerLip * (1 - t ** 2.2);
    const lip = z > p.mouthZ - 22 ? smoothStep(-0.8, 1.2, Math.min(top - y, y - bottom, (p.mouthWidth - ax) * 0.7)) : 0;
    const cheek = z > 40 ? Math.exp(-(((ax - 38) / 20) ** 2 + ((y + 32) / 18) ** 2)) * 0.55 : 0;
    const nose = z > 95 ? Math.exp(-((ax / 15) ** 2 + ((y - p.noseBaseY - 8) / 12) ** 2)) * 0.6 : 0;
    const ear = smoothStep(p.cheekboneX + 8, p.cheekboneX + 16, ax) * (y > -45 && y < 30 ? 0.5 : 0);
    const warm = Math.max(cheek, nose, ear);
    const beard = smoothStep(-48, -62, y) * smoothStep(-160, -120, y) * (1 - lip) * smoothStep(-10, 20, z) * 0.22;
    return [
      SKIN[0] * (1 - 0.2 * lip - 0.28 * beard),
      SKIN[1] * (1 - 0.34 * lip - 0.14 * warm - 0.2 * beard),
      SKIN[2] * (1 - 0.26 * lip - 0.17 * warm - 0.08 * beard),
    ];
  };
}

function headGrid(p: Proportions, q: number) {
  return {
    xs: axis(-205, 205, finest(zone(-47, 47, 1.2 * q, 7), zone(60, 92, 1.8 * q, 7), zone(-92, -60, 1.8 * q, 7))),
    ys: axis(
      -262,
      p.crown + 12,
      finest(
        zone(-8, 13, 0.85 * q, 6, 0.06),
        zone(p.mouthY - 12, p.mouthY + 10, 0.85 * q, 6, 0.06),
        zone(p.chinY - 4, 35, 1.6 * q, 6, 0.04),
      ),
    ),
    zs: axis(-130, Math.max(134, p.noseZ + 8), finest(zone(64, p.noseZ + 4, 1.2 * q, 6, 0.05), zone(-38, 6, 2 * q, 6, 0.05))),
  };
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
  const cornea = p.eyeZ + p.eyeRadius + 0.9,
    { o } = earFrame(p);
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
    earL: o,
    earR: [-o[0], o[1], o[2]],
    crown: skin.march([0, 260, 0], [0, -1, 0]),
  };
}

const CLOTHES = new Set(['coat', 'shirt']);

/** The old keeper as a bust. `coarseness` 1 is full detail (about half a million triangles); larger is quicker. */
export function generateKeeper(coarseness = 1): Character {
  const p = KEEPER,
    q = coarseness;
  const skin = buildSkin(p);
  const { coat, shirt } = buildClothes({ shoulder: 1.05, chest: 1.03, waist: 1.12 }, p.neckRadius);
  const e = eyeCentre(p);
  const surfaces = [
    polygonise(skin, 'skin', headGrid(p, q), skinColour(p)),
    polygonise(buildBrows(p, skin, 1.3, 0.1), 'brows', {
      xs: even(-58, 58, 0.9 * q),
      ys: even(p.browY - 12, p.browY + 14, 0.8 * q),
      zs: even(p.browZ - 34, p.browZ + 8, 0.9 * q),
      epsilon: 0.3,
    }),
    polygonise(buildLashes(p, 0.6), 'lashes', {
      xs: even(-50, 50, 0.5 * q),
      ys: even(-5, 11, 0.45 * q),
      zs: even(e[2], e[2] + 18, 0.5 * q),
      epsilon: 0.2,
    }),
    polygonise(buildHair(p), 'hair', {
      xs: even(-100, 100, 1.5 * q),
      ys: even(-75, p.crown + 45, 1.5 * q),
      zs: even(p.backZ - 45, 100, 1.5 * q),
      epsilon: 0.8,
    }),
    polygonise(coat, 'coat', { xs: even(-330, 330, 3.2 * q), ys: even(-420, -110, 3.2 * q), zs: even(-230, 170, 3.2 * q), epsilon: 1.5 }),
    polygonise(shirt, 'shirt', { xs: even(-90, 90, 2.4 * q), ys: even(-400, -110, 2.4 * q), zs: even(-115, 115, 2.4 * q), epsilon: 1 }),
    ...eyeParts(p, IRIS),
  ];
  const landmarks = findLandmarks(p, skin);
  for (const s of surfaces) {
    if (!CLOTHES.has(s.name)) for (let i = 0; i < s.positions.length; i += 3) asymmetry(p, s.positions, i);
    for (let i = 0; i < s.positions.length; i++) s.positions[i] = s.positions[i]! / 1000 + (i % 3 === 1 ? PUPIL_HEIGHT : 0);
  }
  for (const point of Object.values(landmarks)) {
    asymmetry(p, point);
    for (let i = 0; i < 3; i++) point[i] = +(point[i]! / 1000 + (i === 1 ? PUPIL_HEIGHT : 0)).toFixed(5);
  }
  return { name: 'The old keeper', surfaces, landmarks };
}
