import { DEGREE } from '../math/index.ts';

/**
 * Where a luminaire sends its light: luminous intensity in candela over vertical angles γ (0° straight ahead of the lamp)
 * and horizontal angles C, as measured (ANSI/IES LM-63, type C photometry). C runs against the clock for who looks down on the luminaire, as in CIE 121's
 * system of C-planes (both from memory).
 */
export interface Profile {
  /** Degrees, rising. */
  vertical: number[];
  horizontal: number[];
  /** Candela, horizontal by horizontal angle. */
  candela: number[];
}

/** Largest measured intensity, cd. */
export const peakOf = (p: Profile): number => p.candela.reduce((m, v) => Math.max(m, v), 0);

/** Index and fraction of `a` among rising numbers. */
function place(angles: number[], a: number): [number, number] {
  let low = 0,
    high = angles.length - 1;
  while (high - low > 1) {
    const middle = (low + high) >> 1;
    if (angles[middle]! <= a) low = middle;
    else high = middle;
  }
  const from = angles[low]!,
    to = angles[high]!;
  return [low, to > from ? Math.min(1, Math.max(0, (a - from) / (to - from))) : 0];
}

/**
 * Intensity (cd) at γ and C degrees, bilinear between what was measured; nothing beyond the last vertical angle.
 * Horizontal angles that stop at 0°, 90° or 180° stand for all by symmetry (LM-63-2002, section 5.14).
 */
export function intensityAt(p: Profile, gamma: number, c: number): number {
  const { vertical, horizontal, candela } = p;
  const last = horizontal.at(-1)!,
    first = horizontal[0]!;
  if (gamma < vertical[0]! - 1e-9 || gamma > vertical.at(-1)! + 1e-9) return 0;
  let a = ((c % 360) + 360) % 360;
  if (last === 0) a = 0;
  else if (last === 90) a = a > 180 ? 360 - a : a;
  else if (last === 180 && a > 180) a = 360 - a;
  if (last === 90 && a > 90) a = 180 - a;
  // halves that were measured from 90° to 270°
  if (first === 90 && last === 270 && (a < 90 || a > 270)) a = (540 - a) % 360;
  const [v, fv] = place(vertical, gamma),
    [h, fh] = place(horizontal, a);
  const n = vertical.length,
    v1 = Math.min(n - 1, v + 1),
    h1 = Math.min(horizontal.length - 1, h + 1);
  const at = (i: number, j: number) => candela[i * n + j]!;
  return (at(h, v) * (1 - fv) + at(h, v1) * fv) * (1 - fh) + (at(h1, v) * (1 - fv) + at(h1, v1) * fv) * fh;
}

/** Total flux (lm): ∫∫ I sin γ dγ dC over the sphere, by the middle rule. */
export function profileFlux(p: Profile, steps = 360): number {
  const turns = p.horizontal.length === 1 ? 1 : steps / 4;
  let sum = 0;
  for (let j = 0; j < turns; j++)
    for (let i = 0; i < steps; i++) {
      const gamma = ((i + 0.5) / steps) * 180;
      sum += intensityAt(p, gamma, ((j + 0.5) / turns) * 360) * Math.sin(gamma * DEGREE);
    }
  return (sum * Math.PI * 2 * Math.PI) / (steps * turns);
}
