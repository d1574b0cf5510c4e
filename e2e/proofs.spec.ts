// Two looks kept, compared on the wall, brought back in parts; and the history of a setup.
import { spawnSync } from 'node:child_process';
import { expect, test, type Page } from '@playwright/test';
import { copiedSetup, openStage, untilSamples, untilSaved } from './stage.ts';

interface Document {
  lights: { items: Record<string, { stops: number; place: { azimuth: number } }> };
}
const kept = async (page: Page, id: string) =>
  ((await (await page.request.get(`/api/setups/${id}`)).json()) as { document: Document }).document.lights.items;
const keepProof = async (page: Page, count: number) => {
  await page.keyboard.press('p');
  await expect(page.getByTestId('proof')).toHaveCount(count, { timeout: 60_000 });
};

// a drag far outwards leaves the window: the browser tells of it only where a pixel of the page is one of the screen
test.use({ deviceScaleFactor: 1 });

test('two proofs on the wall: wiped, told apart, pinned; one light comes back, undone; a setup of its own; the wall as a PDF', async ({
  page,
}) => {
  test.slow();
  const id = await copiedSetup(page, 'Looks to compare');
  await openStage(page, id);
  await expect(page.getByTestId('pattern')).toHaveText('Closed triangle', { timeout: 90_000 });
  await keepProof(page, 1);
  await page.keyboard.press('2');
  for (let i = 0; i < 3; i++) await page.keyboard.press('Shift++');
  await page.keyboard.press('1');
  for (let i = 0; i < 8; i++) await page.keyboard.press('Shift+ArrowLeft');
  await untilSaved(page);
  const changed = await kept(page, id);
  await expect(page.getByTestId('pattern')).not.toHaveText('Closed triangle', { timeout: 90_000 });
  await untilSamples(page, 1);
  await keepProof(page, 2);

  await page.getByRole('link', { name: 'wall' }).click();
  const panes = page.getByTestId('pane');
  await expect(panes).toHaveCount(2);
  const table = page.getByTestId('readings');
  const row = (label: string) => table.getByRole('row').filter({ has: page.getByRole('rowheader', { name: label, exact: true }) });
  await expect(row('Against the first')).toContainText('key: round to 0°');
  await expect(row('Against the first')).toContainText('fill: +3 stop');
  await expect(row('Pattern')).toContainText('Closed triangle');
  await expect(row('Key')).toContainText('≠ from the front');

  // a far wheel and a drag outwards leave the picture within its frame, both alike
  const first = (await panes.first().locator('img').boundingBox())!;
  await page.mouse.move(first.x + first.width * 0.3, first.y + first.height * 0.3);
  await page.mouse.wheel(0, -600);
  await expect(page.getByTestId('zoom')).not.toHaveText('100 %');
  await page.mouse.down();
  await page.mouse.move(2000, 1500, { steps: 4 });
  await page.mouse.up();
  const frames = await panes.evaluateAll((all) =>
    all.map((pane) => {
      const frame = pane.querySelector('div')!.getBoundingClientRect(),
        img = pane.querySelector('img')!.getBoundingClientRect();
      return [img.left - frame.left, img.top - frame.top, img.width / frame.width];
    }),
  );
  expect(frames[0]![0]).toBeCloseTo(0, 0);
  for (const k of [0, 1, 2]) expect(frames[1]![k]).toBeCloseTo(frames[0]![k]!, 1);
  await page.getByTestId('zoom').click();

  await page.getByRole('button', { name: 'Difference' }).click();
  await expect(page.getByTestId('difference')).toContainText('% differ by half a stop or more', { timeout: 30_000 });
  await page.getByRole('button', { name: 'Wipe' }).click();
  const line = page.getByRole('slider', { name: 'Line between the first and the other' });
  const at = (await page.getByTestId('wipe-line').boundingBox())!;
  await page.mouse.move(at.x + at.width / 2, at.y + at.height / 2);
  await page.mouse.down();
  await page.waitForTimeout(500);
  await page.mouse.move(at.x - 3000, at.y, { steps: 5 });
  await page.mouse.up();
  await expect(line).toHaveAttribute('aria-valuenow', '0');

  const leaf = page.getByRole('complementary', { name: /^About / });
  await leaf.getByRole('button', { name: 'Add a pin' }).click();
  const pane = (await panes.locator('> div').boundingBox())!;
  await page.mouse.click(pane.x + pane.width * 0.6, pane.y + pane.height * 0.4);
  await expect(page.getByTestId('pin')).toHaveCount(1);
  await leaf.getByLabel('Words of pin 1').fill('too bright here');
  await leaf.getByLabel('Notes').fill('the fill eats the shadow');
  await leaf.getByLabel('Name of the proof').fill('Fill up');
  await leaf.getByLabel('Name of the proof').press('Enter');
  await expect(page.getByRole('button', { name: /^2 Fill up/ }).first()).toBeVisible();
  // what is on the wall stands in its address, what is said of a proof on the server
  await page.reload();
  await panes.nth(1).getByRole('button').click();
  await expect(leaf.getByLabel('Words of pin 1')).toHaveValue('too bright here');
  await expect(leaf.getByLabel('Notes')).toHaveValue('the fill eats the shadow');

  // only one light of the first comes back
  await panes.first().getByRole('button').click();
  await leaf.getByLabel('only Fill').check();
  await leaf.getByRole('button', { name: 'Restore these' }).click();
  const toast = page.locator('[data-sonner-toast]');
  await expect(toast.filter({ hasText: 'only Fill from' })).toBeVisible();
  const restored = await kept(page, id);
  expect([restored['fill']!.stops, restored['key']!.place.azimuth]).toEqual([0, changed['key']!.place.azimuth]);
  await toast.filter({ hasText: 'only Fill from' }).getByRole('button', { name: 'Undo' }).click();
  await expect(async () => expect((await kept(page, id))['fill']!.stops).toBe(3)).toPass();

  await leaf.getByRole('button', { name: 'New setup from this' }).click();
  await expect(toast.filter({ hasText: 'is a setup of its own' })).toBeVisible();
  const made = (await (await page.request.get('/api/setups?search=Looks to compare, Proof 1')).json()) as { items: { id: string }[] };
  expect((await kept(page, made.items[0]!.id))['fill']!.stops).toBe(0);
  expect((await kept(page, id))['fill']!.stops).toBe(3);

  const [download] = await Promise.all([page.waitForEvent('download'), page.getByRole('button', { name: 'PDF' }).click()]);
  // poppler reads what is written in it
  const text = spawnSync('pdftotext', [await download.path(), '-'], { encoding: 'utf8' }).stdout;
  for (const words of ['Looks to compare', 'Closed triangle', 'Fill up', 'Against the first']) expect(text).toContain(words);

  // found by words of its notes, taken off and thrown away, had back
  await page.getByLabel('Find proofs by words').fill('eats the shadow');
  const shelf = page.getByRole('list', { name: 'Proofs' });
  await expect(shelf.getByRole('button')).toHaveCount(1);
  await panes.nth(1).getByRole('button').click();
  await leaf.getByRole('button', { name: 'Throw it away' }).click();
  await expect(panes).toHaveCount(1);
  await toast.filter({ hasText: 'Fill up thrown away' }).getByRole('button', { name: 'Undo' }).click();
  await expect(shelf.getByRole('button', { name: /^Fill up/ })).toBeVisible();
});

test('the history: a moment is shown, left, kept, undone; the line loses nothing', async ({ page }) => {
  const id = await copiedSetup(page, 'A long afternoon');
  await openStage(page, id);
  await page.getByRole('button', { name: 'History' }).click();
  const history = page.getByRole('region', { name: 'History' });
  await expect(history).toContainText('Nothing was changed yet');
  for (const key of ['+', 'm', 'Shift++']) {
    await page.keyboard.press(key);
    await untilSaved(page);
  }
  await expect(history.getByRole('button', { name: /·/ })).toHaveCount(4);
  await expect(history.getByRole('button', { name: /· 4/ })).toContainText('key: +1 stop');
  const stops = async () => (await kept(page, id))['key']!.stops;
  const last = await stops();
  await history.getByRole('button', { name: /· 2/ }).click();
  const preview = page.getByTestId('preview');
  await expect(preview).toContainText('As it was after “key: +⅓ stop”');
  await preview.getByRole('button', { name: 'Leave' }).click();
  await untilSaved(page);
  expect(await stops()).toBe(last);
  await history.getByRole('button', { name: /the beginning/ }).click();
  await expect(preview).toContainText('As it was made');
  await preview.getByRole('button', { name: 'Keep' }).click();
  await untilSaved(page);
  expect(await stops()).toBe(0);
  await page.keyboard.press('Escape');
  await page.keyboard.press('Control+z');
  await untilSaved(page);
  expect(await stops()).toBe(last);

  // its lighting plan, as a page that poppler reads
  await page.getByRole('button', { name: 'More files' }).click();
  const [plan] = await Promise.all([page.waitForEvent('download'), page.getByRole('menuitem', { name: 'Lighting plan as PDF' }).click()]);
  const text = spawnSync('pdftotext', [await plan.path(), '-'], { encoding: 'utf8' }).stdout;
  for (const words of ['A long afternoon', '1 : 50', '50 × 65 cm', 'Back wall', 'Camera Portrait']) expect(text).toContain(words);
});
