// What a frame of a turn costs against a still of the same samples: of a figure that turns, of a dome that turns, and where nothing changed; how soon the page plays a turn.
import { createHash } from 'node:crypto';
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { chromium } from '@playwright/test';
import {
  applyPatch,
  axisOf,
  compile,
  figurePoints,
  readGlb,
  Tracer,
  turnedAt,
  TURNTABLE_DEFAULTS,
  type Scene,
  type Setup,
  type Turntable,
} from '@plinket/core';
import { demoSetup, keeperFile } from '@plinket/demo';
import { render, TurnRenderer } from '@plinket/engine';
import { loadFilmMath, loadKernel, nodePool } from '@plinket/engine/node';
import { attachKernel, buildAccel } from '@plinket/kernel';
import { run } from '../../lab/src/cli.ts';
import { ensureKernel, ensureWeb } from '../../scripts/build.mjs';
import { ensureChromium, FLAGS } from '../../scripts/lib/chromium.mjs';
import { serveFresh } from '../../scripts/lib/serve.mjs';
import { median, report } from './report.ts';

const FRAMES = 48,
  SIZE = { width: 320, height: 180 },
  WORKERS = 2,
  STILLS = 5,
  PLAYS = 3;
const options = { ...SIZE, samples: 4, seed: 1, bounces: 3 };

await ensureKernel();
const glb = readFileSync(keeperFile);
const asset = await readGlb(glb, 'keeper.glb');
const plain = demoSetup(createHash('sha256').update(glb).digest('hex'), asset.head);
// a dome that is a picture: one that is even looks the same however it is turned
const setup: Setup = applyPatch(plain, {
  lights: {
    items: {
      dome: {
        tilt: 40,
        fill: {
          kind: 'gradient',
          stops: [
            { elevation: -90, colour: [0.1, 0.1, 0.15] },
            { elevation: 10, colour: [1, 0.9, 0.8] },
          ],
        },
      },
    },
  },
});
const still = compile(setup, () => asset);
const pool = nodePool({ workers: WORKERS }),
  math = loadFilmMath();

/** Seconds that frames of a plan take, from the setup on. */
async function seconds(plan: Partial<Turntable>, frames: readonly number[]): Promise<number> {
  const table: Turntable = { ...TURNTABLE_DEFAULTS, frames: FRAMES, ...plan };
  const { axis } = axisOf(setup, figurePoints(still.geometry), table);
  const turn = new TurnRenderer(pool, math);
  const sceneOf = (n: number, last = still): Scene => compile(setup, () => asset, last, { turned: turnedAt(table, axis, n) });
  const start = performance.now();
  for await (const _ of turn.frames(frames, sceneOf, options));
  turn.close();
  return (performance.now() - start) / 1000;
}

/** Seconds of a still by itself: the setup compiled, its mesh brought to the workers, which have its parts, all of it traced. */
async function oneStill(seed: number): Promise<number> {
  const start = performance.now();
  const set = await render(
    compile(setup, () => asset),
    { ...options, seed },
    { pool, math },
  );
  set.close();
  return (performance.now() - start) / 1000;
}

const all = Array.from({ length: FRAMES }, (_, i) => i + 1);
await seconds({}, [1]);
// in turns, so that both meet the same moods of the machine
const stills: number[] = [],
  figure: number[] = [],
  domes: number[] = [];
const part = FRAMES / STILLS;
for (let i = 0; i < STILLS; i++) {
  const some = all.slice(Math.round(i * part), Math.round((i + 1) * part));
  // another seed each time: workers remember what their camera's rays met
  stills.push(await oneStill(2 * i + 1), await oneStill(2 * i + 2));
  figure.push((await seconds({ turning: 'figure' }, some)) / some.length);
  domes.push((await seconds({ turning: 'dome' }, some)) / some.length);
}
pool.close();
const one = median(stills),
  mean = (v: number[]) => v.reduce((s, x) => s + x, 0) / v.length;

/** Share of a tracer's time that goes to what the camera's rays meet: the most that could be saved by keeping such hits from frame to frame. */
function cameraShare(): number {
  const { geometry, camera, lights } = still,
    { width, height } = SIZE,
    tile = { x: 0, y: 0, width: width / 5, height: height / 4 };
  const { module } = loadKernel(false),
    kernel = attachKernel(module!, buildAccel(module!, geometry.mesh)),
    closest = kernel.closest.bind(kernel);
  let first = false,
    met = 0;
  kernel.closest = (count) => {
    const start = performance.now();
    closest(count);
    if (first) met += performance.now() - start;
    first = false;
  };
  const tracer = new Tracer(kernel, geometry);
  let traced = 0;
  // the first samples prepare what is kept; those after the eighth are not remembered
  for (let from = 0; from < 16; from++)
    for (let y = 0; y < height; y += tile.height)
      for (let x = 0; x < width; x += tile.width) {
        first = true;
        if (from === 8 && x === 0 && y === 0) traced = met = 0;
        const start = performance.now();
        tracer.trace({ ...options, camera, lights, tile: { ...tile, x, y }, from, to: from + 1 });
        traced += performance.now() - start;
      }
  return met / traced;
}
const share = cameraShare();

// the command line, begun again where nothing changed
const folder = mkdtempSync(join(tmpdir(), 'plinket-bench-'));
writeFileSync(join(folder, 'turn.json'), JSON.stringify(setup));
const command = [
  'turn',
  join(folder, 'turn.json'),
  '--out',
  join(folder, 'f/keeper.png'),
  '--size',
  '320x180',
  '--samples',
  '1',
  '--frames',
  String(FRAMES),
];
if ((await run([...command, '--workers', String(WORKERS)])) !== 0) throw new Error('the frames were not made');
const again = performance.now();
if ((await run([...command, '--workers', String(WORKERS)])) !== 0) throw new Error('the frames were not found again');
const rerun = performance.now() - again;
rmSync(folder, { recursive: true });

// the page, until a play-through of 300 frames runs: every eighth of them traced
await ensureWeb();
const server = await serveFresh('bench');
const browser = await chromium.launch({ executablePath: ensureChromium(), args: FLAGS });
const plays: number[] = [];
try {
  const { items } = (await (await fetch(`${server.url}/api/setups`)).json()) as { items: { id: string; name: string }[] };
  const { id } = items.find((s) => s.name.startsWith('The keeper'))!;
  for (let i = 0; i < PLAYS; i++) {
    const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
    const opened = performance.now();
    await page.goto(`${server.url}/turntable/${id}`);
    await page.getByText('played after').waitFor({ timeout: 300_000 });
    plays.push((performance.now() - opened) / 1000);
    await page.close();
  }
} finally {
  await browser.close();
  await server.stop();
}

report(
  'turntable',
  { frame_vs_still: mean(figure) / one, dome_vs_still: mean(domes) / one, rerun_ms: rerun, play_s: median(plays), camera_share: share },
  [
    `${SIZE.width} × ${SIZE.height}, ${options.samples} samples, ${setup.name}: a still ${stills.map((s) => s.toFixed(2)).join(', ')} s`,
    `${FRAMES} frames of the figure ${figure.map((s) => s.toFixed(2)).join(', ')} s each, of the dome ${domes.map((s) => s.toFixed(2)).join(', ')} s each`,
    `the page of a turn of 300 frames, from its address until it plays: ${plays.map((s) => s.toFixed(1)).join(', ')} s`,
  ],
);
