import { expect, test, type Page } from '@playwright/test';
import { copiedSetup, openStage, untilSaved } from './stage.ts';

/** Presses the mouse on a light's own place in PLAN or SIDE. */
async function grab(page: Page, id: string): Promise<{ x: number; y: number }> {
  const at = await page.getByTestId(id).locator('circle').last().boundingBox();
  const x = at!.x + at!.width / 2,
    y = at!.y + at!.height / 2;
  await page.mouse.move(x, y);
  await page.mouse.down();
  return { x, y };
}
const field = async (page: Page, id: string) => Number((await page.getByTestId(id).inputValue()).replace('−', '-'));
const type = async (page: Page, id: string, text: string) => {
  await page.getByTestId(id).fill(text);
  await page.getByTestId(id).press('Enter');
};
const level = async (page: Page) => (await field(page, 'distance')) * Math.cos((Math.PI / 180) * (await field(page, 'elevation')));

test('what is dragged stays under the hand: 60 pixels are 60 pixels, and one step of undo', async ({ page }) => {
  const id = await copiedSetup(page);
  await openStage(page, id);
  const plan = page.getByTestId('plan');
  const box = (await plan.boundingBox())!;
  const middle = { x: box.x + box.width / 2, y: box.y + box.height / 2 };
  await page.keyboard.press('1');
  const before = await level(page);
  // metres of a pixel as the rings on screen say it when the hand presses
  const px = Number(await plan.getAttribute('data-px'));
  const { x, y } = await grab(page, 'plan-key');
  const far = Math.hypot(x - middle.x, y - middle.y);
  for (let i = 1; i <= 30; i++)
    await page.mouse.move(x + (((x - middle.x) / far) * 60 * i) / 30, y + (((y - middle.y) / far) * 60 * i) / 30);
  // a hand that waits does not end its gesture
  await page.waitForTimeout(1200);
  expect(Number(await plan.getAttribute('data-px'))).toBe(px);
  await page.mouse.up();
  expect(((await level(page)) - before) / (60 * px)).toBeGreaterThan(0.98);
  expect(((await level(page)) - before) / (60 * px)).toBeLessThan(1.02);
  await page.locator('body').press('Control+z');
  expect(await level(page)).toBeCloseTo(before, 2);

  // Escape takes a drag back that is under way, and the hand holds nothing then
  await grab(page, 'side-key');
  await page.mouse.move(x, 300, { steps: 5 });
  await page.keyboard.press('Escape');
  expect(await level(page)).toBeCloseTo(before, 2);
  await page.mouse.move(x + 40, 340, { steps: 3 });
  expect(await level(page)).toBeCloseTo(before, 2);
  await page.mouse.up();

  // the wheel zooms the paper, and no light moves; all of it comes back with one click
  await page.mouse.move(middle.x, middle.y);
  await page.mouse.wheel(0, -400);
  await expect(async () => expect(Number(await plan.getAttribute('data-px'))).toBeLessThan(px * 0.9)).toPass();
  await page.getByTestId('plan-fit').click();
  await expect(async () => expect(Number(await plan.getAttribute('data-px'))).toBeCloseTo(px, 5)).toPass();
  expect(await level(page)).toBeCloseTo(before, 2);
});

test('several lights in hand go along with the first; “=” sets them alike; the cards mean the same', async ({ page }) => {
  const id = await copiedSetup(page);
  await openStage(page, id);
  const stops = (light: string) => page.getByTestId(`stops-${light}`);
  await page.keyboard.press('1');
  await type(page, 'level', '-1');
  await page
    .getByTestId('card-fill')
    .getByRole('button', { name: 'B Fill' })
    .click({ modifiers: ['Shift'] });
  await page.getByRole('button', { name: 'Key a third of a stop up' }).click();
  await expect(stops('key')).toHaveText('−⅔');
  await expect(stops('fill')).toHaveText('+⅓');
  await type(page, 'level', '+=1');
  await expect(stops('key')).toHaveText('+⅓');
  await expect(stops('fill')).toHaveText('+1⅓');
  await type(page, 'level', '=0');
  await expect(stops('key')).toHaveText('0');
  await expect(stops('fill')).toHaveText('0');
  // a field that was left in the middle of nonsense is as it was, and not red
  await page.getByTestId('level').fill('nonsense');
  await expect(page.getByTestId('level')).toHaveAttribute('aria-invalid', 'true');
  await page.getByTestId('level').press('Escape');
  await expect(page.getByTestId('level')).toHaveAttribute('aria-invalid', 'false');
  await untilSaved(page);
});

test('looking along a light the picture stays beside it, and follows', async ({ page }) => {
  await openStage(page, await copiedSetup(page), 2);
  await page.keyboard.press('1');
  const samples = Number(await page.getByTestId('progress').getAttribute('data-samples'));
  await page.keyboard.press('l');
  await expect(page.getByText('along A')).toBeVisible();
  const set = page.getByTestId('set-canvas');
  await expect(set.locator('canvas')).toBeVisible();
  await expect(page.getByTestId('picture')).toBeVisible();
  // no film was thrown away for it
  expect(Number(await page.getByTestId('progress').getAttribute('data-samples'))).toBeGreaterThanOrEqual(samples);
  const box = (await set.boundingBox())!;
  await page.mouse.move(box.x + 100, box.y + 100);
  await page.mouse.down();
  await page.mouse.move(box.x + 180, box.y + 100, { steps: 6 });
  await page.mouse.up();
  await expect(page.getByTestId('azimuth')).toHaveValue('20');
  await page.keyboard.press('Escape');
  await expect(set).toBeHidden();
});
