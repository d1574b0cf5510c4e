import { cross, normalize, type Vec3 } from '../math/index.ts';
import type { HeadFrame } from './schema.ts';

/** Points of a head, in the order in which they are asked for: what the head frame is made of first. “Left” is the figure’s own left. */
export const LANDMARK_NAMES = [
  'pupilL',
  'pupilR',
  'crown',
  'chinBottom',
  'browCentre',
  'noseTip',
  'noseBase',
  'mouthCornerL',
  'mouthCornerR',
  'cheekL',
  'cheekR',
  'earL',
  'earR',
] as const;
export type LandmarkName = (typeof LANDMARK_NAMES)[number];

/** The landmark on the other side; nothing where there is but one. */
export function otherSide(name: LandmarkName): LandmarkName | undefined {
  const other = name.endsWith('L') ? `${name.slice(0, -1)}R` : name.endsWith('R') ? `${name.slice(0, -1)}L` : undefined;
  return LANDMARK_NAMES.find((n) => n === other);
}

/** A head's axes in its own space: to its left, up, out of its face. */
export function axesOf({ forward, up }: Pick<HeadFrame, 'forward' | 'up'>): [Vec3, Vec3, Vec3] {
  const z = normalize(forward),
    x = normalize(cross(up, z));
  return [x, cross(z, x), z];
}
