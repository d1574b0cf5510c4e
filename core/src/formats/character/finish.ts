import { checkMesh, MeshError } from '@plinket/kernel';
import type { Vec3 } from '../../math/index.ts';
import type { CharacterAsset, ImportWarning, Part, Rig } from '../../scene/index.ts';
import { ImportError } from './error.ts';
import { findHead, headFromLandmarks } from '../../face/index.ts';
import { scaleWarnings } from './scale.ts';

/** Checks a part's mesh. @throws ImportError bad-mesh that names the part */
export function checkPart(part: Pick<Part, 'name' | 'positions' | 'indices'>): void {
  try {
    checkMesh(part);
  } catch (error) {
    if (error instanceof MeshError) throw new ImportError('bad-mesh', `${part.name}: ${error.message}`);
    throw error;
  }
}

/** Smallest and largest coordinates of all parts. */
export function boundsOf(parts: Part[]): { min: Vec3; max: Vec3 } {
  const min: Vec3 = [Infinity, Infinity, Infinity],
    max: Vec3 = [-Infinity, -Infinity, -Infinity];
  for (const part of parts)
    for (let i = 0; i < part.positions.length; i++) {
      const k = i % 3,
        x = part.positions[i]!;
      if (x < min[k]!) min[k] = x;
      if (x > max[k]!) max[k] = x;
    }
  return { min, max };
}

/** Makes a character of the parts that a file held: bounds, head, and what is worth telling. @throws ImportError no-triangles */
export function finishCharacter(
  name: string,
  parts: Part[],
  landmarks: Record<string, Vec3>,
  warnings: ImportWarning[],
  rig?: Rig,
): CharacterAsset {
  if (!parts.length) throw new ImportError('no-triangles', 'The file has no triangles.');
  const bounds = boundsOf(parts);
  const given = headFromLandmarks(landmarks);
  const { head, found } = given ? { head: given, found: true } : findHead(parts, bounds);
  const told = [...warnings];
  if (head.source === 'proposed')
    told.push({
      code: 'no-landmarks',
      message: found
        ? 'The file names no landmarks: the head is proposed from the shape of the mesh, facing +Z. Correct it if it is wrong.'
        : 'No face was found in the mesh: where the head is, is only guessed from its size. Mark its landmarks on the Character sheet.',
    });
  told.push(...scaleWarnings(bounds));
  const triangles = parts.reduce((n, p) => n + p.indices.length / 3, 0);
  return { name, parts, bounds, triangles, head, landmarks, warnings: told, ...(rig ? { rig } : {}) };
}
