// Noise removal, film by film, so that balance stays linear: an edge-avoiding à-trous filter (Dammertz, Sewtz, Hanika,
// Lensch 2010), guided by normal, position, albedo and each layer's own variance (Schied et al. 2017); the diffuse layer
// is divided by the albedo first.
import { TAPS, type FilmMath, type PlaneShape } from '@plinket/kernel';
import type { Film, Guides } from './film.ts';

/** Distances of the taps, one step after the other; the margin is the widest. */
const STEPS = [1, 2, 4, 8];
const MARGIN = 8;
const GUIDES = 10;
const LAYER = 5;
/** Standard deviations of luminance beyond which a neighbour counts nothing; 6 and more measured best on the demo. */
const SIGMA = 6;
/** Least samples at which the variance says anything. */
export const LEAST_TO_SMOOTH = 4;

/** Rows of a frame, from … to − 1. */
interface Rows {
  from: number;
  to: number;
}

const isReady = (film: Film, samples: number): boolean => samples >= LEAST_TO_SMOOTH && film.missing === 0;

function toEnd(steps: Generator<undefined, void>): void {
  while (!steps.next().done);
}

/** How far off its own plane a neighbour may lie: a pixel's size at the mean distance, taken generously. */
function reachOf(guides: Guides): number {
  let depth = 0,
    covered = 0;
  for (let p = 0; p < guides.width * guides.height; p++) {
    if (!(guides.sums[p * 11]! > 0)) continue;
    depth += guides.mean(p, 10);
    covered++;
  }
  return covered ? ((depth / covered) * 0.35) / guides.height : 1;
}

/** Smooths films of one frame size, or a band of its rows. Its planes are `math`'s; give them back with `release`. */
export class Smoother {
  private readonly math: FilmMath;
  private readonly width: number;
  private readonly height: number;
  /** First pixel of the band in the frame. */
  private readonly start: number;
  private readonly shape: PlaneShape;
  private readonly weights: Float32Array[];
  private readonly guides: Float32Array;
  private readonly a: Float32Array;
  private readonly b: Float32Array;
  private readonly albedo: Float32Array;

  constructor(math: FilmMath, guides: Guides, rows: Rows = { from: 0, to: guides.height }, reach = reachOf(guides)) {
    const { width } = guides;
    this.math = math;
    this.width = width;
    this.height = rows.to - rows.from;
    this.start = rows.from * width;
    const stride = (width + 2 * MARGIN + 7) & ~3;
    const plane = stride * (this.height + 2 * MARGIN + 1);
    this.shape = { stride, plane, first: MARGIN * stride + MARGIN, rows: this.height, columns: width };
    this.guides = math.floats(GUIDES * plane);
    this.weights = STEPS.map(() => math.floats(TAPS * plane));
    this.a = math.floats(LAYER * plane);
    this.b = math.floats(LAYER * plane);
    this.albedo = new Float32Array(width * this.height * 3);
    this.readGuides(guides, reach);
  }

  release(): void {
    for (const a of [this.guides, this.a, this.b, ...this.weights]) this.math.free(a);
  }

  private readGuides(from: Guides, reach: number): void {
    const { plane, stride, first } = this.shape;
    for (let y = 0, i = 0; y < this.height; y++)
      for (let x = 0; x < this.width; x++, i++) {
        const p = this.start + i;
        const o = first + y * stride + x;
        const inside = from.sums[p * 11]! > 0;
        let l = Math.hypot(from.mean(p, 1), from.mean(p, 2), from.mean(p, 3));
        if (!(l > 0)) l = 1;
        // where nothing is, everything is alike
        this.guides[o] = inside ? from.mean(p, 1) / l : 0;
        this.guides[plane + o] = inside ? from.mean(p, 2) / l : 0;
        this.guides[2 * plane + o] = inside ? from.mean(p, 3) / l : 1;
        for (let k = 0; k < 3; k++) {
          this.guides[(3 + k) * plane + o] = from.mean(p, 4 + k);
          const albedo = from.mean(p, 7 + k);
          this.guides[(6 + k) * plane + o] = albedo;
          this.albedo[i * 3 + k] = inside ? Math.max(0.01, albedo) : 1;
        }
        this.guides[9 * plane + o] = 1;
      }
    // the guides have said all once the weights stand
    STEPS.forEach((step, i) => this.math.guideWeights(this.guides, this.weights[i]!, this.shape, step, Math.max(1e-4, reach * step), 0.12));
  }

  /**
   * Smooths a film's layers into `film.smooth`. Films with too few samples are left alone; answers whether it was done.
   */
  smooth(film: Film, samples: number): boolean {
    if (!isReady(film, samples)) return false;
    toEnd(this.steps(film, samples));
    return true;
  }

  /** `smooth` in steps of a few hundredths of a second, for who must answer in between. The film must stay meanwhile. */
  *steps(film: Film, samples: number): Generator<undefined, void> {
    if (!isReady(film, samples)) return;
    const into = film.smooth ?? {
      planes: film.layers.map((l, i) => (l.smoothed ? this.math.floats(film.planes[i]!.length) : undefined)),
      samples: 0,
    };
    const all = { from: 0, to: this.height };
    try {
      for (const [l, plane] of into.planes.entries()) if (plane) yield* this.layerSteps(film, l, plane, all);
      into.samples = samples;
      film.smooth = into;
    } finally {
      // given up before the first time was done
      if (film.smooth !== into) for (const plane of into.planes) if (plane) this.math.free(plane);
    }
  }

  /**
   * Smooths a layer of a film, by its place in `layers`, into `to`, a frame; only the rows `keep` of this band are written, mixed
   * with what stands there by `share`. `above` holds the rows above them as they were before they were smoothed.
   */
  layer(film: Film, layer: number, to: Float32Array, keep: Rows, above?: Float32Array, share = 1): void {
    toEnd(this.layerSteps(film, layer, to, keep, above, share));
  }

  private *layerSteps(
    film: Film,
    layer: number,
    to: Float32Array,
    keep: Rows,
    above?: Float32Array,
    share = 1,
  ): Generator<undefined, void> {
    this.read(film, layer, keep, above);
    let src = this.a,
      out = this.b;
    for (const [i, step] of STEPS.entries()) {
      yield;
      this.math.atrous(src, out, this.weights[i]!, this.shape, step, SIGMA);
      [src, out] = [out, src];
    }
    yield;
    this.write(src, film.layers[layer]!.albedo, to, keep, share);
  }

  /** Brings a layer's colour, luminance and variance into the planes, without the albedo. */
  private read(film: Film, layer: number, keep: Rows, above?: Float32Array): void {
    const { plane, stride, first } = this.shape;
    const { a, start } = this;
    const albedo = film.layers[layer]!.albedo ? this.albedo : undefined,
      frame = film.planes[layer]!;
    const { counts } = film,
      squares = film.squares[layer]!;
    for (let y = 0, i = 0; y < this.height; y++)
      for (let x = 0; x < this.width; x++, i++) {
        const o = first + y * stride + x,
          p = start + i,
          n = counts[p]!;
        const from = above && y < keep.from ? above : frame,
          q = (from === frame ? p : i) * 3;
        const kr = albedo ? 1 / albedo[i * 3]! : 1,
          kg = albedo ? 1 / albedo[i * 3 + 1]! : 1,
          kb = albedo ? 1 / albedo[i * 3 + 2]! : 1;
        const r = from[q]! * kr,
          g = from[q + 1]! * kg,
          b = from[q + 2]! * kb;
        a[o] = r;
        a[plane + o] = g;
        a[2 * plane + o] = b;
        a[3 * plane + o] = 0.2126 * r + 0.7152 * g + 0.0722 * b;
        const k = 0.2126 * kr + 0.7152 * kg + 0.0722 * kb;
        // as Film.variance has it, with the mean at hand
        const mean = 0.2126 * from[q]! + 0.7152 * from[q + 1]! + 0.0722 * from[q + 2]!,
          spread = squares[p]! / n - mean * mean;
        a[4 * plane + o] = spread > 0 ? (spread / (n - 1)) * k * k : 0;
      }
  }

  /** Writes the planes' colour to a frame, with the albedo again. */
  private write(src: Float32Array, coloured: boolean, to: Float32Array, keep: Rows, share: number): void {
    const { plane, stride, first } = this.shape;
    const albedo = coloured ? this.albedo : undefined;
    for (let y = keep.from; y < keep.to; y++)
      for (let x = 0; x < this.width; x++) {
        const o = first + y * stride + x,
          i = y * this.width + x,
          q = (this.start + i) * 3;
        for (let c = 0; c < 3; c++) {
          const smooth = src[c * plane + o]! * (albedo ? albedo[i * 3 + c]! : 1);
          to[q + c] = share === 1 ? smooth : to[q + c]! + (smooth - to[q + c]!) * share;
        }
      }
  }
}

/** Rows of a band, and those around it whose light reaches into it. */
const BAND = 96;
const APRON = STEPS.reduce((n, s) => n + s, 0);

/**
 * Smooths films where they stand, band by band: what they were is gone afterwards, and little memory is needed beside them.
 * Films with too few samples are left alone; answers how many were smoothed.
 */
export function smoothInPlace(math: FilmMath, guides: Guides, films: Film[], samples: number, share = 1): number {
  const ready = films.filter((f) => isReady(f, samples));
  const { width, height } = guides,
    reach = reachOf(guides);
  // the last rows of the band before, as they were
  const kept = new Map<Float32Array, Float32Array>();
  for (let top = 0; top < height && ready.length; top += BAND) {
    const rows = { from: Math.max(0, top - APRON), to: Math.min(height, top + BAND + APRON) };
    const keep = { from: top - rows.from, to: Math.min(height, top + BAND) - rows.from };
    const smoother = new Smoother(math, guides, rows, reach);
    for (const film of ready)
      for (const [layer, frame] of film.planes.entries()) {
        if (!film.layers[layer]!.smoothed) continue;
        const above = kept.get(frame);
        const end = (rows.from + keep.to) * width * 3;
        kept.set(frame, frame.slice(Math.max(0, end - APRON * width * 3), end));
        smoother.layer(film, layer, frame, keep, above, share);
      }
    smoother.release();
  }
  return ready.length;
}
