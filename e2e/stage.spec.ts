import { readFileSync } from 'node:fs';
import { expect, test } from '@playwright/test';
import { apart, brightness, cells, copiedSetup, firstSetup, openStage, untilSamples, untilSaved, untilSmooth } from './stage.ts';

test('an artist lights a portrait: open, drag the key, lower the fill, solo the rim, keep a proof, reload', async ({ page }) => {
  const problems: string[] = [];
  page.on('pageerror', (e) => problems.push(e.message));
  await copiedSetup(page, 'By lamplight, a try');
  await page.goto('/');
  await page.getByRole('heading', { name: 'By lamplight, a try' }).click();
  await untilSamples(page, 1);
  expect(await page.evaluate(() => crossOriginIsolated)).toBe(true);
  const at = () => Promise.all(['azimuth', 'elevation', 'distance'].map((t) => page.getByTestId(t).inputValue()));

  // the key, round the head in PLAN: the picture must answer, and only that light's numbers change
  const before = await cells(page);
  const mark = page.getByTestId('plan-key');
  await mark.click();
  await expect(page.getByTestId('azimuth')).toHaveValue('40');
  const box = (await mark.boundingBox())!;
  await page.mouse.move(box.x + box.width / 2, box.y + box.height / 2);
  await page.mouse.down();
  await page.mouse.move(box.x + box.width / 2 - 30, box.y + box.height / 2 + 10, { steps: 6 });
  await page.mouse.move(box.x + box.width / 2 - 75, box.y + box.height / 2 + 12, { steps: 6 });
  await page.mouse.up();
  const [azimuth, elevation, distance] = await at();
  expect(Number(azimuth!.replace('−', '-'))).toBeLessThan(15);
  expect(elevation).toBe('35');
  await expect(async () => expect(apart(await cells(page), before)).toBeGreaterThan(12)).toPass();

  // the fill down by a stop, by its key; no ray is traced for it once the picture rests, so compare numbers only
  await page.keyboard.press('2');
  for (let i = 0; i < 3; i++) await page.keyboard.press('-');
  await expect(page.getByTestId('stops-fill')).toHaveText('−1');

  // the rim alone, and together again
  await untilSmooth(page);
  const all = brightness(await cells(page));
  await page.keyboard.press('3');
  await page.keyboard.press('Enter');
  await expect(page.getByText('C alone')).toBeVisible();
  await expect(async () => expect(brightness(await cells(page))).toBeLessThan(all * 0.6)).toPass();
  await page.keyboard.press('Enter');
  await expect(async () => expect(Math.abs(brightness(await cells(page)) - all)).toBeLessThan(3)).toPass({ timeout: 20_000 });
  await page.keyboard.press('p');
  await expect(page.getByTestId('proof')).toHaveCount(1);
  await untilSaved(page);
  const kept = await cells(page);

  await page.reload();
  await untilSmooth(page);
  await page.keyboard.press('1');
  expect(await at()).toEqual([azimuth, elevation, distance]);
  await expect(page.getByTestId('stops-fill')).toHaveText('−1');
  expect(apart(await cells(page), kept)).toBeLessThan(6);

  // change again, and let the proof bring it back; Space shows it meanwhile
  await page.keyboard.press('Backspace');
  await expect(async () => expect(apart(await cells(page), kept)).toBeGreaterThan(20)).toPass();
  await page.keyboard.down(' ');
  await expect(page.getByTestId('last-proof')).toBeVisible();
  await page.keyboard.up(' ');
  await expect(page.getByTestId('last-proof')).toBeHidden();
  await page.getByRole('button', { name: 'Restore Proof 1' }).first().click();
  await expect(async () => expect(apart(await cells(page), kept)).toBeLessThan(6)).toPass();
  expect(problems).toEqual([]);
});

test('undo and redo go step by step, by keys and by the brief', async ({ page }) => {
  const { id } = await firstSetup(page);
  await openStage(page, id);
  await page.keyboard.press('1');
  const azimuth = page.getByTestId('azimuth');
  const start = await azimuth.inputValue();
  // a key that is held is one step, however long the machine takes over each repeat
  for (let n = 0; n < 3; n++) await page.keyboard.down('ArrowRight');
  await page.keyboard.up('ArrowRight');
  await expect(azimuth).not.toHaveValue(start);
  const moved = await azimuth.inputValue();
  await page.keyboard.press('Control+z');
  await expect(azimuth).toHaveValue(start);
  await page.keyboard.press('Control+Shift+z');
  await expect(azimuth).toHaveValue(moved);
  await page.keyboard.press('Control+z');
  await page.getByTestId('brief').fill('she has heard this story before');
  await page.getByTestId('brief').press('Enter');
  await untilSaved(page);
  await page.reload();
  await expect(page.getByTestId('brief')).toHaveValue('she has heard this story before');
  await untilSamples(page, 1);
  await page.keyboard.press('?');
  await expect(page.getByRole('dialog', { name: 'Keys' })).toContainText('walk the selected light round the head');
});

test('a wrong file is refused with its reason and changes nothing; a right one stands on the stage', async ({ page }) => {
  const { id } = await firstSetup(page);
  await openStage(page, id);
  await page
    .getByTestId('glb-input')
    .setInputFiles({ name: 'holiday.glb', mimeType: 'model/gltf-binary', buffer: Buffer.from('this is no model at all') });
  await expect(page.getByRole('alert')).toContainText('does not begin with “glTF”');
  await page.getByRole('button', { name: 'Close' }).click();
  await expect(page.getByTestId('save-state')).toHaveAttribute('data-state', 'idle');

  const keeper = readFileSync(new URL('../demo/assets/keeper.glb', import.meta.url));
  await page.getByTestId('glb-input').setInputFiles({ name: 'again.glb', mimeType: 'model/gltf-binary', buffer: keeper });
  await expect(page.getByTestId('import-report')).toContainText('0.53 m tall');
  await expect(page.getByTestId('import-report')).toContainText('landmarks in the file');
  await page.getByTestId('import-keep').click();
  await expect(page.getByText('is on the stage')).toBeVisible();
  await untilSaved(page);
  await page.keyboard.press('Control+z');
});

test('work goes on while the server does not answer, and is saved when it is back', async ({ page }) => {
  const { id } = await firstSetup(page);
  await openStage(page, id);
  await untilSaved(page);
  let gone = true;
  await page.route('**/api/setups/*', (route) =>
    gone && route.request().method() === 'PATCH'
      ? route.fulfill({
          status: 503,
          contentType: 'application/problem+json',
          body: JSON.stringify({ type: 'urn:plinket:problem:database', title: 'The database does not answer.', status: 503 }),
        })
      : route.continue(),
  );
  await page.keyboard.press('4');
  await page.keyboard.press('+');
  await expect(page.getByTestId('save-state')).toHaveAttribute('data-state', 'offline');
  await page.keyboard.press('+');
  const level = await page.getByTestId('stops-wall').textContent();
  // even a reload while nothing can be saved loses nothing
  await page.reload();
  await expect(page.getByTestId('stops-wall')).toHaveText(level!);
  gone = false;
  await untilSaved(page);
  const record = (await (await page.request.get(`/api/setups/${id}`)).json()) as {
    document: { lights: { items: { wall: { stops: number } } } };
  };
  expect(record.document.lights.items.wall.stops).toBeCloseTo(2 / 3, 3);
});

test('a setup that is not there is said, with the way back', async ({ page }) => {
  await page.goto('/setup/00000000-0000-4000-8000-000000000000');
  await expect(page.getByText('This setup is not here')).toBeVisible();
  await page.getByRole('link', { name: 'All setups' }).click();
  await expect(page.getByRole('heading', { name: 'Call sheet' })).toBeVisible();
});
