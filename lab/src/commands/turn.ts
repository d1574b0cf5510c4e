import { spawnSync } from 'node:child_process';
import { readFileSync } from 'node:fs';
import { basename, dirname, join } from 'node:path';
import {
  axisOf,
  clipFits,
  compile,
  figurePoints,
  frameName,
  framesOf,
  FRAME_RATES,
  inOrder,
  LEAST_TO_SMOOTH,
  PictureMaker,
  readCube,
  picturedOf,
  posedAt,
  turnedAt,
  turntableSchema,
  TURNTABLE_DEFAULTS,
  TURNING,
  writeExr,
  withOpenness,
  writePng,
  type Scene,
  type Setup,
  type Turntable,
} from '@plinket/core';
import { smoothFrame, TurnRenderer, type TurnFilms, type TurnOptions } from '@plinket/engine';
import { loadFilmMath, nodePool } from '@plinket/engine/node';
import { FrameFolder, keyOf } from '../frames.ts';
import { loadAssets, loadLightFiles, loadSetup } from '../load.ts';
import { positive, UsageError, whole } from '../usage.ts';
import { exrChannels, sizeOf } from './render.ts';

type Options = Record<string, string | undefined>;

/** Changes with what frames are made of in other ways than by their setup. */
const MADE = 1;

/** The setup's own plan, with what the command line says otherwise. @throws UsageError naming the option */
function planOf(setup: Setup, options: Options): Turntable {
  const plan = { ...(setup.turntable ?? TURNTABLE_DEFAULTS) };
  const turning = options['turning'];
  if (turning !== undefined) {
    const known = TURNING.find((t) => t === turning);
    if (!known) throw new UsageError(`--turning ${turning}: ${TURNING.join(', ')} can turn.`);
    plan.turning = known;
  }
  if (options['frames'] !== undefined) plan.frames = whole(options, 'frames', plan.frames, 10_000);
  if (options['fps'] !== undefined) {
    const fps = FRAME_RATES.find((f) => String(f) === options['fps']);
    if (!fps) throw new UsageError(`--fps ${options['fps']}: ${FRAME_RATES.join(', ')} frames a second can be had.`);
    plan.fps = fps;
  }
  const read = turntableSchema.safeParse(plan);
  if (read.success) return read.data;
  throw new UsageError(read.error.issues.map((i) => `--${i.path.join('.')} ${options[String(i.path[0])] ?? ''}: ${i.message}`).join('; '));
}

/** Frames that are named by numbers and ranges: `1,76,100-150`. @throws UsageError */
export function chosenFrames(only: string | undefined, all: number): number[] {
  if (only === undefined) return Array.from({ length: all }, (_, i) => i + 1);
  const chosen = new Set<number>();
  for (const word of only.split(',')) {
    const range = /^(\d+)(?:-(\d+))?$/.exec(word.trim());
    const from = Number(range?.[1]),
      to = Number(range?.[2] ?? from);
    if (!range || from < 1 || to > all || from > to) throw new UsageError(`--only ${word}: frames go from 1 to ${all}.`);
    for (let n = from; n <= to; n++) chosen.add(n);
  }
  return [...chosen].sort((a, b) => a - b);
}

/** A frame as a file. */
function bytesOf(films: TurnFilms, maker: PictureMaker, setup: Setup, exr: boolean): Uint8Array {
  if (!exr) {
    const { rgba, width, height } = maker.make(films, { setup });
    return writePng(width, height, Uint8Array.from(rgba), setup);
  }
  // light as it is: no plate behind it, no touches
  const shown = { setup: { ...setup, plate: { ...setup.plate, kind: 'none' as const } } };
  const { linear } = maker.linear(films, shown);
  return writeExr(films.width, films.height, exrChannels(setup, { set: films }, linear, [], maker.alpha(films, shown)));
}

/** What `ffmpeg` is asked for: frames that any player shows, with even sides as the pixel format wants them. */
export const movieArguments = (pattern: string, first: number, fps: number, movie: string): string[] =>
  [
    ['-y', '-loglevel', 'error', '-framerate', String(fps), '-start_number', String(first), '-i', pattern],
    ['-vf', 'pad=ceil(iw/2)*2:ceil(ih/2)*2', '-c:v', 'libx264', '-crf', '16', '-pix_fmt', 'yuv420p', '-movflags', '+faststart', movie],
  ].flat();

/** Joins frames into a movie; answers what is said where that cannot be. */
function joinFrames(out: { folder: string; name: string; digits: number }, first: number, fps: number, movie: string): string | undefined {
  const pattern = join(out.folder, `${out.name.replaceAll('%', '%%')}.%0${out.digits}d.png`);
  const ran = spawnSync('ffmpeg', movieArguments(pattern, first, fps, movie), { encoding: 'utf8', env: process.env });
  if ((ran.error as NodeJS.ErrnoException | undefined)?.code === 'ENOENT')
    return `No movie: ffmpeg is not installed (sudo apt-get install -y ffmpeg). The frames are there; begun again with --movie, they are only joined.`;
  if (ran.status !== 0) throw new UsageError(`${movie} was not written: ${ran.stderr.trim().split('\n').at(-1) ?? 'ffmpeg failed'}`);
  return undefined;
}

/** Renders the frames of a setup's turntable, those that are missing or outdated. */
export async function turnCommand(positional: string[], options: Options): Promise<void> {
  const { setup: kept, folder } = await loadSetup(positional[0], options['server']);
  const out = options['out'] ?? '';
  const extension = /\.(png|exr)$/i.exec(out)?.[1]?.toLowerCase();
  if (!extension) throw new UsageError('--out needs a name that ends in .png or .exr: frames are called name.0001.png.');
  const movie = options['movie'];
  if (movie !== undefined && (extension !== 'png' || !/\.(mp4|mov|mkv)$/i.test(movie)))
    throw new UsageError('--movie needs a name that ends in .mp4, .mov or .mkv, and frames that are PNG.');
  const plan = planOf(kept, options),
    frames = chosenFrames(options['only'], framesOf(plan));
  const digits = Math.max(whole(options, 'digits', 4, 9), String(framesOf(plan)).length);
  const workers = whole(options, 'workers', 0, 64);
  const share = options['smooth'] === undefined ? 1 : Math.min(1, positive(options, 'smooth'));
  const lut = options['lut'] === undefined ? undefined : readFileSync(options['lut'], 'utf8'),
    cube = lut === undefined ? undefined : readCube(lut, options['lut']);
  const setup: Setup = { ...kept, look: { ...kept.look, smooth: share, ...(cube ? { view: 'lut' as const } : {}) } };
  const wish: TurnOptions = {
    ...sizeOf(options),
    samples: Math.max(1, whole(options, 'samples', 64, 65535)),
    seed: whole(options, 'seed', 1, 2 ** 31),
    bounces: whole(options, 'bounces', 3, 16),
  };
  const name = basename(out).slice(0, -extension.length - 1),
    where = new FrameFolder(dirname(out), name);
  const folders = [...(options['assets'] ? [options['assets']] : []), folder];
  const assets = await loadAssets(setup, folders),
    files = loadLightFiles(setup, folders);
  const made = keyOf([MADE, picturedOf(setup), wish, lut, extension, plan.axis]);
  const source = (sha: string) => assets.get(sha),
    fits = clipFits(setup, plan, source);
  const at = (frame: number): Setup => posedAt(setup, plan, fits, frame);
  const keyAt = (frame: number): string =>
    keyOf([made, turnedAt(plan, [0, 0], frame), ...(plan.plays ? inOrder(at(frame).subjects).map((s) => s.pose?.time ?? 0) : [])]);
  const fileOf = (frame: number): string => frameName(name, frame, digits, extension);
  const wanted = frames.filter((n) => !where.has(fileOf(n), keyAt(n)));
  const began = Date.now();
  if (wanted.length) {
    // the axis is that of the figures as they stand
    const still = compile(setup, source, undefined, { files }),
      { axis } = axisOf(setup, figurePoints(still.geometry), plan);
    const sceneOf = (frame: number, last = still): Scene =>
      withOpenness(setup, compile(at(frame), source, last, { files, turned: turnedAt(plan, axis, frame) }));
    const pool = nodePool(workers ? { workers } : {}),
      turn = new TurnRenderer(pool, loadFilmMath());
    try {
      let maker: PictureMaker | undefined,
        done = 0;
      for await (const { frame, films } of turn.frames(wanted, sceneOf, wish)) {
        if (share > 0 && wish.samples >= LEAST_TO_SMOOTH) smoothFrame(films, wish.samples);
        maker ??= new PictureMaker(films.math, { gobo: (sha) => files.gobo(sha), cube: () => cube });
        where.write(fileOf(frame), keyAt(frame), bytesOf(films, maker, setup, extension === 'exr'));
        const left = ((Date.now() - began) / ++done) * (wanted.length - done);
        if (process.stderr.isTTY) process.stderr.write(`\rframe ${frame}, ${wanted.length - done} left, ${Math.ceil(left / 1000)} s   `);
      }
    } finally {
      turn.close();
      pool.close();
    }
    if (process.stderr.isTTY) process.stderr.write('\r                                        \r');
  }
  const said = movie === undefined ? undefined : joinFrames({ folder: dirname(out), name, digits }, frames[0]!, plan.fps, movie);
  if (said) console.error(said);
  const seconds = Math.round((Date.now() - began) / 100) / 10;
  console.log(
    JSON.stringify({
      frames: frames.length,
      traced: wanted.length,
      kept: frames.length - wanted.length,
      seconds,
      ...(movie && !said ? { movie } : {}),
    }),
  );
}
