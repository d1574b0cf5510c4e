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
