import { readFileSync } from 'node:fs';
import { expect, test, type Page } from '@playwright/test';
import { brightness, cells, untilSamples, untilSaved } from './stage.ts';

const setupIn = async (page: Page) => {
  const id = page.url().split('/').at(-1)!;
  const { document } = (await (await page.request.get(`/api/setups/${id}`)).json()) as {
    document: { name: string; stage: { kind: string }; subjects: { items: Record<string, { name: string }> }; lights: { items: object } };
  };
  return document;
};

test('the first screen invites: pictures, words, three ways to begin; copies, names and what was thrown away', async ({ page }) => {
  await page.goto('/');
  const card = page.getByTestId('setup-card').filter({ hasText: 'The tide-goat at the door' });
  // the demo ships its pictures, and says when in the reader's own words
  await expect(card.getByRole('img')).toHaveCount(0);
  expect(await card.locator('img').evaluate((i: HTMLImageElement) => i.decode().then(() => i.naturalHeight))).toBeGreaterThan(300);
  await expect(card.getByTestId('card-change')).toHaveText(/^new, \d{1,2}:\d\d/);

  await card.hover();
  await card.getByRole('button', { name: 'Duplicate The tide-goat at the door' }).click();
  const copy = page.getByTestId('setup-card').filter({ hasText: 'The tide-goat at the door copy' });
  await expect(copy).toBeVisible();
  await copy.hover();
  await copy.getByRole('button', { name: /^Rename/ }).click();
  await page.getByTestId('card-name').fill('The goat by day');
  await page.getByTestId('card-name').press('Enter');
  const named = page.getByTestId('setup-card').filter({ hasText: 'The goat by day' });
  await expect(named.getByTestId('card-change')).toHaveText(/^renamed “The goat by day”, /);
  // a name that is left stays as it was
  await named.hover();
  await named.getByRole('button', { name: /^Rename/ }).click();
  await page.getByTestId('card-name').fill('something else');
  await page.getByTestId('card-name').press('Escape');
  await expect(named).toBeVisible();
  await named.hover();
  await named.getByRole('button', { name: 'Throw The goat by day away' }).click();
  await expect(named).toBeHidden();
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect(named).toBeVisible();
});

test('from black to a kept proof, by mouse', async ({ page }) => {
  const problems: string[] = [];
  page.on('pageerror', (e) => problems.push(e.message));
  await page.goto('/');
  await page.getByTestId('new-black').click();
  await page.waitForURL('**/setup/*');
  // a tour is offered once, and can be left at any stop
  await page.getByRole('button', { name: 'Show me round' }).click();
  await expect(page.getByTestId('tour')).toContainText('1 of 6');
  await page.getByRole('button', { name: 'Next' }).click();
  await page.keyboard.press('ArrowRight');
  await expect(page.getByTestId('tour')).toContainText('3 of 6');
  await page.keyboard.press('Escape');
  await expect(page.getByTestId('tour')).toBeHidden();
  await page.reload();
  await expect(page.getByTestId('tour-offer')).toBeHidden();

  await expect(async () => expect(Object.values((await setupIn(page)).subjects.items)[0]?.name).toBe('Stand-in bust')).toPass();
  expect(await setupIn(page)).toMatchObject({ stage: { kind: 'none' }, lights: { items: {} } });
  for (const light of ['key', 'fill', 'rim']) {
    await page.getByRole('button', { name: 'Add light' }).click();
    await page.getByTestId(`shelf-${light}`).click();
  }
  await untilSamples(page, 2);
  await expect(async () => expect(brightness(await cells(page))).toBeGreaterThan(6)).toPass();
  await page.getByTestId('keep-proof').click();
  await expect(page.getByTestId('proof')).toHaveCount(1);
  await untilSaved(page);
  await page.getByRole('link', { name: 'All setups' }).click();
  await expect(page.getByTestId('setup-card').filter({ hasText: 'Untitled' }).first().locator('img')).toBeVisible();
  expect(problems).toEqual([]);
});

test('from black to a kept proof, without a mouse', async ({ page }) => {
  await page.goto('/');
  await expect(page.getByTestId('setup-card').first()).toBeVisible();
  const tabTo = async (what: () => Promise<boolean>) => {
    for (let i = 0; i < 60 && !(await what()); i++) await page.keyboard.press('Tab');
    expect(await what()).toBe(true);
  };
  const focused = (test_: string) => () => page.evaluate((id) => document.activeElement?.getAttribute('data-testid') === id, test_);
  await tabTo(focused('new-black'));
  await page.keyboard.press('Enter');
  await page.waitForURL('**/setup/*');
  await expect(async () => expect(Object.keys((await setupIn(page)).subjects.items)).toHaveLength(1)).toPass();

  // the shelf, its first light; then a rim by tabbing
  await page.keyboard.press('a');
  await expect(page.getByRole('dialog', { name: 'Add a light' })).toBeVisible();
  await tabTo(focused('shelf-key'));
  await page.keyboard.press('Enter');
  await expect(page.getByTestId(/^card-key/)).toBeVisible();
  await page.keyboard.press('a');
  await tabTo(focused('shelf-rim'));
  await page.keyboard.press('Enter');
  await expect(page.getByTestId(/^card-rim/)).toBeVisible();

  // the key in hand, walked round and raised, a stop up, larger, warmer by a field
  await page.keyboard.press('1');
  for (let i = 0; i < 3; i++) await page.keyboard.press('Shift+ArrowRight');
  await page.keyboard.press('ArrowUp');
  await page.keyboard.press('Shift++');
  await page.keyboard.press(']');
  await expect(page.getByTestId('azimuth')).toHaveValue('60');
  await expect(page.getByTestId('elevation')).toHaveValue('36');
  const stood = await page.getByTestId('distance').inputValue();
  await tabTo(focused('distance'));
  await page.keyboard.press('Control+a');
  await page.keyboard.type('1.2');
  await page.keyboard.press('Enter');
  await expect(page.getByTestId('distance')).toHaveValue('1.20');
  await page.keyboard.press('Control+z');
  await expect(page.getByTestId('distance')).toHaveValue(stood);
  await page.keyboard.press('Control+Shift+z');
  await expect(page.getByTestId('distance')).toHaveValue('1.20');
  await untilSamples(page, 1);
  await page.keyboard.press('p');
  await expect(page.getByTestId('proof')).toHaveCount(1);
  await untilSaved(page);
});

/** Drags a file over the page and lets go, as a file manager does. */
async function dropFile(page: Page, name: string, bytes: Buffer, invitation: RegExp): Promise<void> {
  const carried = await page.evaluateHandle(
    ([called, base64]) => {
      const data = new DataTransfer();
      data.items.add(new File([Uint8Array.from(atob(base64!), (c) => c.charCodeAt(0))], called!));
      return data;
    },
    [name, bytes.toString('base64')],
  );
  await page.dispatchEvent('body', 'dragover', { dataTransfer: carried });
  await expect(page.getByText(invitation)).toBeVisible();
  await page.dispatchEvent('body', 'dragleave');
  await expect(page.getByText(invitation)).toBeHidden();
  await page.dispatchEvent('body', 'dragover', { dataTransfer: carried });
  await page.dispatchEvent('body', 'drop', { dataTransfer: carried });
  await expect(page.getByText(invitation)).toBeHidden();
}

test('a character’s file begins a setup of its own, chosen or dropped; on the Stage it comes in', async ({ page }) => {
  const glb = readFileSync(new URL('../demo/assets/goat.glb', import.meta.url));
  const kept = async (name: string) => {
    await page.waitForURL('**/setup/*');
    await page.getByTestId('import-keep').click({ timeout: 60_000 });
    await expect(async () => expect(Object.keys((await setupIn(page)).subjects.items)).toHaveLength(1)).toPass();
    expect((await setupIn(page)).name).toBe(name);
  };
  await page.goto('/');
  await page.getByTestId('new-file-input').setInputFiles({ name: 'quay goat.glb', mimeType: 'model/gltf-binary', buffer: glb });
  await kept('quay goat');
  await page.goto('/');
  await dropFile(page, 'pier goat.glb', glb, /Let go to begin/);
  await kept('pier goat');
  await dropFile(page, 'another goat.glb', glb, /Drop it here/);
  await expect(page.getByTestId('import-report')).toBeVisible({ timeout: 60_000 });
  await page.getByRole('button', { name: 'Leave it' }).click();
  await expect(page.getByTestId('import-report')).toBeHidden();
});
