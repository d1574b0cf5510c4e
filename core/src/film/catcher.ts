// Shadow catchers: how much of what lies behind a pixel they darken, from what arrives at them with and without what casts shadows.
import type { FilmMath } from '@plinket/kernel';
import { CATCHER_DEFAULTS, type Setup } from '../setup/index.ts';
import type { Voice } from './balance.ts';
import type { Guides } from './film.ts';
import { FilmSum } from './film-sum.ts';

/** What catchers of a picture are made of. */
export interface CaughtFilms {
  /** The chosen lights, with gains on the layers `arrives` and on `open`. */
  arrives: Voice[];
  open: Voice[];
  /** How open the catcher lies by pixel, r g b, weighed by how much of the pixel it is; where contact is wished. */
  openness?: Float32Array;
}

/** What is caught in pictures of one size; keeps its sums from one to the next. */
export class CaughtLight {
  /** The shadow by pixel, 0…1, of the last picture. */
  readonly shadow: Float32Array;
  /** How much of each pixel is covered in it, catchers by their shadows alone. */
  readonly covered: Float32Array;
  /** Room for a sum of others. */
  readonly room: Float32Array;
  private readonly math: FilmMath;
  private readonly arrives: FilmSum;
  private readonly open: FilmSum;
  /** How much of each pixel the catcher is, and how much else covers it, for guides as they were. */
  private readonly share: Float32Array;
  private readonly figure: Float32Array;
  private known: { guides: Guides; stamp: number } | undefined;
  private any = false;

  constructor(math: FilmMath, pixels: number) {
    this.math = math;
    this.arrives = new FilmSum(math, ['arrives'], pixels);
    this.open = new FilmSum(math, ['open'], pixels);
    this.room = math.floats(pixels * 3);
    this.shadow = math.floats(pixels);
    this.covered = math.floats(pixels);
    this.share = math.floats(pixels);
    this.figure = math.floats(pixels);
  }

  /** Learns where catchers are; answers whether any is seen. */
  learn(guides: Guides): boolean {
    if (this.known?.guides === guides && this.known.stamp === guides.stamp) return this.any;
    this.known = { guides, stamp: guides.stamp };
    const { share, figure, shadow, covered } = this,
      { alpha, caught, counts } = guides;
    this.any = false;
    for (let p = 0; p < share.length; p++) {
      const n = counts[p]!;
      share[p] = n > 0 ? caught[p]! / n : 0;
      figure[p] = n > 0 && alpha[p]! > caught[p]! ? (alpha[p]! - caught[p]!) / n : 0;
      shadow[p] = 0;
      covered[p] = figure[p]!;
      if (share[p]! > 0) this.any = true;
    }
    return this.any;
  }

  /**
   * The shadow by pixel: c · (1 − (Σ with / Σ without) · (1 − contact · (1 − openness))) · density, c being how much of the pixel the catcher is, and the
   * sums over the chosen lights at their levels: so balance changes the shadow without a ray. By luminance: alpha has one channel.
   */
  cast(setup: Setup, films: CaughtFilms): Float32Array {
    const { density, contact } = setup.catcher ?? CATCHER_DEFAULTS;
    const { shadow, share, figure, covered } = this;
    const arrives = this.arrives.make(films.arrives),
      open = this.open.make(films.open);
    this.math.catchShadow({ shadow, covered, share, figure, arrives, open, openness: films.openness }, density, contact);
    return shadow;
  }

  release(): void {
    this.arrives.release();
    this.open.release();
    for (const plane of [this.room, this.shadow, this.covered, this.share, this.figure]) this.math.free(plane);
  }
}
