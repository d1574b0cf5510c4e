// The shelf of kits: whether its rigs, fitted to each of the three heads, draw there what they are kept for, by rays; and how soon the first picture of a kit
// stands on a character in the browser; how soon nine proofs hang on the wall.
import { readFileSync } from 'node:fs';
import { chromium } from '@playwright/test';
import {
  applyPatch,
  cellsOfJob,
  compileLights,
  directionOfLight,
  faceJob,
  faceLightOf,
  featuresOf,
  fitWishes,
  KEY_PATTERNS,
  lookUp,
  named,
  place,
  putKit,
  scoresOf,
  Tracer,
  type Kit,
  type Setup,
} from '@plinket/core';
import { demoKits } from '@plinket/demo';
import { loadKernel } from '@plinket/engine/node';
import { portraitOf, standOn, type Portrait } from '../../core/src/testing/portrait.ts';
import { ensureKernel, ensureWeb } from '../../scripts/build.mjs';
import { ensureChromium, FLAGS } from '../../scripts/lib/chromium.mjs';
import { serveFresh } from '../../scripts/lib/serve.mjs';
import { untilSamples, untilShown } from './page.ts';
import { median, report } from './report.ts';
import { wallTimes } from './wall-page.ts';

const SAMPLES = 24,
  TIMES = 12;
const { module } = loadKernel(false);
const rigs = demoKits().filter((k) => k.parts.rig && k.shows?.pattern && k.shows.key);

/** What a light draws alone, followed by rays. */
function drawn({ map, scene, kernel }: Portrait, setup: Setup, id: string): string | undefined {
  const light = compileLights(setup).find((l) => l.id === id)!,
    of = faceLightOf(light, scene.geometry)!;
  const cells = cellsOfJob(map, new Tracer(kernel, scene.geometry).read(faceJob(map, [light], SAMPLES)), 0, lookUp(map, of));
  return named(scoresOf(featuresOf(map, cells, directionOfLight(map, of))))?.pattern;
}

/** A ratio is kept within so many stops. */
const RATIO_STOPS = 0.25;
const ratios = { asked: 0, plain: 0, fitted: 0 };
const missed: string[] = [];
let asked = 0,
  plain = 0,
  fitted = 0;
for (const head of ['keeper', 'signaller', 'goat']) {
  const portrait = await portraitOf(readFileSync(new URL(`../../demo/assets/${head}.glb`, import.meta.url)), module!);
  const fits = (kit: Kit) => {
    const { setup, key, ids } = putKit(portrait.setup, kit, { how: 'replace' });
    const wished = kit.shows!.pattern,
      pattern = KEY_PATTERNS.find((p) => p === wished)!;
    asked++;
    if (drawn(portrait, setup, key!) === pattern) plain++;
    const wishes = fitWishes(setup, kit, ids);
    const fit = wishes.reduce((s, { id, wish }) => applyPatch(s, place(standOn(portrait, s), id, wish).patch), setup);
    const now = drawn(portrait, fit, key!);
    if (wishes.some(({ wish }) => wish.kind === 'ratio')) {
      const off = (s: Setup) => Math.abs(Math.log2((standOn(portrait, s).reading?.ratio?.value ?? Infinity) / kit.shows!.ratio!));
      ratios.asked++;
      if (off(setup) < RATIO_STOPS) ratios.plain++;
      if (off(fit) < RATIO_STOPS) ratios.fitted++;
    }
    if (now === pattern) fitted++;
    else missed.push(`${kit.name} on the ${head}: ${pattern} → ${now ?? 'none'}`);
  };
  rigs.forEach(fits);
}

await ensureKernel();
await ensureWeb();
const server = await serveFresh('bench');
const browser = await chromium.launch({ executablePath: ensureChromium(), args: FLAGS });
const took: number[] = [];
let wall: Awaited<ReturnType<typeof wallTimes>> | undefined;
try {
  const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
  await page.addInitScript("localStorage.setItem('plinket-tour', 'asked')");
  const { items } = (await (await fetch(`${server.url}/api/setups`)).json()) as { items: { id: string; name: string }[] };
  await page.goto(`${server.url}/setup/${items.find((s) => s.name.startsWith('The tide-goat'))!.id}`);
  await untilSamples(page, 2);
  await page.keyboard.press('k');
  for (let i = 0; i < TIMES; i++) {
    const { name } = rigs[i % rigs.length]!;
    await page.getByLabel('Find a kit').fill(name);
    // it is there as soon as it was asked for, and can be put on once it has come
    await page.getByRole('button', { name: `Put ${name} on`, exact: true, disabled: false }).waitFor();
    took.push(await untilShown(page, `document.querySelector('[aria-label="Put ${name} on"]').click()`));
    await page.waitForTimeout(700);
  }
  await page.close();
  wall = await wallTimes(browser, server.url);
} finally {
  await browser.close();
  await server.stop();
}
report(
  'kits',
  {
    pattern_kept: fitted / asked,
    plain_kept: plain / asked,
    ratio_kept: ratios.fitted / ratios.asked,
    preview_ms: median(took),
    wall_ms: median(wall!.within),
  },
  [
    `${rigs.length} rigs on three heads: ${plain} of ${asked} draw by rays what they are kept for as they are put on, ${fitted} once fitted; not: ${missed.join('; ') || 'none'}`,
    `of ${ratios.asked} that have a fill the ratio is within ${RATIO_STOPS} stop as they are put on in ${ratios.plain}, once fitted in ${ratios.fitted}`,
    `the first picture of a kit on the tide-goat: ${took.map((ms) => ms.toFixed(0)).join(', ')} ms`,
    `nine proofs among a thousand, until the last picture hangs: ${wall!.within.map((ms) => ms.toFixed(0)).join(', ')} ms; with the application: ${wall!.whole.map((ms) => ms.toFixed(0)).join(', ')} ms`,
  ],
);
