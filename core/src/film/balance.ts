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

/** A coarse film's layers together, as they are heard. */
function heard({ diffuse, specular, volume }: Film, gain: Gain): Float32Array {
  const out = new Float32Array(diffuse.length);
  for (let i = 0; i < out.length; i += 3)
    for (let c = 0; c < 3; c++)
      out[i + c] =
        diffuse[i + c]! * gain.diffuse[c]! + specular[i + c]! * gain.specular[c]! + (volume ? volume[i + c]! * gain.volume[c]! : 0);
  return out;
}

/** Where pixel `i` of `fine` looks between pixels of `coarse`: the first, the second, and how far between. */
function between(i: number, fine: number, coarse: number): [number, number, number] {
  const at = Math.min(coarse - 1, Math.max(0, ((i + 0.5) * coarse) / fine - 0.5)),
    first = Math.floor(at);
  return [first, Math.min(coarse - 1, first + 1), at - first];
}

/** Where a film has no samples yet, its coarse film stands in, bilinearly. A hand that moves a light waits for this: row by row. */
function fillFromCoarse({ film, coarse, gain }: Voice, out: Float32Array): void {
  const { counts, width, height } = film;
  const small = heard(coarse!, gain),
    columns = coarse!.width * 3;
  const left = new Int32Array(width),
    right = new Int32Array(width),
    share = new Float32Array(width);
  for (let x = 0; x < width; x++) {
    const [a, b, u] = between(x, width, coarse!.width);
    left[x] = a * 3;
    right[x] = b * 3;
    share[x] = u;
  }
  const row = new Float32Array(columns);
  for (let y = 0, i = 0; y < height; y++) {
    const [above, below, v] = between(y, height, coarse!.height);
    for (let c = 0; c < columns; c++) {
      const s = small[above * columns + c]!;
      row[c] = s + (small[below * columns + c]! - s) * v;
    }
    for (let x = 0; x < width; x++, i++) {
      if (counts[i] !== 0) continue;
      const a = left[x]!,
        b = right[x]!,
        u = share[x]!,
        o = i * 3;
      out[o] = out[o]! + row[a]! + (row[b]! - row[a]!) * u;
      out[o + 1] = out[o + 1]! + row[a + 1]! + (row[b + 1]! - row[a + 1]!) * u;
      out[o + 2] = out[o + 2]! + row[a + 2]! + (row[b + 2]! - row[a + 2]!) * u;
    }
  }
}
