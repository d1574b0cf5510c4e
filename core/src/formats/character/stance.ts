import type { Vec3 } from '../../math/index.ts';
import type { CharacterAsset, Part } from '../../scene/index.ts';
import { boundsOf } from './finish.ts';

export type Facing = '+z' | '-z' | '+x' | '-x';
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

/**
 * How a figure stands, as far as its mesh tells: along which axis it is long, and to which side its feet reach out before its
 * shins. A bust, and what has no feet, tells nothing and is taken as glTF says: Y up, facing +Z.
 */
export function guessStance(parts: Part[]): Stance {
  const { min, max } = boundsOf(parts);
  const size = [0, 1, 2].map((k) => max[k]! - min[k]!) as Vec3;
  const up = size[2] > UPRIGHT * size[1] && size[2] >= size[0] ? 'z' : 'y';
  const tall = up === 'z' ? size[2] : size[1],
    low = up === 'z' ? min[2] : min[1],
    [wide, deep] = [size[0], up === 'z' ? size[1] : size[2]];
  const still: Stance = { up, faces: '+z' };
  if (!(tall > UPRIGHT * Math.min(wide, deep))) return still;
  const feet = mean(parts, up, low, low + FEET * tall),
    shins = mean(parts, up, low + 2 * FEET * tall, low + SHINS * tall);
  if (!feet || !shins) return still;
  const x = feet[0] - shins[0],
    z = feet[1] - shins[1];
  // shoulders are wider than a figure is deep: they tell along which axis it looks
  const along = wide > 1.15 * deep ? 'z' : deep > 1.15 * wide ? 'x' : Math.abs(z) >= Math.abs(x) ? 'z' : 'x';
  const step = along === 'z' ? z : x;
  if (Math.abs(step) < 0.004 * tall) return along === 'z' ? still : { up, faces: '+x' };
  return { up, faces: `${step > 0 ? '+' : '-'}${along}` };
}

/** How a character stands: landmarks of its file say where it faces, else its mesh is asked. */
export function stanceOf({ head, parts }: Pick<CharacterAsset, 'head' | 'parts'>): Stance {
  if (head.source !== 'file') return guessStance(parts);
  const [x, , z] = head.forward;
  return { up: 'y', faces: Math.abs(z) >= Math.abs(x) ? (z > 0 ? '+z' : '-z') : x > 0 ? '+x' : '-x' };
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
