import {
  cellsOfJob,
  CELLS,
  compileLights,
  emptyGrid,
  faceJob,
  faceLightOf,
  FaceMeter,
  fillRow,
  firstInSight,
  isWhole,
  knownFace,
  lookUp,
  makeFaceMap,
  missingOf,
  nearestTo,
  nearMiss,
  readLightOf,
  standOf,
  type CellLight,
  type CharacterAsset,
  type FaceLight,
  type FaceMap,
  type KnownFace,
  type LightFiles,
  type PatternGrid,
  type Reading,
  type ReadLight,
  type Scene,
  type Setup,
  type Stand,
  type WholeFace,
} from '@plinket/core';
import { Cancelled, type Pool } from '@plinket/engine';
import type { FaceReport } from './messages.ts';
import type { Clock } from './painter.ts';

/** After so long without a change the reading is made exact, ms, with so many rays a place and light. */
const REST_MS = 350,
  SAMPLES = 8;

/** Readings take at most one part in so many of this worker's time while a hand is at work. */
const SHARE = 5;
/** What the hand does is read once its picture is there, or after so long, ms. */
const PICTURE_MS = 200;
/** So long until it is looked whether the workers hold the mesh by now, ms. */
const WAIT_MS = 40;

interface Known {
  key: string;
  light: FaceLight;
  cells: CellLight;
  exact: boolean;
}

interface Asked {
  wish: number;
  setup: Setup;
  scene: Scene;
  subject: string;
  asset: CharacterAsset;
}

/** Reads the face of a setup: looked up while a hand is at work, by rays when it rests. */
export class FaceReader {
  private readonly pool: Pool;
  private readonly clock: Clock;
  private readonly tell: (report: FaceReport) => void;
  private readonly files: LightFiles;
  /** The map that is there, and the one that is being made. */
  private map: { key: string; map: FaceMap; meter: FaceMeter } | undefined;
  private making: string | undefined;
  private face: { key: string; asset: CharacterAsset; face: KnownFace } | undefined;
  /** Of the face that was asked for last; '' where it cannot be read. */
  private key = '';
  /** Of which wish was told that its face is being looked at. */
  private looking = 0;
  private readonly known = new Map<string, Known>();
  private last: Asked | undefined;
  /** What is being read: a hand that never rests must not begin it again and again. */
  private begun: Asked | undefined;
  private resting: (() => void) | undefined;
  /** Numbers of the wish that the newest picture answers, and of that whose picture is waited for; 0: none. */
  private painted = 0;
  private waiting = 0;
  /** When the last reading was done, and what it took, ms. */
  private lately = { end: -Infinity, cost: 0 };
  /** What the reading that is on its way took so far, ms. */
  private cost = 0;
  /** What was read last. */
  private lights: ReadLight[] = [];
  private reading: Reading | undefined;
  private grid: { map: FaceMap; grid: PatternGrid } | undefined;

  constructor(pool: Pool, clock: Clock, files: LightFiles, tell: (report: FaceReport) => void) {
    this.files = files;
    this.pool = pool;
    this.clock = clock;
    this.tell = tell;
  }

  /** Reads a compiled wish. `asset` finds a character that was loaded. */
  take(wish: number, setup: Setup, scene: Scene, asset: (sha256: string) => CharacterAsset | undefined): void {
    const subject = firstInSight(setup);
    const character = subject === undefined ? undefined : asset(setup.subjects.items[subject]!.asset);
    if (subject === undefined || !character) {
      this.end();
      this.last = undefined;
      return this.tell({ type: 'reading', wish, exact: false, why: { kind: 'nobody' } });
    }
    this.last = { wish, setup, scene, subject, asset: character };
    this.key = '';
    const face = this.faceOf(setup, subject, character);
    if (!isWhole(face)) {
      this.end();
      return this.tell({ type: 'reading', wish, subject, exact: false, why: { kind: 'landmarks', missing: missingOf(face) } });
    }
    const key = JSON.stringify([scene.geometry.key, subject, face.frame, face.points]);
    this.key = key;
    if (this.map?.key === key) {
      // a hand that goes on must not put it off
      if (!this.begun && !this.waiting) this.begin();
      return;
    }
    this.end();
    if (this.making === key) return;
    if (this.looking !== wish) this.tell({ type: 'reading', wish, subject, exact: false, why: { kind: 'looking' } });
    this.looking = wish;
    // a picture that is on its way is finished first: until then workers hold another mesh
    if (this.pool.holds(scene.geometry)) this.make(key, face);
    else this.resting = this.clock.after(WAIT_MS, () => this.again());
  }

  /** The face of a subject; while that stays as it is, it is what it was: where a posed head is takes a while to find. */
  private faceOf(setup: Setup, subject: string, asset: CharacterAsset): KnownFace {
    const { materials: _, ...item } = setup.subjects.items[subject]!;
    const key = JSON.stringify([subject, item]);
    if (this.face?.key !== key || this.face.asset !== asset) this.face = { key, asset, face: knownFace(setup, subject, asset) };
    return this.face.face;
  }

  /** Reads once more what was asked for last. */
  private again(): void {
    const { last } = this;
    if (last) this.take(last.wish, last.setup, last.scene, () => last.asset);
  }

  private make(key: string, face: WholeFace): void {
    const { wish, scene, subject } = this.last!;
    this.making = key;
    void makeFaceMap(this.pool.eyes, scene.geometry, face)
      .then((map) => {
        if (this.making !== key) return;
        this.map = { key, map, meter: new FaceMeter(map) };
        this.known.clear();
      })
      .catch((error: unknown) => {
        // given up because another mesh came, or the same again: it is asked for anew
        if (error instanceof Cancelled || this.making !== key) return;
        const message = error instanceof Error ? error.message : String(error);
        this.last = undefined;
        this.tell({ type: 'reading', wish, subject, exact: false, why: { kind: 'failed', message } });
      })
      .then(() => {
        if (this.making !== key) return;
        this.making = undefined;
        this.again();
      });
  }

  /** A picture that answers this wish stands on the page. */
  pictured(wish: number): void {
    this.painted = wish;
    if (this.waiting && wish >= this.waiting) this.begin();
  }

  /** Reads piece by piece, not before the picture: pictures and hands come between, and have several times as long as readings. */
  private begin(): void {
    this.resting?.();
    const { wish } = this.last!;
    this.waiting = wish > this.painted ? wish : 0;
    const wait = this.lately.end + (SHARE - 1) * this.lately.cost - this.clock.now();
    this.resting = this.clock.after(Math.max(this.waiting ? PICTURE_MS : 0, wait), () => {
      this.waiting = 0;
      this.begun = this.last;
      this.cost = 0;
      this.step();
    });
  }

  /** Looks one light up, or reads once all of them are known. */
  private step(): void {
    const asked = this.begun!,
      start = this.clock.now();
    const more = this.lookUpNext(asked);
    if (!more) this.read(asked);
    const end = this.clock.now();
    this.cost += end - start;
    if (more) {
      this.resting = this.clock.after(0, () => this.step());
      return;
    }
    this.lately = { end, cost: this.cost };
    this.begun = undefined;
    if (this.last !== asked) this.begin();
    else this.resting = this.clock.after(REST_MS, () => void this.follow());
  }

  /** Nothing is read any more. */
  private end(): void {
    this.resting?.();
    this.begun = undefined;
    this.waiting = 0;
  }

  /** Looks up the next light that is not known where it stands; whether there was one. */
  private lookUpNext({ setup, scene }: Asked): boolean {
    for (const light of scene.lights) {
      if (!setup.lights.items[light.id] || this.known.get(light.id)?.key === light.key) continue;
      const asked = faceLightOf(light, scene.geometry);
      if (!asked) continue;
      this.known.set(light.id, { key: light.key, light: asked, cells: lookUp(this.map!.map, asked), exact: false });
      return true;
    }
    return false;
  }

  /** What lights do, and told. */
  private read({ wish, setup, scene, subject }: Asked): FaceReport {
    const { map } = this.map!;
    const here = new Set<string>();
    const lights: ReadLight[] = [];
    for (const light of scene.lights) {
      const known = this.known.get(light.id);
      if (!setup.lights.items[light.id] || known?.key !== light.key) continue;
      here.add(light.id);
      lights.push(readLightOf(setup, known.light, known.cells));
    }
    for (const id of this.known.keys()) if (!here.has(id)) this.known.delete(id);
    const reading = this.map!.meter.read(lights, scene.camera);
    this.lights = lights;
    this.reading = reading;
    const stops = new Float32Array(CELLS).fill(NaN);
    let most = 0;
    for (let c = 0; c < CELLS; c++) {
      if (!map.there[c]) continue;
      stops[c] = lights.reduce((sum, l) => sum + l.level * l.cells.lit[c]!, 0);
      if (map.front[c]) most = Math.max(most, stops[c]!);
    }
    for (let c = 0; c < CELLS; c++) stops[c] = most > 0 ? Math.log2(stops[c]! / most) : stops[c]!;
    const report: FaceReport = { type: 'reading', wish, subject, reading, stops, exact: [...this.known.values()].every((k) => k.exact) };
    this.tell(report);
    return report;
  }

  /** Follows rays for the lights that were looked up, and reads again. */
  private async follow(): Promise<void> {
    const { last, map } = this;
    if (!last || !map || !this.pool.holds(last.scene.geometry)) return;
    const asked = [...this.known].filter(([, k]) => !k.exact);
    if (!asked.length) return;
    try {
      // one light at a time: a hand that begins meanwhile must not wait for all of them
      for (const [id, known] of asked) {
        const light = last.scene.lights.find((l) => l.id === id)!;
        const found = await this.pool.read(faceJob(map.map, [light], SAMPLES, last.scene.haze?.density));
        if (this.last !== last || this.map !== map) return;
        known.cells = cellsOfJob(map.map, found, 0, known.cells);
        known.exact = true;
      }
    } catch {
      // another mesh came, or the workers failed, which the picture says: the reading stays looked up
      return;
    }
    if (this.begun) return;
    const report = this.read(last);
    this.seekNearest(report);
  }

  /** Looks for the move that would reach the nearest pattern, a try at a time, as long as nobody's hand does anything. */
  private seekNearest(report: FaceReport): void {
    const { key, byKey } = report.reading ?? {},
      miss = byKey && nearMiss(byKey);
    if (!key || !miss) return;
    const tries = nearestTo(this.map!.map, key, miss.pattern);
    const go = (): void => {
      const { done, value } = tries.next();
      if (!done) this.resting = this.clock.after(0, go);
      else if (value) this.tell({ ...report, nearest: { pattern: miss.pattern, ...value } });
    };
    this.resting = this.clock.after(0, go);
  }

  /** Which pattern a light draws from every direction of this face; made once, a row at a time. @throws Error when there is no face yet */
  async directions(): Promise<PatternGrid> {
    const { map } = this.ready();
    if (this.grid?.map === map) return this.grid.grid;
    const grid = emptyGrid();
    for (let row = 0; row < grid.elevations.length; row++) {
      fillRow(map, grid, row);
      // pictures and hands come between
      await new Promise<void>((resolve) => void this.clock.after(0, resolve));
    }
    this.grid = { map, grid };
    return grid;
  }

  /** How things stand for who places a light. @throws Error when no face has been read yet */
  stand(): Stand {
    const { map, last } = this.ready();
    const { setup, scene, subject } = last;
    return standOf({
      setup,
      subject,
      map,
      meter: this.map!.meter,
      camera: scene.camera,
      reading: this.reading,
      lights: this.lights,
      at: (changed, id) => {
        const light = compileLights(changed, this.files).find((l) => l.id === id);
        return light && faceLightOf(light, scene.geometry);
      },
    });
  }

  /** Whether the face that was asked for last is known. */
  get isKnown(): boolean {
    return this.last !== undefined && this.map?.key === this.key;
  }

  private ready(): { map: FaceMap; last: NonNullable<FaceReader['last']> } {
    if (!this.map || !this.last || !this.isKnown) throw new Error('The face has not been read yet.');
    return { map: this.map.map, last: this.last };
  }
}
