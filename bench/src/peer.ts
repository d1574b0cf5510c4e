// The same bust, camera, four rectangle lights and bounces in the npm package three-gpu-pathtracer (WebGL in software, since this
// machine has no graphics card) and here, both in headless Chromium's machine: time to the first sample, time of each more.
import { orderOf, placeInWorld, setupHead, Tracer, tilesOf, type RectangleLight } from '@plinket/core';
import { attachKernel, buildAccel } from '@plinket/kernel';
import { loadKernel } from '@plinket/engine/node';
import { chromium } from '@playwright/test';
import { createServer } from 'vite';
import { fileURLToPath } from 'node:url';
import { ensureChromium } from '../../scripts/lib/chromium.mjs';
import type { PeerScene } from '../peer/page.ts';
import { median, report, time } from './report.ts';
import { demoScene, someLights } from './scene.ts';

interface PeerWindow {
  runPeer(what: PeerScene): Promise<{ first: number; sample: number }>;
}

const WIDTH = 160,
  HEIGHT = 200;
const { setup: demo, scene: whole, asset } = await demoScene();
const setup = someLights(demo, 5);
const head = setupHead(setup);
const lights = orderOf(setup.lights)
  .slice(0, 4)
  .map((id) => setup.lights.items[id] as RectangleLight);

const { position, target, focal } = setup.camera;
const wanted: PeerScene = {
  width: WIDTH,
  height: HEIGHT,
  bounces: 3,
  camera: { position, target, fov: (2 * Math.atan(12 / focal) * 180) / Math.PI },
  lights: lights.map((l) => ({ position: placeInWorld(head, l.place), target: head.origin, width: l.width, height: l.height })),
  parts: asset.parts
    .filter((p) => p.material.transmission === 0)
    .map((p) => ({
      positions: [...p.positions],
      normals: [...p.normals],
      indices: [...p.indices],
      base: p.material.base,
      roughness: p.material.roughness,
    })),
};

const vite = await createServer({
  root: fileURLToPath(new URL('../peer/', import.meta.url)),
  configFile: false,
  logLevel: 'error',
  server: { host: '127.0.0.1' },
});
await vite.listen();
const browser = await chromium.launch({
  executablePath: ensureChromium(),
  args: [
    '--no-sandbox',
    '--use-angle=swiftshader',
    '--enable-unsafe-swiftshader',
    '--ignore-gpu-blocklist',
    '--disable-quic',
    '--no-first-run',
  ],
});
let theirs: { first: number; sample: number };
try {
  const page = await browser.newPage();
  await page.goto(vite.resolvedUrls!.local[0]!);
  await page.waitForFunction('window.runPeer !== undefined', undefined, { timeout: 120_000 });
  page.setDefaultTimeout(600_000);
  theirs = await page.evaluate((what) => (window as unknown as PeerWindow).runPeer(what), wanted);
} finally {
  await browser.close();
  await vite.close();
}

// ours: one core, hierarchy included in the first sample as theirs is
const { module } = loadKernel(false);
const rectangles = whole.lights.filter((l) => l.kind === 'rectangle').slice(0, 4);
const sample = (tracer: Tracer, n: number) => {
  for (const tile of tilesOf(WIDTH, HEIGHT))
    tracer.trace({ camera: whole.camera, width: WIDTH, height: HEIGHT, tile, from: n, to: n + 1, seed: 1, bounces: 3, lights: rectangles });
};
let tracer: Tracer;
const first = time(() => {
  tracer = new Tracer(attachKernel(module!, buildAccel(module!, whole.geometry.mesh)), whole.geometry);
  sample(tracer, 0);
});
const more = [1, 2, 3, 4, 5].map((n) => time(() => sample(tracer, n)));
report('peer', { first_sample_ratio: theirs.first / first, sample_ratio: theirs.sample / median(more) }, [
  `first sample: theirs ${(theirs.first / 1000).toFixed(1)} s, ours ${(first / 1000).toFixed(2)} s; each more: theirs ${(theirs.sample / 1000).toFixed(2)} s, ours ${(median(more) / 1000).toFixed(2)} s`,
  `${WIDTH} × ${HEIGHT}, ${wanted.lights.length} rectangle lights, 3 bounces; their pass takes one light a vertex, ours all, so ours is also the less noisy`,
]);
process.exit(0);
