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

/** Smooths films of one frame size. Its planes are `math`'s; give them back with `release`. */
export class Smoother {
  private readonly math: FilmMath;
  private readonly width: number;
  private readonly height: number;
  private readonly shape: PlaneShape;
  private readonly weights: Float32Array[];
  private readonly guides: Float32Array;
  private readonly a: Float32Array;
  private readonly b: Float32Array;
  private readonly albedo: Float32Array;

  constructor(math: FilmMath, guides: Guides) {
    const { width, height } = guides;
    this.math = math;
    this.width = width;
    this.height = height;
    const stride = (width + 2 * MARGIN + 7) & ~3;
    const plane = stride * (height + 2 * MARGIN + 1);
    this.shape = { stride, plane, first: MARGIN * stride + MARGIN, rows: height, columns: width };
    this.guides = math.floats(GUIDES * plane);
    this.weights = STEPS.map(() => math.floats(TAPS * plane));
    this.a = math.floats(LAYER * plane);
    this.b = math.floats(LAYER * plane);
    this.albedo = new Float32Array(width * height * 3);
    this.readGuides(guides);
  }

  release(): void {
    for (const a of [this.guides, this.a, this.b, ...this.weights]) this.math.free(a);
  }

  private readGuides(from: Guides): void {
    const { plane, stride, first } = this.shape;
    let depth = 0,
      covered = 0;
    for (let y = 0, p = 0; y < this.height; y++)
      for (let x = 0; x < this.width; x++, p++) {
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
          this.albedo[p * 3 + k] = inside ? Math.max(0.01, albedo) : 1;
        }
        this.guides[9 * plane + o] = 1;
        if (inside) {
          depth += from.mean(p, 10);
          covered++;
        }
      }
    // a pixel's own size at the mean distance, taken generously, tells how far off its plane a neighbour may lie
    const reach = covered ? ((depth / covered) * 0.35) / this.height : 1;
    // the guides have said all once the weights stand
    STEPS.forEach((step, i) => this.math.guideWeights(this.guides, this.weights[i]!, this.shape, step, Math.max(1e-4, reach * step), 0.12));
  }

  /**
   * Smooths a film's two layers into `film.smooth`. Films with too few samples are left alone; answers whether it was done.
   */
  smooth(film: Film, samples: number): boolean {
    if (samples < LEAST_TO_SMOOTH || film.missing > 0) return false;
    film.smooth ??= { diffuse: this.math.floats(film.diffuse.length), specular: this.math.floats(film.diffuse.length), samples: 0 };
    this.layer(film, 0, film.diffuse, film.smooth.diffuse, this.albedo);
    this.layer(film, 1, film.specular, film.smooth.specular, undefined);
    film.smooth.samples = samples;
    return true;
  }

  private layer(film: Film, layer: 0 | 1, from: Float32Array, to: Float32Array, albedo: Float32Array | undefined): void {
    const { plane, stride, first } = this.shape;
    const { a } = this;
    const { squares, counts } = film,
      pixels = counts.length;
    for (let y = 0, p = 0; y < this.height; y++)
      for (let x = 0; x < this.width; x++, p++) {
        const o = first + y * stride + x,
          q = p * 3,
          n = counts[p]!;
        const kr = albedo ? 1 / albedo[q]! : 1,
          kg = albedo ? 1 / albedo[q + 1]! : 1,
          kb = albedo ? 1 / albedo[q + 2]! : 1;
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
          spread = squares[layer * pixels + p]! / n - mean * mean;
        a[4 * plane + o] = spread > 0 ? (spread / (n - 1)) * k * k : 0;
      }
    let src = this.a,
      out = this.b;
    STEPS.forEach((step, i) => {
      this.math.atrous(src, out, this.weights[i]!, this.shape, step, SIGMA);
      [src, out] = [out, src];
    });
    for (let y = 0, p = 0; y < this.height; y++)
      for (let x = 0; x < this.width; x++, p++) {
        const o = first + y * stride + x;
        const q = p * 3;
        if (albedo) {
          to[q] = src[o]! * albedo[q]!;
          to[q + 1] = src[plane + o]! * albedo[q + 1]!;
          to[q + 2] = src[2 * plane + o]! * albedo[q + 2]!;
        } else {
          to[q] = src[o]!;
          to[q + 1] = src[plane + o]!;
          to[q + 2] = src[2 * plane + o]!;
        }
      }
  }
}
