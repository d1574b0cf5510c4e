import {
  setFindings,
  stagePixels,
  stagePlaces,
  stageShadows,
  stageShares,
  stageSpots,
  type FilmSource,
  type PictureMaker,
  type Scene,
  type Setup,
  type StagePlaces,
} from '@plinket/core';
import type { Pool } from '@plinket/engine';
import type { SetReport } from './messages.ts';
import type { Clock } from './painter.ts';

/** Samples that a picture has at least when its set is looked at, and rays to each light from each place. */
const LEAST = 4,
  SAMPLES = 8;
/** So long nobody's hand has asked for another picture, ms. */
const REST_MS = 400;

/** What is looked at. */
export interface SetView {
  wish: number;
  source: FilmSource;
  maker: PictureMaker;
  setup: Setup;
  scene: Scene;
}

/** Looks at the stage in the picture while nobody's hand is at work: hot spots, shadows, edges. */
export class SetLooker {
  private readonly pool: Pool;
  private readonly clock: Clock;
  private readonly tell: (report: SetReport) => void;
  private going: (() => void) | undefined;
  /** Setup and samples of the last look. */
  private last: { setup: Setup; samples: number } | undefined;

  constructor(pool: Pool, clock: Clock, tell: (report: SetReport) => void) {
    this.pool = pool;
    this.clock = clock;
    this.tell = tell;
  }

  /** Looks at a picture once the hand rests, unless it was looked at with half as many samples or more. */
  look(view: SetView): void {
    const samples = view.source.guides.least;
    if (samples < LEAST || (this.last?.setup === view.setup && this.last.samples * 2 > samples)) return;
    this.stop();
    this.going = this.clock.after(REST_MS, () => {
      this.going = undefined;
      this.last = { setup: view.setup, samples };
      // a newer geometry takes the jobs of this one along: then it is looked at again
      void this.see(view).catch(() => (this.last = undefined));
    });
  }

  private async see({ wish, source, maker, setup, scene }: SetView): Promise<void> {
    const { linear } = maker.linear(source, { setup, bare: true });
    const pixels = stagePixels(source, scene),
      spots = stageSpots(source, pixels, linear, setup),
      places = stagePlaces(source, pixels);
    const read = places && (await this.read(places, setup, scene));
    const ids = read?.ids ?? [];
    const findings = setFindings({
      setup,
      scene,
      spots,
      shadows: places && read ? stageShadows(setup, scene, places, read.result, ids) : [],
      shares: places && read ? stageShares(setup, places, read.result, ids) : {},
      places: places?.points ?? new Float32Array(0),
      dots: places?.dots ?? [],
    });
    this.tell({ type: 'set-seen', wish, findings });
  }

  private async read({ points, normals, object }: StagePlaces, setup: Setup, scene: Scene) {
    const lights = scene.lights.filter((l) => setup.lights.items[l.id]?.on);
    if (lights.length === 0) return undefined;
    const haze = scene.haze ? { haze: scene.haze.density } : {};
    const result = await this.pool.read({ points, normals, lights, object, samples: SAMPLES, seed: 1, ...haze });
    return { ids: lights.map((l) => l.id), result };
  }

  /** Looks no further: the picture will be another. */
  stop(): void {
    this.going?.();
    this.going = undefined;
  }
}
