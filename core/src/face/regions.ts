import type { Vec3 } from '../math/index.ts';
import type { WholeFace } from './known.ts';

/** What a place of a face belongs to; left and right are the subject's own. */
export const REGIONS = ['nose', 'brow', 'eyeL', 'eyeR', 'cheekL', 'cheekR', 'mouth', 'chin', 'forehead', 'ear', 'neck'] as const;
export type Region = (typeof REGIONS)[number];
export const regionNumber = (name: Region): number => REGIONS.indexOf(name);

/** Measures of one face that its regions are cut by, in heights of the head. Shares of each other: common practice, no source. */
export interface Measures {
  /** Half the width of an eye, and of its height with the lids. */
  eyeWide: number;
  eyeHigh: number;
  /** Half the nose's width at its base and at its root; its length from between the eyes to its base. */
  noseWide: number;
  rootWide: number;
  noseLong: number;
  /** From the nose's base to the mouth, and half the mouth's width. */
  lip: number;
  mouthWide: number;
}

export function measuresOf({ points }: WholeFace): Measures {
  const apart = points.pupilL[0] - points.pupilR[0],
    mouthWide = (points.mouthCornerL[0] - points.mouthCornerR[0]) / 2;
  return {
    // an eye is about half as wide as pupils are apart
    eyeWide: 0.25 * apart,
    eyeHigh: 0.13 * apart,
    noseWide: 0.32 * apart,
    rootWide: 0.19 * apart,
    noseLong: Math.abs(points.noseBase[1]),
    lip: Math.abs(points.noseBase[1] - (points.mouthCornerL[1] + points.mouthCornerR[1]) / 2),
    mouthWide,
  };
}

/** The region of a point of the face's surface, in the head's axes and heights. */
export function regionAt({ points }: WholeFace, m: Measures, [x, y, z]: Vec3): Region {
  const { noseTip, noseBase, pupilL, pupilR, mouthCornerL, mouthCornerR } = points;
  const brow = points.browCentre?.[1] ?? m.noseLong * 0.5,
    mouth = (mouthCornerL[1] + mouthCornerR[1]) / 2,
    chin = points.chinBottom?.[1] ?? mouth - 2 * m.lip;
  const middle = noseTip[0],
    aside = x - middle;
  if (y < chin) return 'neck';
  if (Math.abs(aside) > 2.6 * m.noseWide + m.eyeWide && z < noseBase[2] - 0.38) return y > mouth ? 'ear' : 'neck';
  // the nose widens from its root down to its wings
  const down = Math.min(1, Math.max(0, (brow - y) / (brow - noseBase[1])));
  const half = m.rootWide + (m.noseWide - m.rootWide) * down;
  if (y > noseBase[1] - 0.12 * m.noseLong && y < brow - 0.15 * (brow - noseBase[1]) && Math.abs(aside) < half && z > noseBase[2] - 0.09)
    return 'nose';
  if (y > brow + 0.04) return 'forehead';
  const inEye = (p: Vec3) => ((x - p[0]) / (1.1 * m.eyeWide)) ** 2 + ((y - p[1]) / (1.1 * m.eyeHigh)) ** 2 < 1;
  if (inEye(pupilL)) return 'eyeL';
  if (inEye(pupilR)) return 'eyeR';
  if (y > pupilL[1] + 1.1 * m.eyeHigh) return 'brow';
  if (Math.abs(y - mouth) < 0.5 * m.lip && Math.abs(aside) < 1.05 * m.mouthWide) return 'mouth';
  if (y < mouth - 0.5 * m.lip && Math.abs(aside) < 1.1 * m.mouthWide) return 'chin';
  return aside > 0 ? 'cheekL' : 'cheekR';
}
