import {
  applyPatch,
  axisOf,
  clipFits,
  compile,
  compileCamera,
  faceLightOf,
  FaceMeter,
  figurePoints,
  firstInSight,
  framesRound,
  isWhole,
  knownFace,
  LEAST_TO_SMOOTH,
  lookUp,
  makeFaceMap,
  missingOf,
  named,
  PictureMaker,
  readLightOf,
  posedAt,
  safeFramePatch,
  sweptBy,
  touchesOf,
  turnedAt,
  withOpenness,
  type ClipFit,
  type Scene,
  type Setup,
  type Turned,
  type Turntable,
} from '@plinket/core';
import { smoothFrame, TurnRenderer, type FilmMath, type Pool } from '@plinket/engine';
import { Characters } from './characters.ts';
import { StageFiles, type ReadLight } from './files.ts';
import type { EngineUrls } from './messages.ts';
import type { FromTurn, ToTurn, TurnFrame, TurnMeasure, TurnMoment } from './turn-messages.ts';

/** What the session needs of the world around it. */
export interface TurnPorts {
  tell(message: FromTurn, transfer?: Transferable[]): void;
  open(urls: EngineUrls): Promise<{ pool: Pool; math: FilmMath }>;
  load(sha256: string, what: string): Promise<Uint8Array>;
  /** Makes of a file what a light wants of it, elsewhere; here where nothing is said. */
  readLight?: ReadLight;
  fetch(url: string): Promise<Uint8Array>;
}

/** Every so many-th pixel is asked whether it is clipped. */
const SOME = 3;
/** Moments of a clip at which what a figure sweeps is measured. */
const POSES = 24;
/** What was read of the face is told every so many angles. */
const TOLD = 8;
/** A head that is turned away by more shows no face, degrees. */
const AWAY = 100;

type Ask<T extends ToTurn['type']> = Extract<ToTurn, { type: T }>;

/** What the turntable's worker does: traces frames, measures the sweep, reads the face round the turn. One thing at a time. */
export class TurnSession {
  private readonly ports: TurnPorts;
  private readonly characters: Characters;
  private readonly files: StageFiles;
  private urls: EngineUrls | undefined;
  private opened: Promise<{ pool: Pool; math: FilmMath }> | undefined;
  /** Questions that were taken back. */
  private readonly stopped = new Set<number>();
  /** The work before: what needs the workers waits for it. */
  private last: Promise<unknown> = Promise.resolve();
  private still: Scene | undefined;

  constructor(ports: TurnPorts) {
    this.ports = ports;
    this.characters = new Characters((sha, what) => ports.load(sha, what), {
      draco: () => ports.fetch(this.urls!.draco),
      jpeg: () => ports.fetch(this.urls!.jpeg),
    });
    this.files = new StageFiles(this.characters, (sha, what) => ports.load(sha, what), ports.readLight);
  }

  hear(message: ToTurn): void {
    switch (message.type) {
      case 'open':
        this.urls = message.urls;
        this.opened = this.ports.open(message.urls);
        this.opened.catch(() => undefined);
        break;
      case 'stop':
        this.stopped.add(message.number);
        break;
      case 'frames':
        this.work(message.number, () => this.frames(message));
        break;
      case 'measure':
        this.work(message.number, () => this.measure(message));
        break;
      case 'read':
        this.work(message.number, () => this.read(message));
    }
  }

  /** Does one thing after the other, unless it was taken back meanwhile; what goes wrong is told. */
  private work(number: number, run: () => Promise<void>): void {
    const { tell } = this.ports;
    this.last = this.last
      .then(() => (this.stopped.has(number) ? undefined : run()))
      .then(() => tell({ type: 'done', number }))
      .catch((error: unknown) => tell({ type: 'failed', number, message: error instanceof Error ? error.message : String(error) }));
  }

  private sceneOf(setup: Setup, last: Scene | undefined, turned?: Turned): Scene {
    const options = { files: this.files.lights, ...(turned ? { turned } : {}) };
    return compile(setup, (sha) => this.characters.known.get(sha), last, options);
  }

  /** A setup before it turns; its mesh is laid out once for all that is asked about it. */
  private async stillOf(setup: Setup): Promise<Scene> {
    await this.files.fetch(setup);
    return (this.still = this.sceneOf(setup, this.still));
  }

  private async frames({ number, setup, plan, frames, quality }: Ask<'frames'>): Promise<void> {
    const { pool, math } = await this.opened!;
    const { tell } = this.ports;
    const still = await this.stillOf(setup),
      { axis } = axisOf(setup, figurePoints(still.geometry), plan),
      fits = this.fits(setup, plan);
    const { width, height, samples, shallow } = quality;
    const turn = new TurnRenderer(pool, math),
      maker = new PictureMaker(math, { gobo: (sha) => this.files.lights.gobo(sha), cube: this.files.cube });
    try {
      const options = { width, height, samples, seed: 1, bounces: shallow ? 1 : 3, ...(shallow ? { shallow } : {}) };
      const scene = (n: number, last = still) =>
        withOpenness(setup, this.sceneOf(posedAt(setup, plan, fits, n), last, turnedAt(plan, axis, n)));
      for await (const { frame, films } of turn.frames(frames, scene, options)) {
        if (this.stopped.has(number)) return;
        if (setup.look.smooth > 0 && samples >= LEAST_TO_SMOOTH) smoothFrame(films, samples);
        const picture = maker.make(films, { setup, measure: SOME });
        const rgba = Uint8ClampedArray.from(picture.rgba).buffer;
        const told: TurnFrame = { frame, width, height, rgba, clipped: picture.tones?.clipped ?? 0 };
        tell({ type: 'frame', number, frame: told }, [rgba]);
      }
    } finally {
      turn.close();
    }
  }

  private async measure({ number, setup, plan }: Ask<'measure'>): Promise<void> {
    const still = await this.stillOf(setup),
      points = figurePoints(still.geometry),
      { axis, off } = axisOf(setup, points, plan),
      fits = this.fits(setup, plan);
    const swept = sweptBy(this.pointsOfAll(setup, plan, fits, still), axis, plan);
    const touches = touchesOf(compileCamera(setup), swept, plan.margin);
    const moved = (by: 'distance' | 'lens') => {
      const patch = safeFramePatch(setup, swept, plan.margin, by);
      return patch && applyPatch(setup, patch).camera;
    };
    const position = moved('distance')?.position,
      focal = moved('lens')?.focal;
    const measure: TurnMeasure = {
      off: points.length ? off : undefined,
      touches: points.length ? touches.map(({ side, at, out }) => ({ side, at, out })) : [],
      clips: plan.plays ? fits.map((fit) => ({ ...fit, jump: this.jumpOf(setup, fit, still) })) : [],
      ...(position ? { position } : {}),
      ...(focal ? { focal } : {}),
    };
    this.ports.tell({ type: 'measured', number, measure });
  }

  private fits(setup: Setup, plan: Turntable): ClipFit[] {
    return clipFits(setup, plan, (sha) => this.characters.known.get(sha));
  }

  /** Points of the figures in all poses that they come through, some moments for all. */
  private pointsOfAll(setup: Setup, plan: Turntable, fits: readonly ClipFit[], still: Scene): Float32Array {
    if (!plan.plays || fits.length === 0) return figurePoints(still.geometry);
    const some = framesRound(plan, POSES).map((n) => figurePoints(this.sceneOf(posedAt(setup, plan, fits, n), still).geometry));
    const all = new Float32Array(some.reduce((sum, p) => sum + p.length, 0));
    some.reduce((at, p) => (all.set(p, at), at + p.length), 0);
    return all;
  }

  /** How far the farthest point of a figure jumps where its clip begins anew, metres. */
  private jumpOf(setup: Setup, { subject, from, seconds }: ClipFit, still: Scene): number {
    const at = (time: number) => {
      const { [subject]: figure } = setup.subjects.items;
      const items = { [subject]: { ...figure!, pose: { ...figure!.pose!, time } } };
      return figurePoints(this.sceneOf({ ...setup, subjects: { items } }, still).geometry);
    };
    const first = at(from),
      last = at(from + seconds);
    let most = 0;
    for (let i = 0; i < first.length; i += 3)
      most = Math.max(most, Math.hypot(first[i]! - last[i]!, first[i + 1]! - last[i + 1]!, first[i + 2]! - last[i + 2]!));
    return most;
  }

  /**
   * The face all round: what turns is turned about the face instead, whose map stays, so that each angle is looked up. Shadows of the stage are not in
   * it. @throws Error that says why there is no face to read
   */
  private async read({ number, setup, plan, angles }: Ask<'read'>): Promise<void> {
    const { pool } = await this.opened!,
      still = await this.stillOf(setup);
    const subject = firstInSight(setup);
    if (subject === undefined) throw new Error('no figure is in sight');
    const asset = this.characters.known.get(setup.subjects.items[subject]!.asset)!;
    const face = knownFace(setup, subject, asset);
    if (!isWhole(face)) throw new Error(`landmarks are missing: ${missingOf(face).join(', ')}; mark them on the Stage`);
    const { axis } = axisOf(setup, figurePoints(still.geometry), plan);
    pool.setGeometry(still.geometry);
    const map = await makeFaceMap(pool.eyes, still.geometry, face),
      meter = new FaceMeter(map);
    const moments: TurnMoment[] = [];
    for (const frame of framesRound(plan, angles)) {
      if (this.stopped.has(number)) return;
      const { lights, camera } = this.sceneOf(setup, still, turnedAt(plan, axis, frame));
      const looked = lights.flatMap((light) => {
        const of = faceLightOf(light, still.geometry);
        return of ? [readLightOf(setup, of, lookUp(map, of))] : [];
      });
      const reading = meter.read(looked, camera);
      // a face that looks away from the camera is not judged
      const seen = Math.abs(reading.turn) <= AWAY;
      const pattern = seen && named(reading.byKey)?.pattern;
      moments.push({ frame, ...(pattern ? { pattern } : {}), ...(seen && reading.ratio ? { stops: reading.ratio.stops } : {}) });
      if (moments.length % TOLD === 0) {
        this.ports.tell({ type: 'moments', number, moments: [...moments] });
        // whoever wants it no more is heard
        await new Promise((resolve) => setTimeout(resolve));
      }
    }
    this.ports.tell({ type: 'moments', number, moments });
  }
}
