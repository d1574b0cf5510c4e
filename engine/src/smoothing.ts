import { LEAST_TO_SMOOTH, Smoother, type Film } from '@plinket/core';
import type { FilmMath } from '@plinket/kernel';
import type { FilmSet } from './film-set.ts';

/** How far `step` came: a part of the work is done, a film is smoothed, or nothing is due. */
export type SmoothStep = 'part' | 'film' | 'none';

/**
 * Removes the noise of films one at a time, whenever one has twice the samples that it had at its last smoothing, and when all is
 * done. One call is a part of a film, a few hundredths of a second, so that the worker answers between them.
 */
export class Smoothing {
  private readonly math: FilmMath;
  private smoother: Smoother | undefined;
  private guidesOf: object | undefined;
  private guideSamples = 0;
  private work: { id: string; film: Film; steps: Generator<undefined, void> } | undefined;

  constructor(math: FilmMath) {
    this.math = math;
  }

  /** Goes on with the film at hand, or takes up the next one that is due; `finished`: no film gets more samples. */
  step(set: FilmSet, finished: boolean): SmoothStep {
    const { work } = this;
    if (work) {
      // a light that moved has another film: the old one's memory is somebody else's now
      if (set.films.get(work.id)?.film !== work.film) return this.giveUp();
      if (!work.steps.next().done) return 'part';
      this.work = undefined;
      return 'film';
    }
    for (const [id, { film }] of set.films) {
      const samples = set.samplesOf(id),
        mean = set.meanSamplesOf(id),
        last = film.smooth?.samples ?? 0;
      if (samples < LEAST_TO_SMOOTH || film.missing > 0) continue;
      // parts of the picture may rest while others go on: once all rest, the last word is smoothed too
      if (!(mean >= 2 * last || (finished && mean > last))) continue;
      this.refresh(set, samples);
      this.work = { id, film, steps: this.smoother!.steps(film, mean) };
      return 'part';
    }
    return 'none';
  }

  private giveUp(): SmoothStep {
    this.work!.steps.return();
    this.work = undefined;
    return 'part';
  }

  /** The guides are read again while they still get better. */
  private refresh({ guides }: FilmSet, samples: number): void {
    if (this.smoother && this.guidesOf === guides && (this.guideSamples >= 16 || samples <= this.guideSamples)) return;
    this.smoother?.release();
    this.smoother = new Smoother(this.math, guides);
    this.guidesOf = guides;
    this.guideSamples = samples;
  }

  /** Gives the planes back when nothing is left to do. */
  release(): void {
    if (this.work) this.giveUp();
    this.smoother?.release();
    this.smoother = undefined;
  }
}
