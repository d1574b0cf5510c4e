import { luminance } from '../photometry/index.ts';
import type { Tile } from '../trace/index.ts';
import type { Voice } from './balance.ts';

/** Pixels from which on not every fourth is looked at but every thirty-sixth. */
const MANY = 1 << 14;

/**
 * The noise that is left in a part of the picture as an eye would see it: root mean square of the standard error, in steps
 * of 8 bit. `shown` maps linear luminance to 0…255. Infinite below two samples.
 */
export function noiseOf(voices: Voice[], tile: Tile, shown: (y: number) => number): number {
  // what does not depend on the pixel, once: every layer that is heard
  const heard = voices.flatMap(({ film, gain }) =>
    film.layers.flatMap(({ name }, l) => {
      const k = luminance(...gain[name]);
      return k === 0 ? [] : [{ film, plane: film.planes[l]!, squares: film.squares[l]!, gain: gain[name], k2: k * k }];
    }),
  );
  // a few thousand points tell enough
  const step = tile.width * tile.height > MANY ? 6 : 2;
  let sum = 0,
    count = 0;
  for (let y = tile.y; y < tile.y + tile.height; y += step)
    for (let x = tile.x; x < tile.x + tile.width; x += step) {
      let mean = 0,
        variance = 0;
      for (let k = 0; k < heard.length; k++) {
        const { film, plane, squares, gain, k2 } = heard[k]!;
        const p = y * film.width + x,
          o = p * 3,
          n = film.counts[p]!;
        const r = plane[o]!,
          g = plane[o + 1]!,
          b = plane[o + 2]!;
        mean += luminance(r * gain[0], g * gain[1], b * gain[2]);
        const own = luminance(r, g, b);
        // variance of the mean of each layer, as `Film.variance` has it
        variance += n < 2 ? Infinity : (k2 * Math.max(0, squares[p]! / n - own * own)) / (n - 1);
      }
      const deviation = Math.sqrt(variance);
      const error = Number.isFinite(deviation) ? (shown(mean + deviation) - shown(Math.max(0, mean - deviation))) / 2 : Infinity;
      sum += error * error;
      count++;
    }
  return count ? Math.sqrt(sum / count) : 0;
}
