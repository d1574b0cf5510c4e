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
