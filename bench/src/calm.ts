// How soon the picture is calm enough to judge: the demo's portrait in the browser from its first picture until the noise is below 2 %, and
// what a ray costs there against one core of this machine doing nothing else.
import { compile } from '@plinket/core';
import { render } from '@plinket/engine';
import { loadFilmMath, nodePool } from '@plinket/engine/node';
import { chromium } from '@playwright/test';
import { ensureKernel, ensureWeb } from '../../scripts/build.mjs';
import { ensureChromium, FLAGS } from '../../scripts/lib/chromium.mjs';
import { serveFresh } from '../../scripts/lib/serve.mjs';
import { report } from './report.ts';
import { demoScene } from './scene.ts';

/** 2 % of full scale, in steps of 8 bit. */
const CALM = 0.02 * 255;
/** Longest that is waited, s. */
const PATIENCE = 120;

interface Watched {
  seconds: number;
  rays: number;
  samples: number;
  width: number;
  height: number;
}
// a text, since the loader of this file names inner functions by a helper that the page does not have
const WATCH = `(async () => {
  const at = (name) => document.querySelector('[data-testid=progress]')?.getAttribute('data-' + name);
  while (!(Number(at('shown')) >= 1)) await new Promise((resolve) => requestAnimationFrame(resolve));
  const start = performance.now(), first = Number(at('rays'));
  const noise = () => (at('noise') ? Number(at('noise')) : Infinity);
  while (!(noise() < ${CALM}) && performance.now() - start < ${PATIENCE * 1000}) await new Promise((resolve) => setTimeout(resolve, 50));
  const { width, height } = document.querySelector('[data-testid=picture]');
  return { seconds: (performance.now() - start) / 1000, rays: Number(at('rays')) - first, samples: Number(at('samples')), width, height };
})()`;

await ensureKernel();
await ensureWeb();
const server = await serveFresh('bench');
const browser = await chromium.launch({ executablePath: ensureChromium(), args: FLAGS });
let seen: Watched;
try {
  const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
  const { items } = (await (await fetch(`${server.url}/api/setups`)).json()) as { items: { id: string; name: string }[] };
  await page.goto(`${server.url}/setup/${items.find((s) => s.name.startsWith('The keeper'))!.id}`);
  seen = await page.evaluate<Watched>(WATCH);
} finally {
  await browser.close();
  await server.stop();
}

const { setup, asset } = await demoScene();
const pool = nodePool({ workers: 1 });
const scene = compile(setup, () => asset);
const math = loadFilmMath();
const run = (samples: number) =>
  render(scene, { width: seen.width, height: seen.height, samples, seed: 1, bounces: 3 }, { pool, math }).then((set) => set.close());
// the first picture warms the worker
await run(1);
const before = pool.rays.walk + pool.rays.shadow,
  start = performance.now();
await run(8);
const perRay = (performance.now() - start) / 1000 / (pool.rays.walk + pool.rays.shadow - before);
pool.close();
const over = seen.seconds / seen.rays / perRay;
report('calm', { seconds: seen.seconds, over_node: over }, [
  `${seen.seconds.toFixed(1)} s from the first picture to 2 % noise at ${seen.samples} samples or more, ${seen.width} × ${seen.height}, five lights`,
  `${(seen.rays / 1e6).toFixed(1)} million rays, each ${over.toFixed(2)} times what it takes one core that does nothing else`,
]);
process.exit(0);
