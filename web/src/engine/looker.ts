import { CELLS, findingsOf, pixelsOf, seenOf, type PictureMaker, type FilmSource, type Scene, type Seen, type Setup } from '@plinket/core';
import type { SeenReport } from './messages.ts';
import type { Clock } from './painter.ts';
import type { FaceReader } from './reading.ts';

/** Samples that a picture has at least when it is measured. */
const LEAST = 4;
/** Measuring takes at most one part in so many of this worker's time. */
const SHARE = 12;

/** Measures what a picture shows of the face that is read, now and then while nobody's hand is at work. */
export class Looker {
  /** What was measured last. */
  seen: Seen | undefined;
  private readonly clock: Clock;
  private readonly tell: (report: SeenReport) => void;
  private lately = { end: -Infinity, cost: 0 };

  constructor(clock: Clock, tell: (report: SeenReport) => void) {
    this.clock = clock;
    this.tell = tell;
  }

  /** Looks at a picture, unless it did a moment ago or the picture is too young; `always` looks anyway. */
  look(wish: number, source: FilmSource, maker: PictureMaker, setup: Setup, scene: Scene, reader: FaceReader, always: boolean): void {
    const start = this.clock.now();
    if (!reader.isKnown || source.guides.least < LEAST) return;
    if (!always && start - this.lately.end < (SHARE - 1) * this.lately.cost) return;
    const stand = reader.stand();
    const { linear } = maker.linear(source, { setup, bare: true });
    const seen = seenOf(source, linear, setup, scene, stand.map, stand.reading?.features);
    this.seen = seen;
    const pixels = pixelsOf(stand.map, scene, source),
      places = new Float32Array(CELLS * 2).fill(NaN);
    for (let c = 0; c < CELLS; c++) {
      const p = pixels[c]!;
      if (p < 0) continue;
      places[c * 2] = ((p % source.width) + 0.5) / source.width;
      places[c * 2 + 1] = (Math.floor(p / source.width) + 0.5) / source.height;
    }
    this.tell({ type: 'seen', wish, seen, findings: findingsOf(stand, seen), places });
    const end = this.clock.now();
    this.lately = { end, cost: end - start };
  }
}
