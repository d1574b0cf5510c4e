import { luminance } from '../photometry/index.ts';
import type { Tile } from '../trace/index.ts';
import type { Voice } from './balance.ts';

/** Pixels from which on not every fourth is looked at but every sixteenth. */
const MANY = 1 << 14;

/**
 * The noise that is left in a part of the picture as an eye would see it: root mean square of the standard error, in steps
 * of 8 bit. `shown` maps linear luminance to 0…255. Infinite below two samples.
 */
export function noiseOf(voices: Voice[], tile: Tile, shown: (y: number) => number): number {
  // what does not depend on the pixel, once
  const heard = voices
    .map(({ film, gain }) => ({
      film,
      d: gain.diffuse,
      s: gain.specular,
      v: gain.volume,
      kd: luminance(...gain.diffuse),
      ks: luminance(...gain.specular),
      kv: film.volume ? luminance(...gain.volume) : 0,
    }))
    .filter(({ kd, ks, kv }) => kd !== 0 || ks !== 0 || kv !== 0);
  // a few thousand points tell enough
  const step = tile.width * tile.height > MANY ? 4 : 2;
  let sum = 0,
    count = 0;
  for (let y = tile.y; y < tile.y + tile.height; y += step)
    for (let x = tile.x; x < tile.x + tile.width; x += step) {
      let mean = 0,
        variance = 0;
      for (let k = 0; k < heard.length; k++) {
        const { film, d, s, v, kd, ks, kv } = heard[k]!;
        const { diffuse, specular, squares, counts } = film;
        const p = y * film.width + x,
          o = p * 3,
          n = counts[p]!;
        const dr = diffuse[o]!,
          dg = diffuse[o + 1]!,
          db = diffuse[o + 2]!,
          sr = specular[o]!,
          sg = specular[o + 1]!,
          sb = specular[o + 2]!;
        mean += luminance(dr * d[0] + sr * s[0], dg * d[1] + sg * s[1], db * d[2] + sb * s[2]);
        if (kv !== 0) {
          const { volume } = film;
          mean += luminance(volume![o]! * v[0], volume![o + 1]! * v[1], volume![o + 2]! * v[2]);
          variance += kv * kv * film.variance(p, 2);
        }
        const yd = luminance(dr, dg, db),
          ys = luminance(sr, sg, sb);
        // variance of the mean of each layer, as `Film.variance` has it
        variance +=
          n < 2
            ? Infinity
            : (kd * kd * Math.max(0, squares[p]! / n - yd * yd) + ks * ks * Math.max(0, squares[counts.length + p]! / n - ys * ys)) /
              (n - 1);
      }
      const deviation = Math.sqrt(variance);
      const error = Number.isFinite(deviation) ? (shown(mean + deviation) - shown(Math.max(0, mean - deviation))) / 2 : Infinity;
      sum += error * error;
      count++;
    }
  return count ? Math.sqrt(sum / count) : 0;
}
