import { converter, differenceCiede2000 } from 'culori';
import type { Vec3 } from '../math/index.ts';
import { luminance } from './colour.ts';

const lab = converter('lab65'),
  between = differenceCiede2000();

/**
 * Colour difference CIEDE2000 of two linear Rec.709 colours, white at 1 (G. Sharma, W. Wu, E. N. Dalal 2005; by the package culori, in CIELAB of
 * D65).
 */
export function colourDifference(a: Vec3, b: Vec3): number {
  const [p, q] = [a, b].map(([r, g, b]) => lab({ mode: 'lrgb', r, g, b }));
  return labDifference([p!.l, p!.a, p!.b], [q!.l, q!.a, q!.b]);
}

/** The same of two colours in CIELAB, L* a* b*. */
export const labDifference = (p: Vec3, q: Vec3): number =>
  between({ mode: 'lab65', l: p[0], a: p[1], b: p[2] }, { mode: 'lab65', l: q[0], a: q[1], b: q[2] });

/** Luminance at which colours are compared that may be of any. */
const LEVEL = 0.4;

/** A linear colour at one luminance, so that only its hue and how strong it is count. */
export const atOneLevel = (c: Vec3): Vec3 => c.map((v) => (v * LEVEL) / Math.max(luminance(...c), 1e-9)) as Vec3;
