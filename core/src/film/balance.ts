import type { FilmMath } from '@plinket/kernel';
import type { Gain } from '../setup/index.ts';
import type { Film } from './film.ts';

/** A film with the factors that balance gives it, and a coarse film that stands in where it has no samples yet. */
export interface Voice {
  film: Film;
  coarse?: Film;
  gain: Gain;
  /** How much of the noise removal shows, 0…1; only where the film has been smoothed. */
  smooth?: number;
}

const isSilent = (v: [number, number, number]): boolean => v[0] === 0 && v[1] === 0 && v[2] === 0;
const scaled = (v: [number, number, number], k: number): [number, number, number] => [v[0] * k, v[1] * k, v[2] * k];

const SILENT = [0, 0, 0] as const;

/** Pixels that are summed together, so that the sum stays in the nearest cache while every film is read once. */
const BLOCK = 2048;

/**
 * picture = Σ lights (gain_d · D + gain_s · S + gain_v · V), linear r g b for each pixel. No ray is traced.
 * `out` holds width × height × 3 floats of `math` and is overwritten.
 */
export function balance(math: FilmMath, voices: Voice[], out: Float32Array): void {
  const layers: { plane: Float32Array; gain: [number, number, number] }[] = [];
  const add = (plane: Float32Array | undefined, gain: [number, number, number]) => {
    if (plane && !isSilent(gain)) layers.push({ plane, gain });
  };
  for (const { film, gain, smooth = 0 } of voices) {
    const k = film.smooth ? smooth : 0;
    if (k > 0) {
      add(film.smooth!.diffuse, scaled(gain.diffuse, k));
      add(film.smooth!.specular, scaled(gain.specular, k));
    }
    if (k < 1) {
      add(film.diffuse, scaled(gain.diffuse, 1 - k));
      add(film.specular, scaled(gain.specular, 1 - k));
    }
    add(film.volume, gain.volume);
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
  for (const voice of voices) if (voice.coarse && voice.film.missing > 0) fillFromCoarse(voice, out);
}

/** Where a film has no samples yet, its coarse film stands in. */
function fillFromCoarse({ film, coarse, gain }: Voice, out: Float32Array): void {
  const { counts, width } = film;
  for (let i = 0; i < counts.length; i++) if (counts[i] === 0) addCoarse(coarse!, i % width, (i / width) | 0, film, gain, out, i * 3);
}

/** Bilinear look-up in the coarse film. */
function addCoarse(coarse: Film, x: number, y: number, fine: Film, gain: Gain, out: Float32Array, o: number): void {
  const { counts, width, height, diffuse, specular, volume } = coarse;
  const fx = Math.min(width - 1, Math.max(0, ((x + 0.5) * width) / fine.width - 0.5)),
    fy = Math.min(height - 1, Math.max(0, ((y + 0.5) * height) / fine.height - 0.5));
  const x0 = Math.floor(fx),
    y0 = Math.floor(fy),
    x1 = Math.min(width - 1, x0 + 1),
    y1 = Math.min(height - 1, y0 + 1);
  const u = fx - x0,
    v = fy - y0;
  for (let corner = 0; corner < 4; corner++) {
    const at = (corner & 2 ? y1 : y0) * width + (corner & 1 ? x1 : x0);
    if (counts[at] === 0) continue;
    const w = (corner & 1 ? u : 1 - u) * (corner & 2 ? v : 1 - v),
      f = at * 3;
    for (let c = 0; c < 3; c++)
      out[o + c] =
        out[o + c]! +
        (diffuse[f + c]! * gain.diffuse[c]! + specular[f + c]! * gain.specular[c]! + (volume ? volume[f + c]! * gain.volume[c]! : 0)) * w;
  }
}
