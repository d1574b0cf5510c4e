import { expect, test } from '@playwright/test';
import { copiedSetup, openStage, untilSaved } from './stage.ts';

test('a face is read, a pattern placed, a ratio asked for, and a light dragged over all directions', async ({ page }) => {
  const id = await copiedSetup(page, 'A face to read');
  await openStage(page, id);
  // beside the picture from the start, small
  const pattern = page.getByTestId('pattern');
  await expect(pattern).not.toHaveText('', { timeout: 60_000 });
  await expect(page.getByTestId('nose-outline')).toHaveAttribute('d', /M/);
  await page.getByRole('button', { name: /READING large/ }).click();
  await page.keyboard.press('1');

  // a loop from the figure's left: the key goes there, and the reading agrees, by rays too
  await page.getByLabel('Pattern', { exact: true }).selectOption('loop');
  await page.getByLabel('From the figure’s').selectOption('left');
  const before = await page.getByTestId('azimuth').inputValue();
  await page.getByRole('button', { name: 'Place A' }).click();
  await expect(page.getByText(/^Loop: Key stands \d+° to the figure’s left/)).toBeVisible({ timeout: 30_000 });
  await expect(pattern).toHaveText('Loop');
  await expect(page.getByTestId('reading-words')).toContainText('Loop, by A.');
  await expect(page.getByTitle(/made exact when the hand rests/)).toHaveCount(0, { timeout: 30_000 });
  await expect(pattern).toHaveText('Loop');
  expect(Number(await page.getByTestId('azimuth').inputValue())).toBeGreaterThan(0);

  // the fill for 3 : 1
  await page.keyboard.press('2');
  await page.getByRole('button', { name: 'Ratio 3 to 1 by B' }).click();
  await expect(page.getByTestId('ratio')).toHaveText('3.0 : 1', { timeout: 30_000 });

  // each was one step of undo
  await page.locator('body').press('Control+z');
  await expect(page.getByTestId('ratio')).not.toHaveText('3.0 : 1');
  await page.locator('body').press('Control+z');
  await page.keyboard.press('1');
  await expect(page.getByTestId('azimuth')).toHaveValue(before);

  // over the paper of all directions the name changes where the picture does
  await page.getByRole('button', { name: 'directions', exact: true }).click();
  const paper = page.getByTestId('directions');
  await expect(paper).toBeVisible({ timeout: 90_000 });
  const box = (await paper.boundingBox())!;
  const mark = (await page.getByTestId('direction-key').locator('circle').boundingBox())!;
  await page.mouse.move(mark.x + mark.width / 2, mark.y + mark.height / 2);
  await page.mouse.down();
  const x = (azimuth: number) => box.x + (box.width * (azimuth + 183)) / 366;
  await page.mouse.move(x(90), mark.y + mark.height / 2 + 4, { steps: 8 });
  await page.getByRole('button', { name: 'face', exact: true }).isVisible();
  await expect(page.getByTestId('reading-words')).toContainText('Split, by A.', { timeout: 20_000 });
  // a hand that waits, and then goes far outwards
  await page.waitForTimeout(700);
  await page.mouse.move(x(178), box.y - 200, { steps: 5 });
  await page.mouse.move(x(175), mark.y + mark.height / 2 + 4, { steps: 5 });
  await expect(page.getByTestId('reading-words')).not.toContainText('Split, by A.');
  await page.keyboard.press('Escape');
  await expect(page.getByTestId('azimuth')).toHaveValue(before);
  await page.mouse.up();
  await untilSaved(page);
});

test('a figure that is out of sight has no face to read, and one that comes back does', async ({ page }) => {
  const id = await copiedSetup(page, 'A face that goes');
  await openStage(page, id);
  await expect(page.getByTestId('pattern')).not.toHaveText('', { timeout: 60_000 });
  await page.getByRole('tab', { name: 'Character' }).click();
  await page.getByLabel('In the picture').uncheck();
  await expect(page.getByTestId('reading')).toContainText('No face is in sight.', { timeout: 30_000 });
  await page.locator('body').press('Control+z');
  await expect(page.getByTestId('pattern')).not.toHaveText('', { timeout: 60_000 });
});
