// Memory: a frame of 1920 × 1080 with ten lights in this process, the films' heap after a window was resized 100 times, and the browser
// after opening and closing the Stage 20 times.
import { execFileSync } from 'node:child_process';
import { orderOf, balance, compile, Developer, setupGains, smoothInPlace } from '@plinket/core';
import { Renderer } from '@plinket/engine';
import { loadFilmMath, nodePool } from '@plinket/engine/node';
import { chromium } from '@playwright/test';
import { ensureKernel, ensureWeb } from '../../scripts/build.mjs';
import { ensureChromium, FLAGS } from '../../scripts/lib/chromium.mjs';
import { serveFresh } from '../../scripts/lib/serve.mjs';
import { report } from './report.ts';
import { demoScene, someLights } from './scene.ts';

const WIDTH = 1920,
  HEIGHT = 1080,
  OPENINGS = 20,
  EARLY = 5,
  RESIZES = 100;
const { setup, asset } = await demoScene();
const ten = someLights(setup, 10);
const math = loadFilmMath();
const pool = nodePool({ workers: 1 });
const renderer = new Renderer(pool, math);
await new Promise<void>((resolve, reject) => {
  renderer.onError = reject;
  renderer.onProgress = () => renderer.finished && resolve();
  renderer.update({
    number: 1,
    scene: compile(ten, () => asset),
    options: { width: WIDTH, height: HEIGHT, samples: 4, seed: 1, bounces: 3, coarse: true },
  });
});
const resident = process.memoryUsage().rss / 1e9;
smoothInPlace(
  math,
  renderer.set.guides,
  [...renderer.set.films.values()].map((f) => f.film),
  4,
);
const linear = math.floats(WIDTH * HEIGHT * 3),
  out = math.bytes(WIDTH * HEIGHT * 4);
const gains = setupGains(ten);
balance(
  math,
  orderOf(ten.lights).map((id) => ({ film: renderer.set.films.get(id)!.film, gain: gains[id]! })),
  linear,
);
new Developer(math).develop(linear, WIDTH, ten.look, out);
const smoothed = process.memoryUsage().rss / 1e9,
  films = math.used / 1e9;
const resized = await resizedHeap();
pool.close();

/**
 * What the films' heap has grown to after a window of eight lights was given 100 sizes that never came before, each until its first
 * picture was there, against the most that was in use at any of them: real memory, not what is counted as used.
 */
async function resizedHeap(): Promise<{ held: number; used: number }> {
  const heap = loadFilmMath();
  const hand = new Renderer(pool, heap);
  const scene = compile(someLights(setup, 8), () => asset);
  let used = 0;
  for (let i = 0; i < RESIZES; i++) {
    // up and down, as a window is pulled about
    const height = 300 + ((i * 37) % 200),
      width = Math.round(height * 0.8);
    await new Promise<void>((resolve, reject) => {
      hand.onError = reject;
      hand.onProgress = () => hand.set.presentable && resolve();
      hand.update({ number: i + 1, scene, options: { width, height, samples: 1, seed: 1, bounces: 1, coarse: true } });
    });
    used = Math.max(used, heap.used);
  }
  const held = heap.held;
  hand.close();
  return { held, used };
}

/** Resident memory of a process and all it started, megabytes. */
function tree(pid: number): number {
  const rows = execFileSync('ps', ['-eo', 'pid,ppid,rss'], { encoding: 'utf8' })
    .trim()
    .split('\n')
    .slice(1)
    .map((l) => l.trim().split(/\s+/).map(Number) as [number, number, number]);
  const family = new Set([pid]);
  for (let grew = true; grew;) {
    grew = false;
    for (const [p, parent] of rows)
      if (family.has(parent) && !family.has(p)) {
        family.add(p);
        grew = true;
      }
  }
  return rows.reduce((sum, [p, , rss]) => sum + (family.has(p) ? rss / 1024 : 0), 0);
}

await ensureKernel();
await ensureWeb();
const server = await serveFresh('bench');
const browserServer = await chromium.launchServer({
  executablePath: ensureChromium(),
  args: FLAGS,
});
const browser = await chromium.connect(browserServer.wsEndpoint());
const sizes: number[] = [],
  kept: number[] = [];
try {
  const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
  const [first] = ((await (await fetch(`${server.url}/api/setups`)).json()) as { items: { id: string }[] }).items;
  await page.goto(server.url);
  const devtools = await page.context().newCDPSession(page);
  for (let i = 0; i < OPENINGS; i++) {
    // inside the application: a reload would hide what is not released
    await page.getByRole('heading', { name: 'The keeper, first look' }).click();
    await page.waitForURL(`**/setup/${first!.id}`);
    // not waitForSelector: the handle that it answers would keep the closed Stage's elements
    await page.locator('[data-testid=progress]:not([data-samples="0"])').waitFor({ timeout: 60_000 });
    await page.getByRole('link', { name: 'All setups' }).click();
    await page.waitForURL(`${server.url}/`);
    await page.waitForTimeout(1500);
    if (i !== EARLY - 1 && i !== OPENINGS - 1) continue;
    // what the browser keeps in store, as it gives it back to a machine that needs it, is no growth
    kept.push(tree(browserServer.process().pid!));
    await devtools.send('Memory.simulatePressureNotification', { level: 'critical' });
    await page.waitForTimeout(3000);
    sizes.push(tree(browserServer.process().pid!));
  }
} finally {
  await browser.close();
  await browserServer.close();
  await server.stop();
}
// the first openings warm code and caches up
const [early, late] = sizes as [number, number];
report(
  'memory',
  {
    gigabytes: resident,
    smoothed_gigabytes: smoothed,
    films_gigabytes: films,
    growth_mb_per_opening: (late - early) / (OPENINGS - EARLY),
    resized_held_mb: resized.held / 1e6,
    resized_ratio: resized.held / resized.used,
  },
  [
    `${resident.toFixed(2)} GB resident for ${WIDTH} × ${HEIGHT} with ${orderOf(ten.lights).length} lights, ${smoothed.toFixed(2)} GB with noise removed (${films.toFixed(2)} GB of it films and planes)`,
    `films' heap after ${RESIZES} sizes of a window with 8 lights: ${(resized.held / 1e6).toFixed(0)} MB for at most ${(resized.used / 1e6).toFixed(0)} MB in use at one time`,
    `browser after ${EARLY} openings of the Stage ${early.toFixed(0)} MB, after ${OPENINGS} ${late.toFixed(0)} MB; before it gave back what it keeps in store ${kept.map((v) => v.toFixed(0)).join(', ')}`,
  ],
);
process.exit(0);
