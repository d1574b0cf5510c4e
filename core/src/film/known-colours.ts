import type { FilmMath, Size } from '@plinket/kernel';
import type { Voice } from './balance.ts';
import { FineColours } from './coarse.ts';
import type { Guides } from './film.ts';

/** Samples at which a pixel's colour says what lies in it. */
const WELL = 8;

/** Colours of the first surfaces of the view that is traced, once all are known: for the light of coarse films to fall on. */
export class KnownColours {
  private readonly math: FilmMath;
  private known: { guides: Guides; samples: number; colours: FineColours } | undefined;

  constructor(math: FilmMath) {
    this.math = math;
  }

  /** The colours, where some voice needs them and all pixels have one. */
  for(guides: Guides, heard: Voice[]): FineColours | undefined {
    if (!heard.some((v) => v.coarse && (v.waits || v.film.missing > 0))) return undefined;
    return this.read(guides);
  }

  /** Reads them before they are needed: a hand that begins must not wait for that. */
  prepare(guides: Guides, coarse: Size): void {
    this.read(guides)?.ratiosFor(coarse.width, coarse.height);
  }

  private read(guides: Guides): FineColours | undefined {
    const samples = guides.least;
    if (samples === 0) return undefined;
    const { known } = this;
    // read once more when the edges have been sampled well
    if (known?.guides === guides && !(samples >= WELL && known.samples < WELL)) return known.colours;
    const colours = new FineColours(guides, this.math);
    known?.colours.release();
    this.known = { guides, samples, colours };
    return colours;
  }
}
