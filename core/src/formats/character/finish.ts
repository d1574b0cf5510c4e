import { checkMesh, MeshError } from '@plinket/kernel';
import type { Vec3 } from '../../math/index.ts';
import type { CharacterAsset, ImportWarning, Part, Rig } from '../../scene/index.ts';
import { ImportError } from './error.ts';
import { findHead, headFromLandmarks } from '../../face/index.ts';
import { withoutStrands } from '../../geometry/index.ts';
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

/** What is said of many parts in the same words is said once, with the first names. */
function joinedWarnings(warnings: readonly ImportWarning[]): ImportWarning[] {
  const alike = new Map<string, { first: ImportWarning; names: string[] }>();
  for (const warning of warnings) {
    const { code, message, part } = warning;
    const key = `${code} ${part === undefined ? message : message.slice(part.length)}`;
    const known = alike.get(key);
    if (!known) alike.set(key, { first: warning, names: part === undefined ? [] : [part] });
    else if (part !== undefined) known.names.push(part);
  }
  return [...alike.values()].map(({ first: { code, message, part }, names }) => {
    if (part === undefined || names.length === 1) return { code, message };
    const rest = message.slice(part.length).replace(/^ (has|holds) /, (verb) => (verb === ' has ' ? ' have ' : ' hold '));
    return { code, message: listed(names) + rest };
  });
}
/** Names of parts that are said before the others are only counted. */
const NAMED = 3;
/** Names in a sentence. */
export const listed = (names: readonly string[]): string =>
  names.length > NAMED ? `${names.slice(0, NAMED).join(', ')} and ${names.length - NAMED} more` : names.join(', ');

/** A share in words. */
export const inPercent = (share: number): string => `${Math.round(share * 100)} %`;

/** A head from the shape of what is no hair. */
function headOf(parts: Part[]): ReturnType<typeof findHead> {
  const bare = withoutStrands(parts);
  return findHead(bare, boundsOf(bare));
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
  for (const { name: of, positions } of parts) {
    // what was finite in the file may not be where it stands
    const bad = positions.findIndex((v) => !Number.isFinite(v));
    if (bad >= 0)
      throw new ImportError('bad-mesh', `${of}: Vertex ${Math.floor(bad / 3)} has the coordinate ${'xyz'[bad % 3]!} = ${positions[bad]!}.`);
  }
  const bounds = boundsOf(parts);
  const given = headFromLandmarks(landmarks);
  const { head, found, sure: headSure } = given ? { head: given, found: true, sure: 1 } : headOf(parts);
  const told = joinedWarnings(warnings);
  if (head.source === 'proposed')
    told.push({
      code: 'no-landmarks',
      message: found
        ? `The file names no landmarks: the head is proposed from the shape of the mesh, facing +Z, ${inPercent(headSure)} sure. Correct it if it is wrong.`
        : 'No face was found in the mesh: where the head is, is only guessed from its size. Mark its landmarks on the Character sheet.',
    });
  told.push(...scaleWarnings(bounds));
  const triangles = parts.reduce((n, p) => n + p.indices.length / 3, 0);
  return { name, parts, bounds, triangles, head, headSure, landmarks, warnings: told, ...(rig ? { rig } : {}) };
}
