import { findHead } from '../../face/index.ts';
import { withoutStrands } from '../../geometry/index.ts';
import type { Vec3 } from '../../math/index.ts';
import type { CharacterAsset, Part } from '../../scene/index.ts';
import { boundsOf } from './finish.ts';

export const FACINGS = ['+z', '-z', '+x', '-x'] as const;
export type Facing = (typeof FACINGS)[number];
/** Which way a file's figure stands: its up axis, and, once it is upright, where it faces. */
export interface Stance {
  up: 'y' | 'z';
  faces: Facing;
}

/** A figure is this much taller than it is deep, a bust is not (common practice, no source: arms hang or are spread to the sides). */
const UPRIGHT = 3;
/** Feet: what lies within this share of the height above the lowest point; shins above them. */
const FEET = 0.045,
  SHINS = 0.22;

/** z-up coordinates turned upright: (x, y, z) → (x, z, −y). */
export const upright = ([x, y, z]: Vec3, up: Stance['up']): Vec3 => (up === 'z' ? [x, z, -y] : [x, y, z]);

/** Turns of a facing figure about the vertical that bring it to face +Z, degrees. */
export const TURNS: Record<Facing, number> = { '+z': 0, '-z': 180, '+x': -90, '-x': 90 };

/** What a guess goes by: landmarks of the file, a face that was found, feet before shins, or no more than what its format says. */
export type StanceReason = 'landmarks' | 'face' | 'feet' | 'format';

/** A guess of how a figure stands, and how sure it is, 0 … 1. */
export interface StanceGuess extends Stance {
  sure: number;
  by: StanceReason;
}

/** So sure a face must be to be gone by, and by so much surer than as the file has it to be turned for (tried on the demo's heads, turned). */
const FACE = 0.6,
  SURER = 0.15;
/** Steps of feet before shins, in heights, from nothing to certain; common practice, no source. */
const STEP = [0.004, 0.03] as const;

/**
 * How a figure stands, as far as its mesh tells: along which axis it is long, to which side it has a face, and to which side its feet reach out before
 * its shins. What tells nothing is taken as its format says, facing +Z.
 * @param usual the axis that is up in files of the format
 */
export function guessStance(all: Part[], usual: Stance['up'] = 'y'): StanceGuess {
  // hair would hide the face's shape
  const parts = withoutStrands(all);
  const { min, max } = boundsOf(parts);
  const size = [0, 1, 2].map((k) => max[k]! - min[k]!) as Vec3;
  const lying = size[2] > UPRIGHT * size[1] && size[2] >= size[0],
    standing = size[1] > UPRIGHT * Math.min(size[0], size[2]);
  const up = lying ? 'z' : standing ? 'y' : usual;
  const face = guessByFace(parts, lying || standing ? [up] : ['y', 'z'], { up, faces: '+z' });
  if (face) return { ...face, by: 'face' };
  const still: StanceGuess = { up, faces: '+z', sure: lying || standing ? 0.5 : 0.3, by: 'format' };
  const tall = up === 'z' ? size[2] : size[1],
    low = up === 'z' ? min[2] : min[1],
    [wide, deep] = [size[0], up === 'z' ? size[1] : size[2]];
  if (!(tall > UPRIGHT * Math.min(wide, deep))) return still;
  const feet = mean(parts, up, low, low + FEET * tall),
    shins = mean(parts, up, low + 2 * FEET * tall, low + SHINS * tall);
  if (!feet || !shins) return still;
  const x = feet[0] - shins[0],
    z = feet[1] - shins[1];
  // shoulders are wider than a figure is deep: they tell along which axis it looks
  const along = wide > 1.15 * deep ? 'z' : deep > 1.15 * wide ? 'x' : Math.abs(z) >= Math.abs(x) ? 'z' : 'x';
  const step = along === 'z' ? z : x;
  if (Math.abs(step) < STEP[0] * tall) return along === 'z' ? still : { ...still, faces: '+x', sure: 0.4 };
  const sure = 0.4 + 0.3 * Math.min(1, (Math.abs(step) / tall - STEP[0]) / (STEP[1] - STEP[0]));
  return { up, faces: `${step > 0 ? '+' : '-'}${along}`, sure, by: 'feet' };
}

/** The stance in which the mesh shows the surest face; nothing where none is sure enough. As the file has it counts first. */
function guessByFace(parts: Part[], ups: Stance['up'][], still: Stance): (Stance & { sure: number }) | undefined {
  const some = thinned(parts);
  const sureOf = (stance: Stance): number => {
    const turned = [{ ...some, positions: standingAs(some.positions, stance) }];
    const { found, sure } = findHead(turned, boundsOf(turned));
    return found ? sure : 0;
  };
  const asIs = sureOf(still);
  let best = { ...still, sure: asIs };
  if (asIs < 1 - SURER)
    for (const up of ups)
      for (const faces of FACINGS) {
        const sure = up === still.up && faces === still.faces ? asIs : sureOf({ up, faces });
        if (sure > best.sure) best = { up, faces, sure };
      }
  if (best.sure < FACE) return undefined;
  return best.sure < asIs + SURER ? { ...still, sure: asIs } : best;
}

/** Triangles that a face is sought in: more tell no more of how it stands. */
const SOME = 60_000;

/** One part of every so-many-th triangle of all. */
function thinned(parts: Part[]): Part {
  const count = parts.reduce((n, p) => n + p.indices.length / 3, 0),
    every = Math.ceil(count / SOME);
  const corners: number[] = [];
  let t = 0;
  for (const { positions, indices } of parts)
    for (let i = 0; i < indices.length; i += 3)
      if (t++ % every === 0) for (let k = 0; k < 3; k++) for (let c = 0; c < 3; c++) corners.push(positions[indices[i + k]! * 3 + c]!);
  const positions = Float32Array.from(corners);
  return { ...parts[0]!, positions, indices: Uint32Array.from({ length: positions.length / 3 }, (_, i) => i) };
}

/** Positions brought upright and to the front. */
function standingAs(positions: Float32Array, { up, faces }: Stance): Float32Array {
  const angle = (TURNS[faces] * Math.PI) / 180,
    c = Math.cos(angle),
    s = Math.sin(angle),
    out = new Float32Array(positions.length);
  for (let i = 0; i < positions.length; i += 3) {
    const [x, y, z] = upright([positions[i]!, positions[i + 1]!, positions[i + 2]!], up);
    out[i] = x * c + z * s;
    out[i + 1] = y;
    out[i + 2] = z * c - x * s;
  }
  return out;
}

/** How a character stands: landmarks of its file say where it faces, else its mesh is asked. */
export function stanceOf({ head, parts, usualUp }: Pick<CharacterAsset, 'head' | 'parts' | 'usualUp'>): StanceGuess {
  if (head.source !== 'file') return guessStance(parts, usualUp);
  const [x, , z] = head.forward;
  return { up: 'y', faces: Math.abs(z) >= Math.abs(x) ? (z > 0 ? '+z' : '-z') : x > 0 ? '+x' : '-x', sure: 1, by: 'landmarks' };
}

/** Mean x and z, upright, of what lies between two heights. */
function mean(parts: Part[], up: Stance['up'], from: number, to: number): [number, number] | undefined {
  let n = 0,
    x = 0,
    z = 0;
  for (const { positions } of parts)
    for (let i = 0; i < positions.length; i += 3) {
      const p = upright([positions[i]!, positions[i + 1]!, positions[i + 2]!], up);
      if (p[1] < from || p[1] > to) continue;
      x += p[0];
      z += p[2];
      n++;
    }
  return n ? [x / n, z / n] : undefined;
}
