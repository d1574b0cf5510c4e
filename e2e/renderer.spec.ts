import { writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { tmpdir } from 'node:os';
import { expect, test } from '@playwright/test';
import { apart, cells, copiedSetup, openStage, untilSamples, untilSaved, untilSmooth } from './stage.ts';

test('an artist judges and finishes a picture: stops, clay, focus, surface, haze, look, before and after', async ({ page }) => {
  const problems: string[] = [];
  page.on('pageerror', (e) => problems.push(e.message));
  const id = await copiedSetup(page);
  await openStage(page, id, 4);
  await untilSmooth(page);
  const start = await cells(page);

  // the noise that is left is a number
  expect(Number(await page.getByTestId('progress').getAttribute('data-noise'))).toBeGreaterThan(0);

  // stops in false tones, and back: another picture without a ray for it
  await page.getByRole('button', { name: 'Stops', exact: true }).click();
  await expect(async () => expect(apart(await cells(page), start)).toBeGreaterThan(30)).toPass();
  await page.getByRole('button', { name: 'Light', exact: true }).click();
  await expect(async () => expect(apart(await cells(page), start)).toBeLessThan(8)).toPass();

  // grey clay takes the colour out of the skin
  const redness = async () => {
    const c = await cells(page);
    const at = (3 * 6 + 2) * 3;
    return c[at]! / c[at + 2]!;
  };
  const skin = await redness();
  await page.getByRole('button', { name: 'Clay' }).click();
  await expect(async () => expect(await redness()).toBeLessThan(skin * 0.8)).toPass();
  await page.getByRole('button', { name: 'Clay' }).click();
  await untilSmooth(page);

  // sharp where the eye is: a click on the picture sets the distance, and the lens opens
  await page.getByRole('tab', { name: 'Camera' }).click();
  await page.getByTestId('focus-here').click();
  const picture = (await page.getByTestId('picture').boundingBox())!;
  await page.mouse.click(picture.x + picture.width * 0.45, picture.y + picture.height * 0.4);
  await expect(page.getByTestId('f-number')).toHaveValue('2.8');
  const focus = Number(await page.getByTestId('focus').inputValue());
  expect(focus).toBeGreaterThan(2);
  expect(focus).toBeLessThan(3);

  // the skin made of wax, then as in the file again; one step of undo each
  await page.getByRole('tab', { name: 'Surfaces' }).click();
  await page.getByTestId('part').selectOption('skin');
  await page.getByRole('button', { name: 'wax', exact: true }).click();
  await expect(page.getByTestId('surface-coat')).toHaveValue('20');
  await page.keyboard.press('Control+z');
  await expect(page.getByTestId('surface-coat')).toHaveValue('0');

  // haze has a share of its own in every light
  await page.getByRole('tab', { name: 'Stage' }).click();
  await page.getByTestId('haze').fill('12');
  await page.getByTestId('haze').press('Enter');
  await untilSamples(page, 1);
  await expect(async () => expect(apart(await cells(page), start)).toBeGreaterThan(4)).toPass();
  await page.keyboard.press('Control+z');

  // the look costs no ray: contrast and view; a look-up table of the artist's own, and one that is broken
  await untilSamples(page, 4);
  await page.getByRole('tab', { name: 'Look' }).click();
  await page.getByTestId('contrast').fill('1.6');
  await page.getByTestId('contrast').press('Enter');
  await page.getByTestId('view').selectOption('filmic');
  const cube = join(tmpdir(), `plinket-${Date.now()}.cube`);
  writeFileSync(
    cube,
    'TITLE "Night"\nLUT_3D_SIZE 2\n' +
      [0, 1].flatMap((b) => [0, 1].flatMap((g) => [0, 1].map((r) => `${r * 0.2} ${g * 0.4} ${b}`))).join('\n'),
  );
  await page.getByTestId('cube-input').setInputFiles(cube);
  await expect(page.getByText('Night is the view now')).toBeVisible();
  await expect(page.getByTestId('view')).toHaveValue('lut');
  await page
    .getByTestId('cube-input')
    .setInputFiles({ name: 'broken.cube', mimeType: 'text/plain', buffer: Buffer.from('LUT_3D_SIZE 2\nx') });
  await expect(page.getByText(/broken\.cube was not brought in: .*Line 2/)).toBeVisible();
  await expect(page.getByTestId('view')).toHaveValue('lut');

  // before and after: a proof, a change, the line between them
  await page.getByTestId('view').selectOption('neutral');
  await page.keyboard.press('p');
  await expect(page.getByTestId('proof').first()).toBeVisible();
  await page.getByRole('button', { name: 'Before' }).click();
  const line = page.getByRole('slider', { name: 'Line between before and after' });
  await line.focus();
  await page.keyboard.press('ArrowRight');
  await expect(line).toHaveAttribute('aria-valuenow', '52');
  await untilSaved(page);
  expect(problems).toEqual([]);
});
