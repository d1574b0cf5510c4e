// In the real browser with 3D graphics in software: the set view of the keeper's setup at about 800 × 500 is turned by hand, and
// the time from frame to frame is taken. The picture has come to rest before.
import { chromium } from '@playwright/test';
import { median, report } from './report.ts';
import { ensureChromium, FLAGS_3D } from '../../scripts/lib/chromium.mjs';
import { ensureKernel, ensureWeb } from '../../scripts/build.mjs';
import { serveFresh } from '../../scripts/lib/serve.mjs';

// a text, since the loader of this file names inner functions by a helper that the page does not have
const TURN = `(async () => {
  const canvas = document.querySelector('[data-testid=set-view] canvas');
  const { left, top, width, height } = canvas.getBoundingClientRect();
  const at = (type, x) => canvas.dispatchEvent(new PointerEvent(type, {
    pointerId: 1, pointerType: 'mouse', isPrimary: true, bubbles: true, button: type === 'pointermove' ? -1 : 0, buttons: 1,
    clientX: left + x, clientY: top + 40,
  }));
  canvas.setPointerCapture = canvas.releasePointerCapture = () => undefined;
  const pixel = new Uint8Array(4), gl = canvas.getContext('webgl2');
  const times = [];
  at('pointerdown', 40);
  for (let i = 1; i <= 40; i++) {
    const start = performance.now();
    at('pointermove', 40 + i * 8);
    // the frame is drawn in the next one that the page paints; asking for a pixel waits until it is there
    await new Promise((resolve) => requestAnimationFrame(() => requestAnimationFrame(resolve)));
    gl.readPixels(0, 0, 1, 1, gl.RGBA, gl.UNSIGNED_BYTE, pixel);
    times.push(performance.now() - start);
  }
  at('pointerup', 360);
  return { times, width, height };
})()`;

await ensureKernel();
await ensureWeb();
const server = await serveFresh('bench');
const browser = await chromium.launch({ executablePath: ensureChromium(), args: FLAGS_3D });
try {
  const page = await browser.newPage({ viewport: { width: 1472, height: 830 } });
  const setups = ((await (await fetch(`${server.url}/api/setups`)).json()) as { items: { id: string; name: string }[] }).items;
  await page.goto(`${server.url}/setup/${setups.find((s) => s.name.startsWith('The keeper'))!.id}`);
  await page.waitForFunction(() => Number(document.querySelector('[data-testid=progress]')?.getAttribute('data-samples')) >= 1, undefined, {
    timeout: 120_000,
  });
  await page.keyboard.press('v');
  await page.waitForFunction(() => document.querySelector('[data-testid=progress]')?.getAttribute('data-finished') === 'true', undefined, {
    timeout: 600_000,
  });
  const { times, width, height } = await page.evaluate<{ times: number[]; width: number; height: number }>(TURN);
  const ms = median(times.slice(5));
  report('set-view', { ms, width, height }, [
    `${ms.toFixed(0)} ms from a move of the hand to the frame, ${width} × ${height}; slowest ${Math.max(...times.slice(5)).toFixed(0)} ms`,
  ]);
} finally {
  await browser.close();
  await server.stop();
}
