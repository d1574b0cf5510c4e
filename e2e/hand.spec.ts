import { expect, test, type Page } from '@playwright/test';
import { apart, cells, copiedSetup, firstSetup, openStage, untilSamples, untilSaved, untilSmooth } from './stage.ts';

/** Which change the picture has come to, of how many. */
const state = (page: Page) =>
  page
    .getByTestId('picture')
    .evaluate((canvas: HTMLCanvasElement) => ({ wish: Number(canvas.dataset['wish']), shown: Number(canvas.dataset['shown']) }));

/** A hand that is not followed gives up after so many moves. */
const MOVES = 1500;

/** Moves the pressed mouse about a point without a rest until so many different pictures came meanwhile; answers how many did. */
async function stir(page: Page, x: number, y: number, enough: number): Promise<number> {
  const seen = new Set<number>();
  for (let i = 0; i < MOVES && seen.size < enough; i++) {
    await page.mouse.move(x + 30 * Math.cos(i / 7), y + 14 * Math.sin(i / 5));
    if (i % 3 === 0) seen.add((await state(page)).shown);
  }
  return seen.size;
}

test('under a hand that never rests the picture follows: a light in PLAN, then the camera', async ({ page }) => {
  const problems: string[] = [];
  page.on('pageerror', (e) => problems.push(e.message));
  await openStage(page, await copiedSetup(page), 4);
  await untilSmooth(page);
  const before = await cells(page);

  const mark = (await page.getByTestId('plan-key').boundingBox())!;
  const x = mark.x + mark.width / 2,
    y = mark.y + mark.height / 2;
  await page.mouse.move(x, y);
  await page.mouse.down();
  await page.mouse.move(x - 20, y);
  expect(await stir(page, x - 40, y - 10, 12)).toBe(12);
  await page.mouse.up();
  await expect(async () => {
    const { wish, shown } = await state(page);
    expect(shown).toBe(wish);
  }).toPass();
  await expect(async () => expect(apart(await cells(page), before)).toBeGreaterThan(10)).toPass();

  // the camera moves everything, and is followed too
  const box = (await page.getByTestId('picture').boundingBox())!;
  const [cx, cy] = [box.x + box.width / 2, box.y + box.height / 2];
  await page.mouse.move(cx, cy);
  await page.mouse.down();
  expect(await stir(page, cx, cy, 6)).toBe(6);
  await page.mouse.up();

  // one drag, one step back
  await page.keyboard.press('Control+z');
  await page.keyboard.press('Control+z');
  await untilSmooth(page);
  await expect(async () => expect(apart(await cells(page), before)).toBeLessThan(8)).toPass();
  await untilSaved(page);
  expect(problems).toEqual([]);
});

test('a Stage that is closed leaves no elements, no listeners and no workers behind', async ({ page }) => {
  const { id } = await firstSetup(page);
  const devtools = await page.context().newCDPSession(page);
  await page.goto('/');
  const left: { nodes: number; jsEventListeners: number }[] = [];
  for (let i = 0; i < 4; i++) {
    await page.getByRole('heading', { name: 'The keeper, first look' }).click();
    await page.waitForURL(`**/setup/${id}`);
    await untilSamples(page, 1);
    expect(page.workers().length).toBeGreaterThan(0);
    await page.getByRole('link', { name: 'All setups' }).click();
    await page.waitForURL('**/');
    await expect(async () => expect(page.workers()).toHaveLength(0)).toPass();
    await expect(async () => {
      await devtools.send('HeapProfiler.collectGarbage');
      left[i] = await devtools.send('Memory.getDOMCounters');
      // what the first opening left is there once and for all
      expect(left[i]!.nodes).toBeLessThan(left[0]!.nodes + 60);
      expect(left[i]!.jsEventListeners).toBeLessThan(left[0]!.jsEventListeners + 20);
    }).toPass({ timeout: 10_000 });
  }
  expect(left).toHaveLength(4);
});
