import { luminance } from '../photometry/index.ts';
import type { Tile } from '../trace/index.ts';
import type { Voice } from './balance.ts';

/**
 * The noise that is left in a part of the picture as an eye would see it: root mean square of the standard error, in steps
 * of 8 bit. `shown` maps linear luminance to 0…255. Infinite below two samples.
 */
export function noiseOf(voices: Voice[], tile: Tile, shown: (y: number) => number): number {
  let sum = 0,
    count = 0;
  for (let y = tile.y; y < tile.y + tile.height; y += 2)
    for (let x = tile.x; x < tile.x + tile.width; x += 2) {
      let mean = 0,
        variance = 0;
      for (const { film, gain } of voices) {
        const p = y * film.width + x,
          o = p * 3;
        const kd = luminance(...gain.diffuse),
          ks = luminance(...gain.specular);
        if (kd === 0 && ks === 0) continue;
        mean += luminance(
          film.diffuse[o]! * gain.diffuse[0] + film.specular[o]! * gain.specular[0],
          film.diffuse[o + 1]! * gain.diffuse[1] + film.specular[o + 1]! * gain.specular[1],
          film.diffuse[o + 2]! * gain.diffuse[2] + film.specular[o + 2]! * gain.specular[2],
        );
        variance += kd * kd * film.variance(p, 0) + ks * ks * film.variance(p, 1);
      }
      const deviation = Math.sqrt(variance);
      const step = Number.isFinite(deviation) ? (shown(mean + deviation) - shown(Math.max(0, mean - deviation))) / 2 : Infinity;
      sum += step * step;
      count++;
    }
  return count ? Math.sqrt(sum / count) : 0;
}
