// Noise removal, film by film, so that balance stays linear: an edge-avoiding à-trous filter (Dammertz, Sewtz, Hanika,
// Lensch 2010), guided by normal, position, albedo and each layer's own variance (Schied et al. 2017); the diffuse layer
// is divided by the albedo first.
import { TAPS, type FilmMath, type PlaneShape } from '@plinket/kernel';
import { EDGE_REACH, findEdges, type Edges } from './edges.ts';
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

/** Samples from which on the mean of the variances around a pixel says less than its own: until then it may only be lucky. */
const SURE = 32;
/** Pixels to each side whose variances are asked. */
const AROUND = 3;
/** Samples up to which an edge is made wholly of what lies on its two sides; later it says more and more itself. */
const EDGE_SAMPLES = 16;

/** Rows that are read or written at a time: a hand may ask for its picture in between. */
const ROWS = 64;

/** Rows of a frame, from … to − 1. */
interface Rows {
  from: number;
  to: number;
}

/** Means of `2 · AROUND + 1` numbers of a line, fewer at its ends. */
function runningMean(src: Float32Array, from: number, step: number, count: number, out: Float32Array, to: number, outStep: number): void {
  let sum = 0,
    n = 0;
  for (let i = 0; i < count + AROUND; i++) {
    if (i < count) {
      sum += src[from + i * step]!;
      n++;
    }
    const middle = i - AROUND;
    if (middle < 0) continue;
    if (middle > AROUND) {
      sum -= src[from + (middle - AROUND - 1) * step]!;
      n--;
    }
    out[to + middle * outStep] = Math.max(0, sum / n);
  }
}

const isReady = (film: Film, samples: number): boolean => samples >= LEAST_TO_SMOOTH && film.missing === 0;

function toEnd(steps: Generator<undefined, void>): void {
  while (!steps.next().done);
}

/** Rows from … to − 1 in parts. */
function* inParts({ from, to }: Rows): Generator<Rows> {
  for (let y = from; y < to; y += ROWS) yield { from: y, to: Math.min(to, y + ROWS) };
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
  private edges: Edges = { pixels: [], shares: [], near: [], far: [] };
  /** What is made of the guides, part by part, before the first layer. */
  private readonly preparation: Generator<undefined, void>;

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
    this.preparation = this.prepare(guides, rows, reach);
  }

  release(): void {
    for (const a of [this.guides, this.a, this.b, ...this.weights]) this.math.free(a);
  }

  private *prepare(guides: Guides, rows: Rows, reach: number): Generator<undefined, void> {
    for (const part of inParts({ from: 0, to: this.height })) {
      this.readGuides(guides, part);
      yield;
    }
    // the guides have said all once the weights stand
    for (const [i, step] of STEPS.entries()) {
      this.math.guideWeights(this.guides, this.weights[i]!, this.shape, step, Math.max(1e-4, reach * step), 0.12);
      yield;
    }
    this.edges = findEdges(guides, rows);
    yield;
  }

  private readGuides(from: Guides, rows: Rows): void {
    const { plane, stride, first } = this.shape;
    for (let y = rows.from, i = y * this.width; y < rows.to; y++)
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
    // whoever gives this up does not give up what the next film needs as well
    while (!this.preparation.next().done) yield;
    for (const part of inParts({ from: 0, to: this.height })) {
      this.read(film, layer, part, keep, above);
      yield;
    }
    this.widenVariance(film.counts[this.start + (this.height >> 1) * this.width]!);
    let src = this.a,
      out = this.b;
    for (const [i, step] of STEPS.entries()) {
      yield;
      this.math.atrous(src, out, this.weights[i]!, this.shape, step, SIGMA);
      [src, out] = [out, src];
    }
    for (const part of inParts(keep)) {
      yield;
      this.write(src, film, layer, to, part, share);
    }
    yield;
    this.writeEdges(src, film.layers[layer]!.albedo ? this.albedo : undefined, film.counts, to, keep, share);
  }

  /** Brings a layer's colour, luminance and variance into the planes, without the albedo. */
  private read(film: Film, layer: number, rows: Rows, keep: Rows, above?: Float32Array): void {
    const { plane, stride, first } = this.shape;
    const { a, start } = this;
    const albedo = film.layers[layer]!.albedo ? this.albedo : undefined,
      frame = film.planes[layer]!;
    const { counts } = film,
      squares = film.squares[layer]!;
    for (let y = rows.from, i = y * this.width; y < rows.to; y++)
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

  /**
   * A pixel whose few samples happen to agree, all of them dark as a rule, would be taken for certain and stay as a dot. Its variance is
   * at least that of its surroundings, the less samples there are the more so.
   */
  private widenVariance(samples: number): void {
    const share = Math.min(1, Math.max(0, (SURE - samples) / SURE) * 1.5);
    if (share === 0) return;
    const { plane, stride, first } = this.shape,
      { width, height, a } = this;
    const rows = new Float32Array(width * height),
      at = 4 * plane + first;
    // running sums along rows, then along columns
    for (let y = 0; y < height; y++) runningMean(a, at + y * stride, 1, width, rows, y * width, 1);
    const means = new Float32Array(width * height);
    for (let x = 0; x < width; x++) runningMean(rows, x, width, height, means, x, width);
    for (let y = 0, i = 0; y < height; y++)
      for (let x = 0; x < width; x++, i++) {
        const o = at + y * stride + x;
        a[o] = Math.max(a[o]!, means[i]! * share);
      }
  }

  /** Writes the planes' colour to a frame, with the albedo again. */
  private write(src: Float32Array, film: Film, layer: number, to: Float32Array, rows: Rows, share: number): void {
    const { plane, stride, first } = this.shape;
    const albedo = film.layers[layer]!.albedo ? this.albedo : undefined;
    for (let y = rows.from; y < rows.to; y++)
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

  /** Edges are made of what lies on their two sides. */
  private writeEdges(
    src: Float32Array,
    albedo: Float32Array | undefined,
    counts: Uint16Array,
    to: Float32Array,
    keep: Rows,
    share: number,
  ): void {
    const { plane, stride, first } = this.shape,
      { width, edges } = this;
    const value = (i: number, c: number): number =>
      src[c * plane + first + Math.floor(i / width) * stride + (i % width)]! * (albedo ? albedo[i * 3 + c]! : 1);
    const mean = (pixels: number[], c: number): number =>
      pixels.length ? pixels.reduce((sum, i) => sum + value(i, c), 0) / pixels.length : 0;
    edges.pixels.forEach((i, e) => {
      if (i < keep.from * width || i >= keep.to * width) return;
      const near = edges.shares[e]!,
        q = (this.start + i) * 3;
      const k = share * Math.min(1, EDGE_SAMPLES / counts[this.start + i]!);
      for (let c = 0; c < 3; c++) {
        const made = near * mean(edges.near[e]!, c) + (1 - near) * mean(edges.far[e]!, c);
        to[q + c] = to[q + c]! + (made - value(i, c)) * k;
      }
    });
  }
}

/** Rows of a band, and those around it whose light reaches into it. */
const BAND = 96;
const APRON = STEPS.reduce((n, s) => n + s, 0) + AROUND + EDGE_REACH;

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
