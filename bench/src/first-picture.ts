// In the real browser: a light is moved by its key, and the time until the coarse picture of the 640 × 360 frame with the
// light at its new place has been painted.
import { chromium } from '@playwright/test';
import { untilSamples, untilShown } from './page.ts';
import { median, report } from './report.ts';
import { ensureChromium, FLAGS } from '../../scripts/lib/chromium.mjs';
import { ensureKernel, ensureWeb } from '../../scripts/build.mjs';
import { serveFresh } from '../../scripts/lib/serve.mjs';

await ensureKernel();
await ensureWeb();
const server = await serveFresh('bench');
const browser = await chromium.launch({
  executablePath: ensureChromium(),
  args: FLAGS,
});
try {
  // a window in which a 16 : 9 picture is 640 × 360 pixels large
  const page = await browser.newPage({ viewport: { width: 1328, height: 800 } });
  const [setup] = ((await (await fetch(`${server.url}/api/setups`)).json()) as { items: { id: string; revision: number }[] }).items;
  await fetch(`${server.url}/api/setups/${setup!.id}`, {
    method: 'PATCH',
    headers: { 'Content-Type': 'application/merge-patch+json', 'If-Match': `"${setup!.revision}"` },
    body: JSON.stringify({ camera: { aspect: 1.7778 } }),
  });
  await page.goto(`${server.url}/setup/${setup!.id}`);
  await untilSamples(page, 1);
  const size = await page.evaluate(() => {
    const { width, height } = document.querySelector<HTMLCanvasElement>('[data-testid=picture]')!;
    return [width, height] as const;
  });
  await page.keyboard.press('1');
  const runs: number[] = [];
  for (let i = 0; i < 12; i++) {
    const ms = await untilShown(page, "window.dispatchEvent(new KeyboardEvent('keydown', { key: 'ArrowRight', shiftKey: true }))");
    runs.push(ms);
    await page.waitForTimeout(400);
  }
  report('first-picture', { ms: median(runs.slice(2)), width: size[0], height: size[1] }, [
    `${median(runs.slice(2)).toFixed(0)} ms from the key to the painted coarse picture; frame ${size[0]} × ${size[1]}; all runs ${runs.map((r) => r.toFixed(0)).join(' ')}`,
  ]);
} finally {
  await browser.close();
  await server.stop();
}
