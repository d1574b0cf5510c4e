// The table of what lights reach in the real browser: sixty lights by three hundred objects scrolled both ways, and the time from a mark to the first picture
// with it on the demo's portrait.
import { chromium } from '@playwright/test';
import { collected, type Setup } from '@plinket/core';
import { ensureKernel, ensureWeb } from '../../scripts/build.mjs';
import { ensureChromium, FLAGS } from '../../scripts/lib/chromium.mjs';
import { serveFresh } from '../../scripts/lib/serve.mjs';
import { untilSamples, untilShown } from './page.ts';
import { median } from './report.ts';
import { manyBalls, someLights } from './scene.ts';

const LIGHTS = 60,
  BALLS = 200,
  KEEPERS = 8;

// texts, since the loader of this file names inner functions by a helper that the page does not have
const WATCH = `(() => {
  const watch = { frames: [], on: true };
  let last = performance.now();
  const look = (now) => {
    watch.frames.push(now - last);
    last = now;
    if (watch.on) requestAnimationFrame(look);
  };
  requestAnimationFrame(look);
  window.watch = watch;
})()`;
const RESULT = `(watch.on = false, watch.frames.slice(2))`;
/** A wheel's notch, pixels, and how many of them in a second, each way. */
const NOTCH = 120,
  EVERY_MS = 50,
  NOTCHES = 60;
/** Longest frame while the table is scrolled, and from a mark to its picture; milliseconds. */
export async function reachPage(): Promise<{ table_ms: number; late: number; link_ms: number; links: number[]; objects: string }> {
  await ensureKernel();
  await ensureWeb();
  const server = await serveFresh('bench');
  const browser = await chromium.launch({ executablePath: ensureChromium(), args: FLAGS });
  try {
    const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
    await page.addInitScript("localStorage.setItem('plinket-tour', 'asked')");
    const { items } = (await (await fetch(`${server.url}/api/setups`)).json()) as { items: { id: string; name: string }[] };
    const { id } = items.find((s) => s.name === 'The keeper, first look')!;
    const { document } = (await (await fetch(`${server.url}/api/setups/${id}`)).json()) as { document: Setup };
    // a mark, from the press to the picture
    await page.goto(`${server.url}/setup/${id}`);
    await untilSamples(page, 2);
    await page.keyboard.press('1');
    await page.getByRole('tab', { name: 'Reach' }).click();
    await page.getByTestId('reach-stage').waitFor();
    const links: number[] = [];
    for (let i = 0; i < 12; i++) {
      links.push(await untilShown(page, `document.querySelector('[data-testid="reach-stage"] input').click()`));
      await page.waitForTimeout(400);
    }
    const [keeper] = Object.values(document.subjects.items);
    const large: Setup = {
      ...someLights(document, LIGHTS),
      props: manyBalls(BALLS),
      subjects: collected(
        Object.fromEntries(
          Array.from({ length: KEEPERS }, (_, i) => [
            `k${i}`,
            { ...keeper!, name: `Keeper ${i}`, position: [i * 0.8 - 3, 0, i ? -1.2 : 0] as [number, number, number] },
          ]),
        ),
      ),
    };
    const made = await fetch(`${server.url}/api/setups`, {
      method: 'POST',
      headers: { 'Content-Type': 'application/json' },
      body: JSON.stringify({ document: large }),
    });
    if (!made.ok) throw new Error(await made.text());
    await page.goto(`${server.url}/setup/${((await made.json()) as { id: string }).id}`);
    await untilSamples(page, 1);
    await page.keyboard.press('t');
    for (let i = 0; i < KEEPERS; i++) {
      // found by its name: the row may be far from what is in sight
      await page.getByLabel('Find an object').fill(`Keeper ${i}`);
      const fold = page.getByRole('button', { name: `Unfold Keeper ${i}`, exact: true });
      await fold.click();
    }
    await page.getByLabel('Find an object').fill('');
    const objects = (await page.getByTestId('reach-table').getByRole('columnheader').first().textContent()) ?? '';
    await page.waitForTimeout(2000);
    const box = (await page.getByTestId('reach-table').boundingBox())!;
    await page.mouse.move(box.x + box.width / 2, box.y + box.height * 0.7);
    await page.evaluate(WATCH);
    for (const [x, y] of [
      [0, NOTCH],
      [NOTCH, 0],
      [0, -NOTCH],
    ] as const)
      for (let i = 0; i < NOTCHES; i++) {
        await page.mouse.wheel(x, y);
        await new Promise((resolve) => setTimeout(resolve, EVERY_MS));
      }
    const frames = await page.evaluate<number[]>(RESULT);
    return {
      table_ms: Math.max(...frames),
      late: frames.filter((f) => f > 34).length / frames.length,
      link_ms: median(links.slice(2)),
      links,
      objects,
    };
  } finally {
    await browser.close();
    await server.stop();
  }
}
