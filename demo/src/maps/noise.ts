import { randomLcg } from 'd3-random';
import { createNoise3D } from 'simplex-noise';
import type { Point } from '../form/field.ts';

/** Smooth noise, −1…1, whose features are about `size` mm wide. */
export type Noise = (at: Point, size: number) => number;

export function noiseOf(seed: number): Noise {
  const noise = createNoise3D(randomLcg(seed));
  return ([x, y, z], size) => noise(x / size, y / size, z / size);
}

/** A number 0…1 for a cell of space. */
function chance(x: number, y: number, z: number, salt: number): number {
  let h = Math.imul(x, 374761393) ^ Math.imul(y, 668265263) ^ Math.imul(z, 2147483647) ^ Math.imul(salt, 1274126177);
  h = Math.imul(h ^ (h >>> 13), 1103515245);
  return ((h ^ (h >>> 16)) >>> 0) / 4294967296;
}

/**
 * Dots scattered in space, one in each cell of `size` mm by a chance of `share`: 1 in the middle of one, 0 beyond its radius
 * (of `size`, 0…0.5).
 */
export function dots(at: Point, size: number, radius: number, share: number, salt: number): number {
  const [x, y, z] = at.map((v) => v / size) as Point;
  const [i0, j0, k0] = [Math.floor(x - 0.5), Math.floor(y - 0.5), Math.floor(z - 0.5)];
  let most = 0;
  for (let i = i0; i <= i0 + 1; i++)
    for (let j = j0; j <= j0 + 1; j++)
      for (let k = k0; k <= k0 + 1; k++) {
        if (chance(i, j, k, salt) > share) continue;
        const r = radius * (0.55 + 0.45 * chance(i, j, k, salt + 1));
        const jitter = 1 - 2 * r;
        const d = Math.hypot(
          x - i - r - jitter * chance(i, j, k, salt + 2),
          y - j - r - jitter * chance(i, j, k, salt + 3),
          z - k - r - jitter * chance(i, j, k, salt + 4),
        );
        if (d < r) most = Math.max(most, 1 - (d / r) ** 2);
      }
  return most;
}
