import { expect, test } from '@playwright/test';
import { asked, ownSequence, shotId, type Setup } from './sequences.ts';
import { apart, cells, cellsOf, untilSamples } from './stage.ts';

test('a value is led along the shots of a sequence: by the hand, by keys, as a run, and back', async ({ page }) => {
  const sequence = await ownSequence(page, 'Dusk', 5);
  const level = async (code: string) => {
    const { document } = await asked<Setup>(page, `setups/${shotId(sequence, code)}`);
    return document.lights.items[first!]!.stops;
  };
  const { document } = await asked<Setup>(page, `setups/${sequence.document.setup}`);
  const [first] = Object.entries(document.lights.items).sort(([, a], [, b]) =>
    (a as unknown as { rank: string }).rank < (b as unknown as { rank: string }).rank ? -1 : 1,
  )[0]!;
  const at = document.lights.items[first]!.stops;
  await page.goto(`/sequence/${sequence.id}`);
  await page.getByRole('button', { name: 'Along' }).click();
  const dot = (code: string) => page.getByTestId(`along-${code}`);
  await expect(dot('S_10')).toHaveAttribute('aria-valuenow', String(at));
  // a slow drag, far outwards, given up
  const box = (await dot('S_50').boundingBox())!;
  await page.mouse.move(box.x + 6, box.y + 6);
  await page.mouse.down();
  await page.mouse.move(box.x + 6, box.y - 30, { steps: 5 });
  await page.waitForTimeout(1200);
  await page.mouse.move(box.x + 6, box.y + 3000, { steps: 5 });
  expect(Number(await dot('S_50').getAttribute('aria-valuenow'))).toBeGreaterThanOrEqual(-20);
  await page.keyboard.press('Escape');
  await page.mouse.up();
  await expect(dot('S_50')).toHaveAttribute('aria-valuenow', String(at));
  expect(await level('S_50')).toBe(at);
  // by keys: two stops down in the last shot
  await dot('S_50').focus();
  // the second before the first is kept
  await page.keyboard.press('Shift+ArrowDown');
  await page.keyboard.press('Shift+ArrowDown');
  await expect(dot('S_50')).toHaveAttribute('aria-valuenow', String(at - 2));
  await expect.poll(() => level('S_50')).toBeCloseTo(at - 2, 6);
  // the run between them, also over what another window did meanwhile
  const middle = shotId(sequence, 'S_30');
  const meanwhile = await page.request.patch(`/api/setups/${middle}`, {
    headers: { 'Content-Type': 'application/merge-patch+json', 'If-Match': '"1"' },
    data: { brief: 'said elsewhere' },
  });
  expect(meanwhile.ok()).toBe(true);
  await page.getByRole('button', { name: 'Lead' }).click();
  await expect(page.getByText(/changed in 3 shots/)).toBeVisible();
  const levels = async () => [await level('S_10'), await level('S_20'), await level('S_30'), await level('S_40'), await level('S_50')];
  expect((await levels()).map((v) => Math.round((v - at) * 10) / 10)).toEqual([0, -0.5, -1, -1.5, -2]);
  expect((await asked<{ document: { brief: string } }>(page, `setups/${middle}`)).document.brief).toBe('said elsewhere');
  await expect(page.getByTestId('shot-S_30').getByTestId('departures')).toContainText('−1 stop');
  await page
    .getByText(/changed in 3 shots/)
    .locator('xpath=ancestor::li')
    .getByRole('button', { name: 'Undo' })
    .click();
  await expect.poll(async () => (await levels()).map((v) => Math.round((v - at) * 10) / 10)).toEqual([0, 0, 0, 0, -2]);
});

test('another frame of a shot is shown and read where its figure moves', async ({ page }) => {
  const sequence = await ownSequence(page, 'It moves', 1),
    id = shotId(sequence, 'S_10');
  type Posed = { revision: number; document: { subjects: { items: Record<string, object> } } };
  const setup = await asked<Posed>(page, `setups/${id}`);
  await page.goto(`/shot/${id}`);
  const frame = page.getByTestId('shot-frame');
  await expect(frame).toHaveValue('1001');
  await expect(frame).toBeDisabled();
  const [subject] = Object.keys(setup.document.subjects.items) as [string];
  const posed = await page.request.patch(`/api/setups/${id}`, {
    headers: { 'Content-Type': 'application/merge-patch+json', 'If-Match': `"${setup.revision}"` },
    data: { subjects: { items: { [subject]: { pose: { clip: 'looks up', time: 0 } } } } },
  });
  expect(posed.ok()).toBe(true);
  await expect(frame).toBeEnabled();
  await untilSamples(page, 1);
  const first = await cells(page, 12, 8);
  const differs = async () => {
    const now = await cells(page, 12, 8);
    return Math.max(...now.map((v, i) => Math.abs(v - first[i]!)));
  };
  await page.getByRole('button', { name: /^The middle frame/ }).click();
  await expect(frame).toHaveValue('1025');
  await expect.poll(differs, { timeout: 60_000 }).toBeGreaterThan(8);
  // a picture that is kept is of the first frame, as its setup says: that is shown first
  await page.getByRole('button', { name: /^Keep proof/ }).click();
  await expect(page.getByText(/Frame 1025 was shown/)).toBeVisible();
  await expect(frame).toHaveValue('1001');
  await expect(page.getByTestId('proof')).toHaveCount(0);
  await page.getByRole('button', { name: /^The middle frame/ }).click();
  // nothing of it is saved, and what is typed stays within the shot
  expect((await asked<Posed>(page, `setups/${id}`)).revision).toBe(setup.revision + 1);
  await frame.fill('5000');
  await frame.press('Enter');
  await expect(frame).toHaveValue('1050');
  await frame.press('ArrowDown');
  await expect(frame).toHaveValue('1049');
  await page.getByRole('button', { name: /^The first frame/ }).click();
  await expect(frame).toHaveValue('1001');
  await expect.poll(differs, { timeout: 60_000 }).toBeLessThan(8);

  // on the board, too: as the shot is now, at another frame
  await page.goto(`/sequence/${sequence.id}`);
  const card = page.getByTestId('shot-S_10'),
    pictures = page.getByLabel('Pictures of the shots');
  await expect(card).toContainText('no proof yet');
  await pictures.selectOption('first frames');
  await expect(card.getByRole('img', { name: 'S_10 at frame 1001' })).toBeVisible({ timeout: 60_000 });
  const begins = await cellsOf(card.getByTestId('glimpse'), 12, 8);
  await pictures.selectOption('middle frames');
  await expect(card.getByRole('img', { name: 'S_10 at frame 1025' })).toBeVisible();
  await expect.poll(async () => apart(begins, await cellsOf(card.getByTestId('glimpse'), 12, 8)), { timeout: 60_000 }).toBeGreaterThan(8);
  await pictures.selectOption('latest proofs');
  await expect(card).toContainText('no proof yet');
});
