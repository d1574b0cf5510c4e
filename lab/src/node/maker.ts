// A frame from its task to its files: the same way from setup to picture as everywhere else.
import { rmSync } from 'node:fs';
import { basename } from 'node:path';
import {
  axisOf,
  clipFits,
  compile,
  figurePoints,
  filmsFile,
  frameSize,
  inOrder,
  laterBy,
  LEAST_TO_SMOOTH,
  LightFileShelf,
  lightFilesOf,
  parseSetup,
  PictureMaker,
  posedAt,
  readCube,
  readFilms,
  readGlb,
  turnedAt,
  withOpenness,
  writePng,
  type CharacterAsset,
  type Cube,
  type FilmSource,
  type Scene,
  type Setup,
} from '@plinket/core';
import type { Task } from '@plinket/contract';
import { smoothFrame, TurnRenderer, type Pool, type TurnFilms } from '@plinket/engine';
import { decoders, loadFilmMath } from '@plinket/engine/node';
import type { FileCache } from './cache.ts';
import { inflated, writeExrFile } from './exr-file.ts';

/** What comes of a frame: a PNG as bytes, an EXR as a file aside. */
export interface Made {
  files: { ending: 'png' | 'exr'; from: Uint8Array | { path: string } }[];
  picture: Uint8Array;
  words: string[];
}
export interface MakeHow {
  signal: AbortSignal;
  progress: (done: number) => void;
}
/** Who makes frames; tests have others than the real one. */
export interface Maker {
  make(task: Task, how: MakeHow): Promise<Made>;
  /** Gives back what is only needed while frames come. */
  rest?(): void;
  close(): void;
}

/** The longer side of the small picture of a frame, pixels. */
const SMALL = 320;
/** Characters that are kept read: jobs go through few of them. */
const MOST_KEPT = 12;

/** Renders frames; keeps what the next frame may need: characters that were read, meshes and hierarchies in the workers, films. */
export class FrameMaker implements Maker {
  private readonly cache: FileCache;
  private readonly math = loadFilmMath();
  private readonly newPool: () => Pool;
  private tracing: { turn: TurnRenderer; pool: Pool } | undefined;
  private readonly characters = new Map<string, CharacterAsset>();
  /** What the frame in hand names for its picture. */
  private shown: { shelf: LightFileShelf; cube: Cube | undefined } = { shelf: new LightFileShelf(), cube: undefined };
  /** One for all frames: its room stays. */
  private readonly maker = new PictureMaker(this.math, { gobo: (sha) => this.shown.shelf.gobo(sha), cube: () => this.shown.cube });
  private last: Scene | undefined;

  /** @param newPool makes the workers when the first frame is traced */
  constructor(cache: FileCache, newPool: () => Pool) {
    this.cache = cache;
    this.newPool = newPool;
  }

  /** Bytes of films and pictures that are held. */
  get bytesInUse(): number {
    return this.math.used;
  }

  private get turn(): TurnRenderer {
    if (!this.tracing) {
      const pool = this.newPool();
      this.tracing = { pool, turn: new TurnRenderer(pool, this.math) };
    }
    return this.tracing.turn;
  }

  async make(task: Task, { signal, progress }: MakeHow): Promise<Made> {
    const setup = parseSetup(JSON.parse(Buffer.from(await this.cache.get(task.setup, signal)).toString('utf8')));
    const shelf = await this.lightFiles(setup, signal);
    this.shown = { shelf, cube: await this.cube(setup, signal) };
    if (!task.films) return this.finish(task, ...(await this.trace(task, setup, shelf, { signal, progress })));
    const films = await readFilms(await this.cache.get(task.films, signal), this.math, inflated);
    try {
      return await this.finish(task, films, setup, ['balanced, no ray was traced']);
    } finally {
      films.release();
    }
  }

  private async trace(
    task: Task,
    still: Setup,
    files: LightFileShelf,
    { signal, progress }: MakeHow,
  ): Promise<[FilmSource, Setup, string[]]> {
    for (const { asset, visible } of inOrder(still.subjects)) if (visible) await this.character(asset, signal);
    const source = (sha: string) => this.characters.get(sha);
    const { turn: plan, frame } = task;
    let setup = laterBy(still, task.later ?? 0, (asset, clip) => source(asset)?.rig?.clips.find((c) => c.name === clip)?.duration);
    let scene: Scene;
    if (plan) {
      const standing = compile(still, source, this.last, { files }),
        { axis } = axisOf(still, figurePoints(standing.geometry), plan);
      setup = posedAt(still, plan, clipFits(still, plan, source), frame);
      scene = compile(setup, source, standing, { files, turned: turnedAt(plan, axis, frame) });
    } else scene = compile(setup, source, this.last, { files });
    this.last = scene;
    const { samples, bounces, seed, side } = task.quality;
    const { turn } = this;
    turn.onProgress = progress;
    const frames = turn.frames(
      [frame],
      () => withOpenness(setup, scene),
      { ...frameSize(setup, side), samples, bounces, seed, mattes: task.outputs.passes.includes('cryptomatte') },
      signal,
    );
    let films: TurnFilms;
    try {
      films = (await frames.next()).value!.films;
      await frames.return(undefined);
    } catch (error) {
      // what nobody wants any more is not traced on
      this.rest();
      throw error;
    }
    if (setup.look.smooth > 0 && samples >= LEAST_TO_SMOOTH) smoothFrame(films, samples);
    return [films, setup, [`${films.width} × ${films.height}, ${samples} samples, ${scene.lights.length} lights`]];
  }

  private async finish(task: Task, films: FilmSource, setup: Setup, words: string[]): Promise<Made> {
    const { outputs } = task,
      { maker } = this,
      { width, height } = films,
      made: Made['files'] = [];
    if (outputs.exr) {
      // light as it is: no plate behind it, no touches
      const shown = { setup: { ...setup, plate: { ...setup.plate, kind: 'none' as const } } };
      const { linear } = maker.linear(films, shown);
      const path = this.cache.aside(`${basename(task.lease)}.exr`);
      const names = this.last && { objects: this.last.geometry.objects, materials: this.last.geometry.materials.map((m) => m.name) };
      const what = filmsFile(films, setup, {
        linear,
        alpha: maker.alpha(films, shown),
        passes: outputs.passes,
        ...(names ? { names } : {}),
      });
      await writeExrFile(path, { width, height, ...what }, this.math.stored);
      made.push({ ending: 'exr', from: { path } });
    }
    if (outputs.png === 16) {
      const { data } = maker.deep(films, { setup });
      made.push({ ending: 'png', from: writePng(width, height, data, setup) });
    }
    const { rgba } = maker.make(films, { setup });
    if (outputs.png === 8) made.push({ ending: 'png', from: writePng(width, height, Uint8Array.from(rgba), setup) });
    return { files: made, picture: smaller(rgba, width, height), words };
  }

  private async character(sha256: string, signal: AbortSignal): Promise<void> {
    const known = this.characters.get(sha256);
    this.characters.delete(sha256);
    this.characters.set(sha256, known ?? (await readGlb(await this.cache.get(sha256, signal), sha256, decoders)));
    for (const old of [...this.characters.keys()].slice(0, -MOST_KEPT)) this.characters.delete(old);
  }

  private async lightFiles(setup: Setup, signal: AbortSignal): Promise<LightFileShelf> {
    const shelf = new LightFileShelf();
    for (const { asset } of lightFilesOf(setup)) if (!shelf.has(asset)) shelf.add(asset, await this.cache.get(asset, signal));
    return shelf;
  }

  private async cube({ look }: Setup, signal: AbortSignal): Promise<Cube | undefined> {
    if (look.view !== 'lut' || !look.lut) return undefined;
    return readCube(Buffer.from(await this.cache.get(look.lut, signal)).toString('utf8'), look.lut);
  }

  rest(): void {
    this.tracing?.turn.close();
    this.tracing?.pool.close();
    this.tracing = undefined;
    this.last = undefined;
    this.characters.clear();
  }

  close(): void {
    this.rest();
  }
}

/** Puts away the files that a frame left aside. */
export function dropAside({ files }: Made): void {
  for (const { from } of files) if (!(from instanceof Uint8Array)) rmSync(from.path, { force: true });
}

/** A small PNG of a picture: means over blocks of its pixels. */
function smaller(rgba: Uint8ClampedArray<ArrayBufferLike>, width: number, height: number): Uint8Array {
  const k = Math.max(1, Math.ceil(Math.max(width, height) / SMALL)),
    w = Math.max(1, Math.floor(width / k)),
    h = Math.max(1, Math.floor(height / k)),
    out = new Uint8Array(w * h * 4);
  for (let y = 0; y < h; y++)
    for (let x = 0; x < w; x++)
      for (let c = 0; c < 4; c++) {
        let sum = 0;
        for (let j = 0; j < k; j++) for (let i = 0; i < k; i++) sum += rgba[((y * k + j) * width + x * k + i) * 4 + c]!;
        out[(y * w + x) * 4 + c] = Math.round(sum / (k * k));
      }
  return writePng(w, h, out);
}
