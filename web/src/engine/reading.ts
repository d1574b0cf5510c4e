import {
  CELLS,
  faceLightOf,
  headAround,
  isWhole,
  knownFace,
  lightRadiance,
  lookUp,
  luminance,
  makeFaceMap,
  missingOf,
  orderOf,
  placeInWorld,
  readFace,
  type CellLight,
  type CharacterAsset,
  type FaceLight,
  type FaceMap,
  type LandmarkName,
  type ReadLight,
  type Reading,
  type Scene,
  type Setup,
} from '@plinket/core';
import { Cancelled, type Pool } from '@plinket/engine';
import type { Clock } from './painter.ts';

/** What the page is told of a face. */
export interface FaceReport {
  type: 'reading';
  /** Number of the wish that it reads. */
  wish: number;
  /** Whose face; nothing where no character is in sight. */
  subject?: string;
  /** Nothing was read: the face is being looked at, landmarks are missing, or there is no face. */
  why?: { kind: 'looking' } | { kind: 'landmarks'; missing: LandmarkName[] } | { kind: 'nobody' };
  reading?: Reading;
  /** Light on each place of the map in stops against what the brightest get, −∞ where none falls; NaN where there is no face. */
  stops?: Float32Array;
  /** Followed by rays, shadows of the set among them; else looked up. */
  exact: boolean;
}

/** After so long without a change the reading is made exact, ms, with so many rays a place and light. */
const REST_MS = 350,
  SAMPLES = 12;

interface Known {
  key: string;
  light: FaceLight;
  cells: CellLight;
  exact: boolean;
}

/** Reads the face of a setup: looked up while a hand is at work, by rays when it rests. */
export class FaceReader {
  private readonly pool: Pool;
  private readonly clock: Clock;
  private readonly tell: (report: FaceReport) => void;
  /** The map that is there, and the one that is being made. */
  private map: { key: string; map: FaceMap } | undefined;
  private making: string | undefined;
  private readonly known = new Map<string, Known>();
  private last: { wish: number; setup: Setup; scene: Scene; subject: string; asset: CharacterAsset } | undefined;
  private resting: (() => void) | undefined;

  constructor(pool: Pool, clock: Clock, tell: (report: FaceReport) => void) {
    this.pool = pool;
    this.clock = clock;
    this.tell = tell;
  }

  /** Reads a compiled wish. `asset` finds a character that was loaded. */
  take(wish: number, setup: Setup, scene: Scene, asset: (sha256: string) => CharacterAsset | undefined): void {
    this.resting?.();
    const subject = orderOf(setup.subjects).find((id) => setup.subjects.items[id]!.visible);
    const character = subject === undefined ? undefined : asset(setup.subjects.items[subject]!.asset);
    if (subject === undefined || !character) {
      this.last = undefined;
      return this.tell({ type: 'reading', wish, exact: false, why: { kind: 'nobody' } });
    }
    this.last = { wish, setup, scene, subject, asset: character };
    const face = knownFace(setup, subject, character);
    if (!isWhole(face))
      return this.tell({ type: 'reading', wish, subject, exact: false, why: { kind: 'landmarks', missing: missingOf(face) } });
    const key = JSON.stringify([scene.geometry.key, subject, face.frame, face.points]);
    if (this.map?.key === key) {
      this.read();
      this.resting = this.clock.after(REST_MS, () => void this.follow());
      return;
    }
    if (this.making === key) return;
    this.making = key;
    this.tell({ type: 'reading', wish, subject, exact: false, why: { kind: 'looking' } });
    void makeFaceMap(this.pool.eyes, scene.geometry, face).then(
      (map) => {
        if (this.making !== key) return;
        this.making = undefined;
        this.map = { key, map };
        this.known.clear();
        const now = this.last;
        if (now) this.take(now.wish, now.setup, now.scene, () => now.asset);
      },
      (error: unknown) => {
        if (this.making === key) this.making = undefined;
        // another geometry came: its own wish asks again
        if (!(error instanceof Cancelled)) throw error;
      },
    );
  }

  /** What lights do, looked up where it is not known, and told. */
  private read(): void {
    const { wish, setup, scene, subject } = this.last!,
      { map } = this.map!;
    const here = new Set<string>();
    const lights: ReadLight[] = [];
    for (const light of scene.lights) {
      const item = setup.lights.items[light.id];
      if (!item) continue;
      let known = this.known.get(light.id);
      if (known?.key !== light.key) {
        const asked = faceLightOf(light, scene.geometry);
        if (!asked) continue;
        known = { key: light.key, light: asked, cells: lookUp(map, asked), exact: false };
        this.known.set(light.id, known);
      }
      here.add(light.id);
      const level = item.on ? luminance(...lightRadiance(item)) * item.diffuse : 0;
      const centre = 'place' in item ? placeInWorld(headAround(setup, item), item.place) : undefined;
      lights.push({ light: known.light, cells: known.cells, level, ...(centre ? { centre } : {}) });
    }
    for (const id of this.known.keys()) if (!here.has(id)) this.known.delete(id);
    const reading = readFace(map, lights, scene.camera);
    const stops = new Float32Array(CELLS).fill(NaN);
    let most = 0;
    for (let c = 0; c < CELLS; c++) {
      if (!map.there[c]) continue;
      stops[c] = lights.reduce((sum, l) => sum + l.level * l.cells.lit[c]!, 0);
      if (map.front[c]) most = Math.max(most, stops[c]!);
    }
    for (let c = 0; c < CELLS; c++) stops[c] = most > 0 ? Math.log2(stops[c]! / most) : stops[c]!;
    this.tell({ type: 'reading', wish, subject, reading, stops, exact: [...this.known.values()].every((k) => k.exact) });
  }

  /** Follows rays for the lights that were looked up, and reads again. */
  private async follow(): Promise<void> {
    const { last, map } = this;
    if (!last || !map) return;
    const asked = [...this.known].filter(([, k]) => !k.exact);
    if (!asked.length) return;
    const cells = Array.from({ length: CELLS }, (_, c) => c).filter((c) => map.map.there[c]);
    const of = (values: Float32Array) => Float32Array.from(cells.flatMap((c) => [values[c * 3]!, values[c * 3 + 1]!, values[c * 3 + 2]!]));
    const lights = asked.map(([id]) => last.scene.lights.find((l) => l.id === id)!);
    try {
      const { haze } = last.scene;
      const { open, lit } = await this.pool.read({
        points: of(map.map.points),
        normals: of(map.map.normals),
        lights,
        samples: SAMPLES,
        seed: 1,
        ...(haze ? { haze: haze.density } : {}),
      });
      asked.forEach(([, known], l) => {
        const exact: CellLight = { ...known.cells, open: new Float32Array(CELLS), lit: new Float32Array(CELLS) };
        cells.forEach((c, i) => {
          const at = (l * cells.length + i) * 3;
          exact.open[c] = luminance(open[at]!, open[at + 1]!, open[at + 2]!);
          exact.lit[c] = luminance(lit[at]!, lit[at + 1]!, lit[at + 2]!);
        });
        known.cells = exact;
        known.exact = true;
      });
    } catch (error) {
      if (error instanceof Cancelled) return;
      throw error;
    }
    if (this.last === last && this.map === map) this.read();
  }
}
