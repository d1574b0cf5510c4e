import { cross, normalize, type Vec3 } from '../math/index.ts';
import { LANDMARK_NAMES, type LandmarkName } from './landmark-names.ts';
import type { HeadFrame } from './schema.ts';

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
