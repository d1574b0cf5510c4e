import type { FilmMath } from '@plinket/kernel';
import type { Gain, Rgb } from '../setup/index.ts';
import { fillFromCoarse, type CoarsePart, type FineColours } from './coarse.ts';
import type { Film } from './film.ts';

/** A film with the factors that balance gives it, and a coarse film that stands in where it has no samples yet. */
export interface Voice {
  film: Film;
  coarse?: Film;
  gain: Gain;
  /** How much of the noise removal shows, 0…1; only where the film has been smoothed. */
  smooth?: number;
  /** The coarse film is shown alone: the fine one is too noisy yet. */
  waits?: boolean;
}

const isSilent = (v: Rgb): boolean => v[0] === 0 && v[1] === 0 && v[2] === 0;
const scaled = (v: Rgb, k: number): Rgb => [v[0] * k, v[1] * k, v[2] * k];

const SILENT = [0, 0, 0] as const;

/** Pixels that are summed together, so that the sum stays in the nearest cache while every film is read once. */
const BLOCK = 2048;

/**
 * picture = Σ lights Σ layers (gain · layer), linear r g b for each pixel. No ray is traced.
 * `out` holds width × height × 3 floats of `math` and is overwritten. With `colours` the light of coarse films falls on the
 * surfaces' fine colours.
 */
export function balance(math: FilmMath, voices: Voice[], out: Float32Array, colours?: FineColours): void {
  const layers: { plane: Float32Array; gain: Rgb }[] = [];
  const add = (plane: Float32Array | undefined, gain: Rgb) => {
    if (plane && !isSilent(gain)) layers.push({ plane, gain });
  };
  for (const { film, gain, smooth = 0, coarse, waits } of voices) {
    if (coarse && waits) continue;
    film.layers.forEach(({ name }, l) => {
      const smoothed = film.smooth?.planes[l],
        k = smoothed ? smooth : 0;
      if (k > 0) add(smoothed, scaled(gain[name], k));
      if (k < 1) add(film.planes[l], scaled(gain[name], 1 - k));
    });
  }
  out.fill(0);
  for (let from = 0; from < out.length; from += BLOCK * 3) {
    const count = Math.min(BLOCK * 3, out.length - from);
    // two layers at a time: the sum is read and written half as often
    for (let i = 0; i < layers.length; i += 2) {
      const a = layers[i]!,
        b = layers[i + 1];
      math.accumulate(out, a.plane, (b ?? a).plane, from, count, a.gain, b?.gain ?? SILENT);
    }
  }
  // those that wait are enlarged together
  const waiting: CoarsePart[] = [];
  for (const { film, coarse, gain, waits } of voices) {
    if (!coarse) continue;
    if (waits && (waiting.length === 0 || waiting[0]!.coarse.width === coarse.width)) waiting.push({ coarse, gain });
    else if (waits || film.missing > 0) fillFromCoarse(math, [{ coarse, gain }], out, film, waits ? undefined : film.counts, colours);
  }
  if (waiting.length) fillFromCoarse(math, waiting, out, voices[0]!.film, undefined, colours);
}
