// What a hand sees while it moves a light: a small film, enlarged. Its light is soft and bears that; the surfaces' colours do not,
// so they are taken from the fine picture's own first surfaces where those are known.
import type { FilmMath, Size } from '@plinket/kernel';
import type { Gain } from '../setup/index.ts';
import { GUIDE_CHANNELS } from '../trace/index.ts';
import type { Film, Guides } from './film.ts';

/** Albedo below which a colour is not divided by. */
const DARK = 0.02;
/** Where the guides' sums hold the albedo. */
const ALBEDO = 7;
/** Most that a fine colour is over its coarse one. */
const MOST = 4;

/** Colours of the first surfaces: fine, and as a coarse film sees them. */
export class FineColours {
  readonly width: number;
  readonly height: number;
  /** r g b of each pixel; 1 where nothing is. */
  readonly fine: Float32Array;
  private coarse: { width: number; height: number; ratios: Float32Array } | undefined;

  private readonly math: FilmMath;

  /** @param math whose memory the ratios take, until `release` */
  constructor(guides: Guides, math: FilmMath) {
    this.math = math;
    this.width = guides.width;
    this.height = guides.height;
    const pixels = guides.width * guides.height;
    const { sums } = guides;
    this.fine = new Float32Array(pixels * 3).fill(1);
    for (let p = 0, o = 0; p < pixels; p++, o += GUIDE_CHANNELS) {
      const n = sums[o]!;
      if (!(n > 0)) continue;
      for (let c = 0; c < 3; c++) this.fine[p * 3 + c] = Math.max(DARK, sums[o + ALBEDO + c]! / n);
    }
  }

  /** By how much each pixel's colour differs from the mean of the coarse pixel that it lies in. */
  ratiosFor(width: number, height: number): Float32Array {
    if (this.coarse?.width === width && this.coarse.height === height) return this.coarse.ratios;
    const { fine } = this;
    const means = this.meansFor(width, height);
    this.release();
    const ratios = this.math.floats(fine.length);
    // between four coarse pixels the mean is bilinear, as their light will be
    const rows = stepsOf(this.height, height),
      columns = stepsOf(this.width, width);
    for (let y = 0, o = 0; y < this.height; y++) {
      const a = rows.first[y]! * width,
        b = rows.second[y]! * width,
        v = rows.share[y]!;
      for (let x = 0; x < this.width; x++) {
        const l = columns.first[x]!,
          r = columns.second[x]!,
          u = columns.share[x]!;
        const tl = (a + l) * 3,
          tr = (a + r) * 3,
          bl = (b + l) * 3,
          br = (b + r) * 3;
        for (let c = 0; c < 3; c++, o++) {
          const top = means[tl + c]! * (1 - u) + means[tr + c]! * u,
            bottom = means[bl + c]! * (1 - u) + means[br + c]! * u;
          ratios[o] = Math.min(MOST, fine[o]! / (top * (1 - v) + bottom * v));
        }
      }
    }
    this.coarse = { width, height, ratios };
    return ratios;
  }

  /** Mean colour of each coarse pixel. */
  private meansFor(width: number, height: number): Float32Array {
    const { fine } = this;
    const means = new Float32Array(width * height * 3),
      counts = new Float32Array(width * height);
    const column = Int32Array.from({ length: this.width }, (_, x) => Math.min(width - 1, Math.floor((x * width) / this.width)));
    for (let y = 0, o = 0; y < this.height; y++) {
      const row = Math.min(height - 1, Math.floor((y * height) / this.height)) * width;
      for (let x = 0; x < this.width; x++) {
        const k = row + column[x]!;
        counts[k] = counts[k]! + 1;
        for (let c = 0; c < 3; c++, o++) means[k * 3 + c] = means[k * 3 + c]! + fine[o]!;
      }
    }
    for (let k = 0; k < means.length; k++) means[k] = means[k]! / Math.max(1, counts[Math.floor(k / 3)]!);
    return means;
  }

  /** Gives the ratios' memory back; they are made again when they are asked for. */
  release(): void {
    if (this.coarse) this.math.free(this.coarse.ratios);
    this.coarse = undefined;
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

const NOTHING = [0, 0, 0] as const;

/** Layers of coarse films of one size as they are heard: what takes the surfaces' colours, then what does not. */
function heard(math: FilmMath, parts: CoarsePart[]): [Float32Array, Float32Array] {
  const { length } = parts[0]!.coarse.planes[0]!;
  const sums: [Float32Array, Float32Array] = [math.floats(length), math.floats(length)];
  for (const { coarse, gain } of parts)
    coarse.layers.forEach(({ name, albedo }, l) => {
      const plane = coarse.planes[l]!;
      math.accumulate(sums[albedo ? 0 : 1], plane, plane, 0, length, gain[name], NOTHING);
    });
  return sums;
}

/**
 * Adds coarse films of one size to a picture, bilinearly: where `counts` are 0, or everywhere without them. All arrays belong to `math`.
 */
export function fillFromCoarse(
  math: FilmMath,
  parts: CoarsePart[],
  out: Float32Array,
  size: Size,
  counts?: Uint16Array,
  colours?: FineColours,
): void {
  const { coarse } = parts[0]!;
  const [light, gloss] = heard(math, parts);
  const ratios =
    colours?.width === size.width && colours.height === size.height ? colours.ratiosFor(coarse.width, coarse.height) : undefined;
  if (counts) {
    const all = math.floats(out.length);
    math.enlarge(all, size, light, gloss, coarse, ratios);
    for (let p = 0; p < counts.length; p++) if (counts[p] === 0) for (let o = p * 3; o < p * 3 + 3; o++) out[o] = out[o]! + all[o]!;
    math.free(all);
  } else math.enlarge(out, size, light, gloss, coarse, ratios);
  math.free(light);
  math.free(gloss);
}
