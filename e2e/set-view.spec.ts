import { expect, test } from '@playwright/test';
import { FLAGS_3D } from '../scripts/lib/chromium.mjs';
import { copiedSetup, demoSetup, openStage, untilSaved } from './stage.ts';

// the set view draws in 3D; everything else does without
test.use({ launchOptions: { executablePath: process.env['CHROMIUM'] ?? '/usr/bin/chromium', args: FLAGS_3D } });

test('in the set view a light is dragged by its handle, undone, and the camera frames what it saw', async ({ page }) => {
  const id = await copiedSetup(page);
  await openStage(page, id);
  await page.keyboard.press('1');
  for (const [field, value] of [
    ['azimuth', '40'],
    ['elevation', '35'],
    ['distance', '1.5'],
  ] as const) {
    await page.getByTestId(field).fill(value);
    await page.getByTestId(field).press('Enter');
  }
  await untilSaved(page);
  // the key belongs to the Stage, not to the field that was typed into
  await page.getByRole('button', { name: 'A Key' }).first().focus();
  await page.keyboard.press('v');
  const set = page.getByTestId('set-view'),
    canvas = set.locator('canvas');
  await expect(set.getByText('real-time view: form, not light')).toBeVisible();
  await set.getByRole('button', { name: 'Top', exact: true }).click();
  const handle = async () => ((await canvas.getAttribute('data-handle')) ?? '').split(' ').map(Number) as [number, number];
  await expect(async () => expect((await handle())[0]).toBeGreaterThan(0.5)).toPass();
  const box = (await canvas.boundingBox())!;
  // the figure has been drawn: the view is not of one tone
  const tones = await canvas.screenshot();
  expect(tones.length).toBeGreaterThan(4000);

  const keyPlace = async () => {
    const { document } = (await (await page.request.get(`/api/setups/${id}`)).json()) as {
      document: { lights: { items: { key: { place: { azimuth: number; elevation: number; distance: number } } } } };
    };
    return document.lights.items.key.place;
  };
  const before = await keyPlace();
  const [x, y] = await handle();
  const at = { x: box.x + x * box.width, y: box.y + y * box.height };
  await page.mouse.move(at.x, at.y);
  await page.mouse.down();
  for (let i = 1; i <= 5; i++) await page.mouse.move(at.x + i * 14, at.y);
  await page.mouse.up();
  await untilSaved(page);
  await expect(async () => expect((await keyPlace()).azimuth).not.toBe(before.azimuth)).toPass();
  const after = await keyPlace();
  // dragged to the picture's right: further round to the subject's left, at its height, further away
  expect(after.azimuth).toBeGreaterThan(before.azimuth + 3);
  expect(after.distance).toBeGreaterThan(before.distance + 0.1);
  const height = (p: typeof before) => p.distance * Math.sin((p.elevation * Math.PI) / 180);
  expect(height(after)).toBeCloseTo(height(before), 1);
  // one drag is one step back
  await page.keyboard.press('Control+z');
  await untilSaved(page);
  await expect(async () => expect(await keyPlace()).toEqual(before)).toPass();

  // Escape takes a drag back that is under way, and the hand holds nothing then; the view stays
  await page.mouse.move(at.x, at.y);
  await page.mouse.down();
  for (let i = 1; i <= 3; i++) await page.mouse.move(at.x + i * 14, at.y);
  await expect(page.getByTestId('distance')).not.toHaveValue('1.50');
  await page.keyboard.press('Escape');
  await expect(page.getByTestId('distance')).toHaveValue('1.50');
  await page.mouse.move(at.x + 80, at.y, { steps: 3 });
  await page.mouse.up();
  await expect(page.getByTestId('distance')).toHaveValue('1.50');
  await expect(set).toBeVisible();

  await set.getByRole('button', { name: 'Through camera' }).click();
  await expect(page.getByTestId('set-frame')).toBeVisible();
  // what is called the camera's view cannot be walked away from
  await expect(async () => expect(await handle()).toHaveLength(2)).toPass();
  await page.waitForTimeout(500);
  const seen = await handle();
  await page.mouse.move(box.x + 60, box.y + 60);
  await page.mouse.down();
  await page.mouse.move(box.x + 200, box.y + 120, { steps: 4 });
  await page.mouse.up();
  await page.waitForTimeout(500);
  expect(await handle()).toEqual(seen);
  await page.keyboard.press('v');
  await expect(set).toBeHidden();
});

test('a clip: the figure is posed, the lights go with its head, and the set view plays it', async ({ page }) => {
  const { id } = await demoSetup(page, 'The signaller listens');
  await openStage(page, id);
  await page.getByRole('tab', { name: 'Character' }).click();
  await page.getByTestId('frame').fill('0');
  await page.getByTestId('frame').press('Enter');
  type Posed = { subjects: { items: { signaller: { pose: { time: number; head?: { forward: number[] } } } } } };
  const pose = async () => {
    const { document } = (await (await page.request.get(`/api/setups/${id}`)).json()) as { document: Posed };
    return document.subjects.items.signaller.pose;
  };
  await untilSaved(page);
  await expect(async () => expect((await pose()).time).toBe(0)).toPass();
  // at the first frame she looks a little to her right; at the 62nd far to her left
  await expect(async () => expect((await pose()).head!.forward[0]).toBeLessThan(0)).toPass();
  await page.getByTestId('frame').fill('62');
  await page.getByTestId('frame').press('Enter');
  await expect(async () => expect((await pose()).head!.forward[0]).toBeGreaterThan(0.5)).toPass();
  await page.getByTestId('follow').click();
  await expect(async () => expect((await pose()).head).toBeUndefined()).toPass();

  // a part of the clip is what is played
  await page.getByTestId('range-from').fill('20');
  await page.getByTestId('range-from').press('Enter');
  await page.getByTestId('range-to').fill('62');
  await page.getByTestId('range-to').press('Enter');
  const range = async () => ((await pose()) as { range?: number[] }).range;
  await expect(async () => expect((await range())?.map((v) => Math.round(v * 24))).toEqual([20, 62])).toPass();

  await page.getByTestId('range-to').blur();
  await page.keyboard.press('v');
  const set = page.getByTestId('set-view');
  await set.getByRole('button', { name: 'clip' }).click();
  await expect(set.getByRole('button', { name: 'clip' })).toHaveAttribute('aria-pressed', 'true');
  const first = await set.locator('canvas').screenshot();
  await expect(async () => expect((await set.locator('canvas').screenshot()).equals(first)).toBe(false)).toPass();
  await set.getByRole('button', { name: 'clip' }).click();
  for (let i = 0; i < 5; i++) await page.keyboard.press('Control+z');
  await untilSaved(page);
  expect(await range()).toBeUndefined();
});
