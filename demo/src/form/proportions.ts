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
  browMass: 4,
  browY: 17.5,
  browZ: 96.5,
  pupilX: 31.5,
  eyeRadius: 13.8,
  eyeZ: 71.5,
  upperLid: 5.3,
  lowerLid: 5.2,
  canthus: 0.2,
  crease: 0.8,
  bags: 1.3,
  browFat: 1.1,
  noseBaseY: -49,
  noseZ: 122.5,
  noseWidth: 20.2,
  bridgeZ: 93,
  bridgeWidth: 9.6,
  tipRadius: 10.6,
  tipLift: -1,
  hump: 2.6,
  mouthY: -71,
  mouthWidth: 25,
  upperLip: 0.78,
  lowerLip: 0.86,
  mouthZ: 97.5,
  smile: -0.3,
  cheekbone: 1.3,
  cheekboneX: 63.5,
  cheekFat: 0.8,
  hollow: 0.8,
  jawX: 48,
  jawY: -68,
  jawRadius: 13,
  chinWidth: 1.3,
  chinZ: 99,
  cleft: 0.3,
  ear: 1.18,
  neckRadius: 55,
  larynx: 1,
  age: 0.9,
  asymmetry: 1,
};

/** A young signaller: high cheekbones, large eyes, small nose, narrow jaw. */
export const SIGNALLER: Proportions = {
  ...KEEPER,
  crown: 112,
  chinY: -101,
  headWidth: 73,
  backZ: -97,
  foreheadZ: 86,
  browMass: -1.2,
  browY: 22.5,
  browZ: 86,
  pupilX: 30.5,
  eyeRadius: 15.2,
  eyeZ: 67.5,
  upperLid: 6.9,
  lowerLid: 5.9,
  canthus: 2,
  crease: 1.1,
  bags: 0.1,
  browFat: 0.72,
  noseBaseY: -39,
  noseZ: 103.5,
  noseWidth: 13.6,
  bridgeZ: 84.5,
  bridgeWidth: 6.6,
  tipRadius: 7.2,
  tipLift: 1.4,
  hump: -0.8,
  mouthY: -58,
  mouthWidth: 22.5,
  upperLip: 0.88,
  lowerLip: 0.96,
  mouthZ: 89.5,
  smile: 2.0,
  cheekbone: 1.5,
  cheekboneX: 59,
  cheekFat: 1.9,
  hollow: 0.45,
  jawX: 35.5,
  jawY: -58,
  jawRadius: 10.5,
  chinWidth: 0.82,
  chinZ: 86,
  cleft: 0,
  ear: 0.9,
  neckRadius: 42,
  larynx: 0,
  age: 0,
};

/** A tide-goat: wide-set slanting eyes over a broad muzzle; its ears are leaves, made elsewhere. */
export const GOAT: Proportions = {
  ...KEEPER,
  chinY: -116,
  headWidth: 72,
  foreheadZ: 86,
  browMass: 3,
  browY: 22,
  browZ: 91,
  pupilX: 37,
  eyeRadius: 16,
  eyeZ: 64,
  upperLid: 7.4,
  lowerLid: 6,
  canthus: 4,
  crease: 1.2,
  bags: 0.2,
  browFat: 0.8,
  noseBaseY: -49,
  noseZ: 134,
  noseWidth: 21,
  bridgeZ: 95,
  bridgeWidth: 14,
  tipRadius: 12,
  tipLift: -2,
  hump: 2,
  mouthY: -73,
  mouthWidth: 27,
  upperLip: 0.7,
  lowerLip: 0.75,
  mouthZ: 119,
  smile: 1.6,
  cheekbone: 3,
  cheekboneX: 64,
  cheekFat: 0.2,
  hollow: 1.2,
  jawX: 40,
  jawY: -64,
  jawRadius: 11,
  chinWidth: 0.74,
  chinZ: 104,
  cleft: 0,
  ear: 0,
  neckRadius: 52,
  larynx: 0,
  age: 0.2,
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
