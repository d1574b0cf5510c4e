import type { Point } from './field.ts';

/**
 * A head in numbers, millimetres. Origin at the height of the pupils (y = 0) on the plane of the ear canals (z = 0);
 * +Z forward, +X the character's left. Factors without a unit are 1 for an average head.
 */
export interface Proportions {
  crown: number;
  chinY: number;
  headWidth: number;
  backZ: number;
  foreheadZ: number;
  browMass: number;
  browY: number;
  browZ: number;
  /** Half the distance between the pupils. */
  pupilX: number;
  eyeRadius: number;
  eyeZ: number;
  upperLid: number;
  lowerLid: number;
  /** Rise of the outer corner of the eye. */
  canthus: number;
  crease: number;
  bags: number;
  browFat: number;
  noseBaseY: number;
  noseZ: number;
  noseWidth: number;
  bridgeZ: number;
  bridgeWidth: number;
  tipRadius: number;
  tipLift: number;
  hump: number;
  mouthY: number;
  mouthWidth: number;
  upperLip: number;
  lowerLip: number;
  mouthZ: number;
  smile: number;
  cheekbone: number;
  cheekboneX: number;
  cheekFat: number;
  hollow: number;
  jawX: number;
  jawY: number;
  jawRadius: number;
  chinWidth: number;
  chinZ: number;
  cleft: number;
  ear: number;
  neckRadius: number;
  larynx: number;
  /** 0 young … 1 old. */
  age: number;
  asymmetry: number;
}

/** An old keeper of a lighthouse: heavy brow, long nose, hollow cheeks, broad jaw. */
export const KEEPER: Proportions = {
  crown: 115,
  chinY: -119,
  headWidth: 77,
  backZ: -102,
  foreheadZ: 90,
  browMass: 3.2,
  browY: 17.5,
  browZ: 96.5,
  pupilX: 31.5,
  eyeRadius: 12.7,
  eyeZ: 71.5,
  upperLid: 4.5,
  lowerLid: 4.8,
  canthus: 0.2,
  crease: 0.8,
  bags: 1.1,
  browFat: 1.1,
  noseBaseY: -49,
  noseZ: 121,
  noseWidth: 19.5,
  bridgeZ: 93,
  bridgeWidth: 9,
  tipRadius: 10,
  tipLift: -1,
  hump: 2.6,
  mouthY: -71,
  mouthWidth: 27,
  upperLip: 0.78,
  lowerLip: 0.86,
  mouthZ: 97.5,
  smile: -0.3,
  cheekbone: 1.3,
  cheekboneX: 63.5,
  cheekFat: 0.4,
  hollow: 1,
  jawX: 48,
  jawY: -68,
  jawRadius: 13,
  chinWidth: 1.3,
  chinZ: 99,
  cleft: 0.3,
  ear: 1.1,
  neckRadius: 58,
  larynx: 1,
  age: 0.9,
  asymmetry: 1,
};

/** Centre of the left eyeball. */
export const eyeCentre = (p: Proportions): Point => [p.pupilX, 0, p.eyeZ];

/** The opening between the lids, in the eye's own u (outwards) and v (up), mm. */
export function lidCurves(p: Proportions) {
  const s = p.eyeRadius / 12.2,
    inner = -14.6 * s,
    outer = 12.9 * s,
    width = outer - inner;
  const tilt = (u: number) => (p.canthus * u) / 13;
  const upper = (u: number) => {
    const t = (u - inner) / width;
    return p.upperLid * 4 * t * (1 - t) * (1 + 0.35 * (0.5 - t)) * 1.02 + tilt(u);
  };
  const lower = (u: number) => {
    const t = (u - inner) / width;
    return -p.lowerLid * 4 * t * (1 - t) * (1 - 0.55 * (0.5 - t)) + tilt(u);
  };
  return { upper, lower, inner, outer };
}

/** The frame of the left ear: origin, along the plate backwards, upwards, and out of it. */
export function earFrame(p: Proportions): { o: Point; a: Point; b: Point; c: Point } {
  const swing = (27 * Math.PI) / 180,
    lean = (14 * Math.PI) / 180;
  const o: Point = [p.cheekboneX + 6, -12, -11];
  const a: Point = [Math.sin(swing), 0, -Math.cos(swing)];
  const raw: Point = [0.14, Math.cos(lean), -Math.sin(lean)];
  const k = a[0] * raw[0] + a[2] * raw[2];
  const q: Point = [raw[0] - a[0] * k, raw[1], raw[2] - a[2] * k];
  const l = Math.hypot(...q);
  const b: Point = [q[0] / l, q[1] / l, q[2] / l];
  const c: Point = [a[1] * b[2] - a[2] * b[1], a[2] * b[0] - a[0] * b[2], a[0] * b[1] - a[1] * b[0]];
  return { o, a, b, c: c[0] < 0 ? [-c[0], -c[1], -c[2]] : c };
}

/** Under a millimetre of left–right difference, which makes a face alive; in place on x y z at `o`. */
export function asymmetry(p: Proportions, v: { [i: number]: number }, o = 0): void {
  const x = v[o]!,
    y = v[o + 1]!;
  v[o] = x + p.asymmetry * 0.8 * Math.sin((y + 30) * 0.035);
  v[o + 1] = y + p.asymmetry * 0.6 * Math.sin(x * 0.035);
}
