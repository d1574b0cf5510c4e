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
  await page.getByRole('button', { name: 'wishes', exact: true }).click();
  const words = page.getByTestId('reading-words'),
    preview = page.getByTestId('preview');

  // a loop from the figure's left: the key goes there, and the reading agrees, by rays too
  await page.getByLabel('Pattern', { exact: true }).selectOption('loop');
  await page.getByLabel('From the figure’s').selectOption('left');
  const before = await page.getByTestId('azimuth').inputValue();
  await page.getByRole('button', { name: 'Place A' }).click();
  await expect(preview).toContainText(/^Loop: Key stands \d+° to the figure’s left/, { timeout: 30_000 });
  await expect(words).toContainText('Loop, by A.', { timeout: 20_000 });
  await expect(page.getByTitle(/made exact when the hand rests/)).toHaveCount(0, { timeout: 30_000 });
  await expect(words).toContainText('Loop, by A.');
  await page.getByRole('button', { name: 'Keep', exact: true }).click();
  await expect(preview).toHaveCount(0);
  expect(Number(await page.getByTestId('azimuth').inputValue())).toBeGreaterThan(0);

  // the fill for 3 : 1
  await page.keyboard.press('2');
  await page.getByRole('button', { name: 'Ratio 3 to 1 by B' }).click();
  await expect(words).toContainText('3.0 : 1', { timeout: 30_000 });

  // each was one step of undo, kept or not
  await page.locator('body').press('Control+z');
  await expect(words).not.toContainText('3.0 : 1');
  await expect(preview).toHaveCount(0);
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

test('an intention begins, a catchlight goes to its hour, a point is asked about, a finding is outlined and mended', async ({ page }) => {
  const id = await copiedSetup(page, 'A face with a wish');
  await openStage(page, id);
  const words = page.getByTestId('reading-words'),
    preview = page.getByTestId('preview');
  await expect(page.getByTestId('pattern')).not.toHaveText('', { timeout: 60_000 });
  await page.getByRole('button', { name: /READING large/ }).click();
  await page.getByRole('button', { name: 'wishes', exact: true }).click();

  // from black; shown, left: everything is as it was; shown again and kept
  const cards = page.getByTestId(/^card-/);
  for (let left = await cards.count(); left > 0; left--) {
    await page.locator('body').press('1');
    await page.locator('body').press('Delete');
    await expect(cards).toHaveCount(left - 1);
  }
  await expect(words).toContainText('No light reaches this face', { timeout: 30_000 });
  await page.getByLabel('Intention', { exact: true }).selectOption('honest');
  await page.getByRole('button', { name: 'Begin' }).click();
  await expect(preview).toContainText('Honest: one window', { timeout: 30_000 });
  await expect(cards).toHaveCount(2);
  await page.getByRole('button', { name: 'Leave', exact: true }).click();
  await expect(cards).toHaveCount(0);
  await page.getByRole('button', { name: 'Begin' }).click();
  await expect(preview).toContainText('Honest', { timeout: 30_000 });
  await page.getByRole('button', { name: 'Keep', exact: true }).click();
  await expect(words).toContainText(/Closed triangle, by A\./, { timeout: 30_000 });

  // the key's catchlight at 10 o'clock: the reading says so by its own way
  await page.keyboard.press('1');
  await page.getByLabel('Catchlight at').selectOption('10');
  await page.getByRole('button', { name: 'Catchlight of A' }).click();
  await expect(preview).toContainText('Catchlight at 10 o’clock', { timeout: 30_000 });
  await expect(words).toContainText(/A in the left eye at 10 o’clock/, { timeout: 30_000 });
  // Escape leaves it
  await page.locator('body').press('Escape');
  await expect(words).not.toContainText(/A in the left eye at 10 o’clock/, { timeout: 30_000 });

  // a point of the picture
  await page.keyboard.press('i');
  const picture = (await page.getByTestId('picture').boundingBox())!;
  await page.mouse.click(picture.x + picture.width * 0.45, picture.y + picture.height * 0.45);
  await expect(page.getByTestId('asked')).toContainText('A', { timeout: 30_000 });
  await expect(page.getByTestId('asked')).toContainText('st');
  await page.locator('body').press('Escape');
  await expect(page.getByTestId('asked')).toHaveCount(0);

  // from the front it is flat: found, mended in one step, and found no more
  await page.getByTestId('azimuth').fill('-10');
  await page.getByTestId('azimuth').press('Enter');
  await page.getByTestId('elevation').fill('8');
  await page.getByTestId('elevation').press('Enter');
  await page.getByRole('button', { name: /^findings/ }).click();
  const finding = page.getByTestId('findings').getByText(/from the camera and shows no form/);
  await expect(finding).toBeVisible({ timeout: 60_000 });
  // left, it is quiet; asked again, it is there
  await page.getByRole('listitem').filter({ hasText: 'shows no form' }).getByRole('button', { name: 'Leave' }).click();
  await expect(finding).toHaveCount(0);
  await page.getByRole('button', { name: /left as .*ask again/ }).click();
  await expect(finding).toBeVisible();
  await page.getByRole('listitem').filter({ hasText: 'shows no form' }).getByRole('button', { name: 'Mend' }).click();
  await expect(preview).toContainText(/^Loop: .* stands/, { timeout: 30_000 });
  await expect(words).toContainText('Loop, by A.', { timeout: 30_000 });
  await page.getByRole('button', { name: 'Keep', exact: true }).click();
  await expect(finding).toHaveCount(0, { timeout: 60_000 });

  // a reason is outlined in the picture, as long as it is pointed at
  await page.getByRole('button', { name: 'face', exact: true }).click();
  await page
    .getByTestId('reasons')
    .getByText(/the nose’s shadow leans/)
    .hover();
  await expect(page.getByTestId('pointed').locator('path').first()).toHaveAttribute('d', /^M/);
  await page.mouse.move(10, 10);
  await expect(page.getByTestId('pointed')).toHaveCount(0);
  await untilSaved(page);
});

test('a rig is kept as an intention of one’s own, thrown away, had back and begun; a pattern with a margin', async ({ page }) => {
  const id = await copiedSetup(page, 'A face to begin again');
  await openStage(page, id);
  const words = page.getByTestId('reading-words'),
    preview = page.getByTestId('preview');
  await expect(page.getByTestId('pattern')).not.toHaveText('', { timeout: 60_000 });
  await page.getByRole('button', { name: /READING large/ }).click();
  await page.getByRole('button', { name: 'wishes', exact: true }).click();
  await page.getByRole('button', { name: 'Keep this rig as an intention' }).click();
  await page.getByLabel('Name of the intention').fill('My window');
  await page.keyboard.press('Enter');
  await expect(page.getByText('My window is kept')).toBeVisible({ timeout: 20_000 });
  await page.getByRole('button', { name: 'Throw My window away' }).click();
  await expect(page.getByLabel('Intention', { exact: true }).locator('option', { hasText: 'My window' })).toHaveCount(0);
  await page.getByRole('button', { name: 'Undo', exact: true }).last().click();
  await page.getByLabel('Intention', { exact: true }).selectOption('My window');
  await page.getByRole('button', { name: 'Begin' }).click();
  await expect(preview).toContainText('My window: closed triangle', { timeout: 30_000 });
  await page.getByRole('button', { name: 'Keep', exact: true }).click();
  await expect(words).toContainText(/Closed triangle, by A\./, { timeout: 30_000 });

  // a margin is kept, or it is said that it is not
  await page.keyboard.press('1');
  await page.getByLabel('Pattern', { exact: true }).selectOption('loop');
  await page.getByLabel('Margin').selectOption('6');
  await page.getByRole('button', { name: 'Place A' }).first().click();
  await expect(preview).toContainText(/^Loop: Key stands .*(holds 6° any way|does not hold 6°)/, { timeout: 30_000 });
  await page.getByRole('button', { name: 'Leave', exact: true }).click();
  await untilSaved(page);
});
