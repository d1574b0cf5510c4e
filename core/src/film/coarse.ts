// What a hand sees while it moves a light: a small film, enlarged. Its light is soft and bears that; the surfaces' colours do not,
// so they are taken from the fine picture's own first surfaces where those are known.
import type { Gain } from '../setup/index.ts';
import type { Film, Guides } from './film.ts';

/** Albedo below which a colour is not divided by. */
const DARK = 0.02;
/** Most that a fine colour is over its coarse one. */
const MOST = 4;

/** Colours of the first surfaces: fine, and as a coarse film sees them. */
export class FineColours {
  readonly width: number;
  readonly height: number;
  /** r g b of each pixel; 1 where nothing is. */
  readonly fine: Float32Array;
  private coarse: { width: number; height: number; ratios: Float32Array } | undefined;

  constructor(guides: Guides) {
    this.width = guides.width;
    this.height = guides.height;
    const pixels = guides.width * guides.height;
    this.fine = new Float32Array(pixels * 3);
    for (let p = 0; p < pixels; p++)
      for (let c = 0; c < 3; c++) this.fine[p * 3 + c] = guides.alphaAt(p) > 0 ? Math.max(DARK, guides.mean(p, 7 + c)) : 1;
  }

  /** By how much each pixel's colour differs from the mean of the coarse pixel that it lies in. */
  ratiosFor(width: number, height: number): Float32Array {
    if (this.coarse?.width === width && this.coarse.height === height) return this.coarse.ratios;
    const sums = new Float32Array(width * height * 3),
      counts = new Float32Array(width * height);
    const cell = (x: number, y: number) =>
      Math.min(height - 1, Math.floor((y * height) / this.height)) * width + Math.min(width - 1, Math.floor((x * width) / this.width));
    for (let y = 0, p = 0; y < this.height; y++)
      for (let x = 0; x < this.width; x++, p++) {
        const k = cell(x, y);
        counts[k] = counts[k]! + 1;
        for (let c = 0; c < 3; c++) sums[k * 3 + c] = sums[k * 3 + c]! + this.fine[p * 3 + c]!;
      }
    const ratios = new Float32Array(this.fine.length);
    // between four coarse pixels the mean is bilinear, as their light will be
    const rows = stepsOf(this.height, height),
      columns = stepsOf(this.width, width);
    const mean = (k: number, c: number) => sums[k * 3 + c]! / Math.max(1, counts[k]!);
    for (let y = 0, p = 0; y < this.height; y++)
      for (let x = 0; x < this.width; x++, p++) {
        const a = rows.first[y]! * width,
          b = rows.second[y]! * width,
          l = columns.first[x]!,
          r = columns.second[x]!,
          u = columns.share[x]!,
          v = rows.share[y]!;
        for (let c = 0; c < 3; c++) {
          const top = mean(a + l, c) * (1 - u) + mean(a + r, c) * u,
            bottom = mean(b + l, c) * (1 - u) + mean(b + r, c) * u;
          ratios[p * 3 + c] = Math.min(MOST, this.fine[p * 3 + c]! / (top * (1 - v) + bottom * v));
        }
      }
    this.coarse = { width, height, ratios };
    return ratios;
  }
}

/** Where each of `fine` pixels looks between `coarse` ones: the first, the second, and how far between. */
function stepsOf(fine: number, coarse: number): { first: Int32Array; second: Int32Array; share: Float32Array } {
  const first = new Int32Array(fine),
    second = new Int32Array(fine),
    share = new Float32Array(fine);
  for (let i = 0; i < fine; i++) {
    const at = Math.min(coarse - 1, Math.max(0, ((i + 0.5) * coarse) / fine - 0.5));
    first[i] = Math.floor(at);
    second[i] = Math.min(coarse - 1, first[i]! + 1);
    share[i] = at - first[i]!;
  }
  return { first, second, share };
}

/** A coarse film with the factors that balance gives it. */
export interface CoarsePart {
  coarse: Film;
  gain: Gain;
}

/** Layers of coarse films of one size as they are heard: what takes the surfaces' colours, then what does not. */
function heard(parts: CoarsePart[]): [Float32Array, Float32Array] {
  const { length } = parts[0]!.coarse.planes[0]!;
  const light = new Float32Array(length),
    gloss = new Float32Array(length);
  for (const { coarse, gain } of parts) {
    coarse.layers.forEach(({ name, albedo }, l) => {
      const plane = coarse.planes[l]!,
        to = albedo ? light : gloss;
      for (let c = 0; c < 3; c++) {
        const k = gain[name][c]!;
        for (let i = c; i < length; i += 3) to[i] = to[i]! + plane[i]! * k;
      }
    });
  }
  return [light, gloss];
}

/**
 * Adds coarse films of one size to a picture of `width` × `height`, bilinearly, row by row: where `counts` are 0, or everywhere
 * without them.
 */
export function fillFromCoarse(
  parts: CoarsePart[],
  out: Float32Array,
  width: number,
  height: number,
  counts?: Uint16Array,
  colours?: FineColours,
): void {
  const { coarse } = parts[0]!;
  const [light, gloss] = heard(parts),
    floats = coarse.width * 3;
  const columns = stepsOf(width, coarse.width),
    rows = stepsOf(height, coarse.height);
  const ratios = colours?.width === width && colours.height === height ? colours.ratiosFor(coarse.width, coarse.height) : undefined;
  const lightRow = new Float32Array(floats),
    glossRow = new Float32Array(floats);
  for (let y = 0, i = 0; y < height; y++) {
    const above = rows.first[y]! * floats,
      below = rows.second[y]! * floats,
      v = rows.share[y]!;
    for (let c = 0; c < floats; c++) {
      const s = light[above + c]!,
        g = gloss[above + c]!;
      lightRow[c] = s + (light[below + c]! - s) * v;
      glossRow[c] = g + (gloss[below + c]! - g) * v;
    }
    for (let x = 0; x < width; x++, i++) {
      if (counts && counts[i] !== 0) continue;
      const a = columns.first[x]! * 3,
        b = columns.second[x]! * 3,
        u = columns.share[x]!;
      for (let c = 0, o = i * 3; c < 3; c++, o++) {
        const l = lightRow[a + c]! + (lightRow[b + c]! - lightRow[a + c]!) * u;
        out[o] = out[o]! + (ratios ? l * ratios[o]! : l) + glossRow[a + c]! + (glossRow[b + c]! - glossRow[a + c]!) * u;
      }
    }
  }
}
