import { LEAST_TO_SMOOTH, Smoother } from '@plinket/core';
import type { Renderer } from '@plinket/engine';
import type { FilmMath } from '@plinket/engine';

/**
 * Removes the noise of films one at a time, whenever one has twice the samples that it had at its last smoothing, and when all is
 * done. One call
 * is one film, so that the worker answers between them.
 */
export class Smoothing {
  private readonly math: FilmMath;
  private smoother: Smoother | undefined;
  private guidesOf: object | undefined;
  private guideSamples = 0;

  constructor(math: FilmMath) {
    this.math = math;
  }

  /** Smooths the next film that is due; answers whether there was one. */
  step(renderer: Renderer): boolean {
    for (const [id, { film }] of renderer.films) {
      const samples = renderer.samplesOf(id),
        mean = renderer.meanSamplesOf(id),
        last = film.smooth?.samples ?? 0;
      if (samples < LEAST_TO_SMOOTH || film.missing > 0) continue;
      // parts of the picture may rest while others go on: once all rest, the last word is smoothed too
      if (!(mean >= 2 * last || (renderer.finished && mean > last))) continue;
      this.refresh(renderer, samples);
      this.smoother!.smooth(film, mean);
      return true;
    }
    return false;
  }

  /** The guides are read again while they still get better. */
  private refresh(renderer: Renderer, samples: number): void {
    const { guides } = renderer;
    if (this.smoother && this.guidesOf === guides && (this.guideSamples >= 16 || samples <= this.guideSamples)) return;
    this.smoother?.release();
    this.smoother = new Smoother(this.math, guides);
    this.guidesOf = guides;
    this.guideSamples = samples;
  }

  /** Gives the planes back when nothing is left to do. */
  release(): void {
    this.smoother?.release();
    this.smoother = undefined;
  }
}
