import { CELLS, findingsOf, seenSteps, type PictureMaker, type FilmSource, type Scene, type Seen, type Setup } from '@plinket/core';
import type { SeenReport } from './messages.ts';
import type { Clock } from './painter.ts';
import type { FaceReader } from './reading.ts';

/** Samples that a picture has at least when it is measured. */
const LEAST = 4;
/** Measuring takes at most one part in so many of this worker's time. */
const SHARE = 12;
/** So long nobody's hand has asked for another picture, ms. */
const REST_MS = 250;

/** Measures what a picture shows of the face that is read, now and then while nobody's hand is at work. */
export class Looker {
  /** What was measured last. */
  seen: Seen | undefined;
  private readonly clock: Clock;
  private readonly tell: (report: SeenReport) => void;
  private lately = { end: -Infinity, cost: 0 };
  /** Forgets the next step of the look that goes on. */
  private going: (() => void) | undefined;

  constructor(clock: Clock, tell: (report: SeenReport) => void) {
    this.clock = clock;
    this.tell = tell;
  }

  /**
   * Looks at a picture, step by step, unless it did a moment ago or the picture is too young; `always` looks anyway. A hand that asks for something
   * else meanwhile ends it.
   */
  look(wish: number, source: FilmSource, maker: PictureMaker, setup: Setup, scene: Scene, reader: FaceReader, always: boolean): void {
    if (!reader.isKnown || source.guides.least < LEAST) return;
    if (!always && this.clock.now() - this.lately.end < (SHARE - 1) * this.lately.cost) return;
    this.stop();
    // a level under the hand tells a finished picture in every frame: it is looked at once the hand rests
    this.going = this.clock.after(REST_MS, () => this.begin(wish, source, maker, setup, scene, reader));
  }

  private begin(wish: number, source: FilmSource, maker: PictureMaker, setup: Setup, scene: Scene, reader: FaceReader): void {
    this.going = undefined;
    if (!reader.isKnown) return;
    const start = this.clock.now();
    const stand = reader.stand();
    const { linear } = maker.linear(source, { setup, bare: true });
    const steps = seenSteps(source, linear, setup, scene, stand.map, stand.reading?.features);
    let cost = 0;
    const go = (from: number): void => {
      const { done, value } = steps.next();
      if (done) {
        this.seen = value.seen;
        this.tell({
          type: 'seen',
          wish,
          seen: value.seen,
          findings: findingsOf(stand, value.seen),
          places: placesIn(source, value.pixels),
        });
      } else this.going = this.clock.after(0, () => go(this.clock.now()));
      const end = this.clock.now();
      cost += end - from;
      if (done) this.lately = { end, cost };
    };
    go(start);
  }

  /** Looks no further: the picture will be another. */
  stop(): void {
    this.going?.();
    this.going = undefined;
  }
}

/** Where the places of a face's map are in the picture, x y of 0…1; NaN where they are not seen. */
function placesIn({ width, height }: FilmSource, pixels: Int32Array): Float32Array {
  const places = new Float32Array(CELLS * 2).fill(NaN);
  for (let c = 0; c < CELLS; c++) {
    const p = pixels[c]!;
    if (p < 0) continue;
    places[c * 2] = ((p % width) + 0.5) / width;
    places[c * 2 + 1] = (Math.floor(p / width) + 0.5) / height;
  }
  return places;
}
