import { dot, sub, type Vec3 } from '../math/index.ts';
import { headAt, type CharacterAsset } from '../scene/index.ts';
import { axesOf, headInWorld, LANDMARK_NAMES, type Frame, type LandmarkName, type Setup } from '../setup/index.ts';

/** What is known of one head of a setup: where it is, and its landmarks in its own axes, in heights of the head. */
export interface KnownFace {
  /** Id of the subject. */
  subject: string;
  frame: Frame;
  points: Partial<Record<LandmarkName, Vec3>>;
}

/** What a reading of a pattern cannot do without. */
export const NEEDED = ['pupilL', 'pupilR', 'noseTip', 'noseBase', 'mouthCornerL', 'mouthCornerR'] as const;
type Needed = (typeof NEEDED)[number];
export type WholeFace = KnownFace & { points: Record<Needed, Vec3> };

/** Landmarks that a reading of patterns misses. */
export const missingOf = ({ points }: KnownFace): Needed[] => NEEDED.filter((n) => !points[n]);
export const isWhole = (face: KnownFace): face is WholeFace => missingOf(face).length === 0;

/**
 * The face of a subject as it stands in a setup: landmarks that were confirmed or came with its file; nothing that is only proposed. At a
 * pose they go along with the head.
 */
export function knownFace(setup: Setup, subject: string, asset: CharacterAsset): KnownFace {
  const item = setup.subjects.items[subject]!;
  const given: Partial<Record<string, Vec3>> = { ...asset.landmarks, ...item.landmarks };
  // landmarks are of the figure at rest, and so is the head that they are measured from
  const axes = axesOf(item.head),
    points: KnownFace['points'] = {};
  for (const name of LANDMARK_NAMES) {
    const p = given[name];
    if (!p) continue;
    const d = sub(p, item.head.origin);
    points[name] = axes.map((a) => dot(d, a) / item.head.height) as Vec3;
  }
  // where lights do not follow the head the setup does not say where it is at the pose: the mesh does
  const { pose } = item;
  const frame = headInWorld(pose && !pose.head ? { ...item, pose: { ...pose, head: headAt(asset, item.head, pose) } } : item);
  return { subject, frame, points };
}
