import { FILM_CHANNELS } from '../trace/index.ts';
import type { Gain } from '../setup/index.ts';
import type { Film } from './film.ts';

/** A film with the factors that balance gives it, and a coarse film that stands in where it has no samples yet. */
export interface Voice {
  film: Film;
  coarse?: Film;
  gain: Gain;
}

const silent = (g: Gain): boolean => g.diffuse.every((v) => v === 0) && g.specular.every((v) => v === 0);

/**
 * picture = Σ lights (gain_d · D + gain_s · S) / samples, linear r g b for each pixel. No ray is traced.
 * `out` holds width × height × 3 floats and is overwritten.
 */
export function balance(voices: Voice[], out: Float32Array): void {
  out.fill(0);
  const heard = voices.filter((v) => !silent(v.gain));
  const pixels = out.length / 3;
  // block by block, so that the sum stays in the nearest cache while every film is read once
  for (let from = 0; from < pixels; from += BLOCK) {
    const to = Math.min(pixels, from + BLOCK);
    for (const voice of heard) addVoice(voice, out, from, to);
  }
}

/** Pixels that are summed together: 24 kB of picture. */
const BLOCK = 2048;

/** Pixels of a tile have the same number of samples, so the film is added in runs of equal counts: no division inside. */
function addVoice({ film, coarse, gain }: Voice, out: Float32Array, first: number, last: number): void {
  const { counts, width } = film;
  for (let from = first; from < last;) {
    const n = counts[from]!;
    let to = from + 1;
    while (to < last && counts[to] === n) to++;
    if (n > 0) addRun(film.sums, gain, 1 / n, out, from, to);
    else if (coarse) for (let i = from; i < to; i++) addCoarse(coarse, i % width, (i / width) | 0, film, gain, out, i * 3);
    from = to;
  }
}

function addRun(sums: Float32Array, { diffuse, specular }: Gain, k: number, out: Float32Array, from: number, to: number): void {
  const dr = diffuse[0] * k,
    dg = diffuse[1] * k,
    db = diffuse[2] * k,
    sr = specular[0] * k,
    sg = specular[1] * k,
    sb = specular[2] * k;
  for (let o = from * 3, f = from * FILM_CHANNELS, end = to * 3; o < end; o += 3, f += FILM_CHANNELS) {
    out[o] = out[o]! + (sums[f]! * dr + sums[f + 3]! * sr);
    out[o + 1] = out[o + 1]! + (sums[f + 1]! * dg + sums[f + 4]! * sg);
    out[o + 2] = out[o + 2]! + (sums[f + 2]! * db + sums[f + 5]! * sb);
  }
}

/** Bilinear look-up in the coarse film. */
function addCoarse(coarse: Film, x: number, y: number, fine: Film, { diffuse, specular }: Gain, out: Float32Array, o: number): void {
  const { sums, counts, width, height } = coarse;
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
    const n = counts[at]!;
    if (n === 0) continue;
    const w = ((corner & 1 ? u : 1 - u) * (corner & 2 ? v : 1 - v)) / n;
    const f = at * FILM_CHANNELS;
    for (let c = 0; c < 3; c++) out[o + c] = out[o + c]! + (sums[f + c]! * diffuse[c]! + sums[f + 3 + c]! * specular[c]!) * w;
  }
}
