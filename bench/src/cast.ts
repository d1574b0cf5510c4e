// What the cast costs: a sample of the keeper's bust with strands and pictures over one of the bust that it was before (from this
// repository's history), in pairs; in the real browser, with nothing known to it, the Stage from its address to a coarse picture; and the
// bytes of all files.
import { execFileSync } from 'node:child_process';
import { statSync } from 'node:fs';
import { chromium } from '@playwright/test';
import { compile, readGlb, Tracer, type CharacterAsset } from '@plinket/core';
import { CHARACTER_FILES, demoSetup } from '@plinket/demo';
import { loadKernel } from '@plinket/engine/node';
import { attachKernel, buildAccel } from '@plinket/kernel';
import { ensureKernel, ensureWeb } from '../../scripts/build.mjs';
import { ensureChromium, FLAGS } from '../../scripts/lib/chromium.mjs';
import { root } from '../../scripts/lib/paths.mjs';
import { serveFresh } from '../../scripts/lib/serve.mjs';
import { OPENED } from './page.ts';
import { median, report } from './report.ts';
import { demoScene, sampleTimer } from './scene.ts';

/** The keeper's file until 2026-11-30: 117 000 triangles, hair as a solid, no pictures. */
const BEFORE = '0a095ddec64be2be804c4b88f32d8af083a4546b';
const PAIRS = 9,
  OPENINGS = 5,
  SIZE = [320, 400] as const;

function before(): Uint8Array {
  try {
    return Uint8Array.from(
      execFileSync('git', ['cat-file', 'blob', BEFORE], { cwd: root, maxBuffer: 1e8, stdio: ['ignore', 'pipe', 'ignore'] }),
    );
  } catch {
    throw new Error('The bust of before is not in this copy of the repository: it needs the history (git clone without --depth).');
  }
}

await ensureKernel();
const { module } = loadKernel(false);
const timerOf = (asset: CharacterAsset): (() => number) => {
  const scene = compile(demoSetup('0'.repeat(64), asset.head), () => asset);
  const timer = sampleTimer(new Tracer(attachKernel(module!, buildAccel(module!, scene.geometry.mesh)), scene.geometry), ...SIZE);
  timer(scene);
  return () => timer(scene);
};
const { asset } = await demoScene();
const old = await readGlb(before(), 'keeper-before.glb');
const now = timerOf(asset),
  then = timerOf(old);
const ratios: number[] = [],
  times: number[] = [];
for (let i = 0; i < PAIRS; i++) {
  const [a, b] = i % 2 ? [now(), then()] : [then(), now()].reverse();
  ratios.push(a! / b!);
  times.push(a!);
}

await ensureWeb();
const server = await serveFresh('bench');
const openings: number[] = [];
try {
  const setups = ((await (await fetch(`${server.url}/api/setups`)).json()) as { items: { id: string; name: string }[] }).items;
  const address = `${server.url}/setup/${setups.find((s) => s.name === 'The keeper, first look')!.id}`;
  for (let i = 0; i < OPENINGS; i++) {
    const browser = await chromium.launch({ executablePath: ensureChromium(), args: FLAGS });
    const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
    await page.goto(address, { waitUntil: 'commit' });
    openings.push(await page.evaluate<number>(OPENED));
    await browser.close();
  }
} finally {
  await server.stop();
}
const bytes = CHARACTER_FILES.reduce((n, { path }) => n + statSync(path).size, 0);
report('cast', { strand_ratio: median(ratios), first_ms: median(openings), bytes, megabytes: bytes / 1e6 }, [
  `a sample of ${SIZE.join(' × ')}: ${median(times).toFixed(0)} ms with ${asset.triangles} triangles, over the bust of before with ${old.triangles}: ${ratios.map((r) => r.toFixed(2)).join(' ')}`,
  `the Stage, nothing known to the browser, to a coarse picture: ${openings.map((t) => t.toFixed(0)).join(', ')} ms`,
  CHARACTER_FILES.map(({ name, path }) => `${name} ${(statSync(path).size / 1e6).toFixed(2)} MB`).join(', '),
]);
