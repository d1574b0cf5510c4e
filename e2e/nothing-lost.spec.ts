import { expect, test, type Page } from '@playwright/test';
import { copiedSetup, openStage, untilSaved } from './stage.ts';

interface Kept {
  revision: number;
  document: { brief: string; lights: { items: { [id: string]: { stops: number } } } };
}
const kept = async (page: Page, id: string): Promise<Kept> => (await (await page.request.get(`/api/setups/${id}`)).json()) as Kept;
const brief = (page: Page) => page.getByTestId('brief');
async function say(page: Page, words: string): Promise<void> {
  await brief(page).fill(words);
  await brief(page).press('Enter');
}

test('an answer that is lost on its way costs nothing: the change is kept once, and undo goes on', async ({ page }) => {
  const id = await copiedSetup(page);
  // nothing is heard either: else the page would know without the answer
  await page.route('**/events*', (route) => route.abort());
  await openStage(page, id);
  let lose = 2;
  await page.route('**/api/setups/*', async (route) => {
    if (route.request().method() !== 'PATCH' || lose-- <= 0) return route.continue();
    // taken by the server, but nobody hears of it
    await route.fetch();
    await route.abort();
  });
  await say(page, 'the answer is lost');
  await expect(page.getByTestId('save-state')).toHaveAttribute('data-state', 'offline');
  await untilSaved(page);
  expect(await kept(page, id)).toMatchObject({ revision: 2, document: { brief: 'the answer is lost' } });
  await page.getByRole('button', { name: 'Undo' }).click();
  await untilSaved(page);
  expect((await kept(page, id)).document.brief).not.toBe('the answer is lost');
});

test('a server in trouble, a full disk and too much at once are waited for, a reload in mid-save too', async ({ page }) => {
  const id = await copiedSetup(page);
  await openStage(page, id);
  const troubles = [500, 507, 429, 404];
  await page.route('**/api/setups/*', (route) => {
    if (route.request().method() !== 'PATCH' || !troubles.length) return route.continue();
    const status = troubles.shift()!;
    return route.fulfill({
      status,
      contentType: 'application/problem+json',
      headers: { 'retry-after': '1' },
      body: JSON.stringify({ type: 'about:blank', title: `Trouble ${status}`, status }),
    });
  });
  await say(page, 'through thick and thin');
  await expect(page.getByTestId('save-state')).toHaveAttribute('data-state', 'offline');
  await page.reload();
  await expect(brief(page)).toHaveValue('through thick and thin');
  await untilSaved(page);
  expect(troubles).toEqual([]);
  expect((await kept(page, id)).document.brief).toBe('through thick and thin');
});

test('a browser that keeps nothing says so once, and saving goes on', async ({ page }) => {
  const id = await copiedSetup(page);
  await page.addInitScript(() =>
    Object.defineProperty(window, 'localStorage', {
      get() {
        throw new DOMException('blocked', 'SecurityError');
      },
    }),
  );
  await openStage(page, id);
  await say(page, 'one');
  await expect(page.getByText('This browser keeps nothing for this page')).toHaveCount(1);
  await untilSaved(page);
  await say(page, 'two');
  await untilSaved(page);
  await expect(page.getByText('This browser keeps nothing for this page')).toHaveCount(1);
  expect((await kept(page, id)).document.brief).toBe('two');
});

test('two windows on one setup: what each did stands, also what neither had sent when one was closed', async ({ page, context }) => {
  const id = await copiedSetup(page);
  await openStage(page, id);
  const other = await context.newPage();
  await openStage(other, id);
  for (const [window, key] of [
    [page, '1'],
    [other, '2'],
  ] as const) {
    await window.bringToFront();
    await window.keyboard.press(key);
    await window.keyboard.press('+');
  }
  await untilSaved(page);
  await untilSaved(other);
  const { lights } = (await kept(page, id)).document;
  const source = lights.items;
  // now neither can send; one is closed with its change, the other keeps its own
  let gone = true;
  for (const window of [page, other])
    await window.route('**/api/setups/*', (route) => (gone && route.request().method() === 'PATCH' ? route.abort() : route.continue()));
  await page.bringToFront();
  await page.keyboard.press('+');
  await expect(page.getByTestId('save-state')).toHaveAttribute('data-state', 'offline');
  await other.bringToFront();
  await other.keyboard.press('+');
  await expect(other.getByTestId('save-state')).toHaveAttribute('data-state', 'offline');
  await other.close();
  gone = false;
  await untilSaved(page);
  const reopened = await context.newPage();
  await openStage(reopened, id);
  await untilSaved(reopened);
  const after = (await kept(page, id)).document.lights.items;
  expect(after['key']!.stops).toBeCloseTo(source['key']!.stops + 1 / 3, 2);
  expect(after['fill']!.stops).toBeCloseTo(source['fill']!.stops + 1 / 3, 2);
});

test('two windows see each other’s changes as they are made: a light that is added, a level, a light that is taken away', async ({
  page,
  context,
}) => {
  const id = await copiedSetup(page);
  await openStage(page, id);
  const other = await context.newPage();
  await openStage(other, id);
  // both add a light before either has heard of the other
  for (const window of [page, other]) {
    await window.bringToFront();
    await window.keyboard.press('2');
    await window.keyboard.press('d');
  }
  const cards = (window: Page) => window.getByTestId(/^card-/);
  await expect(cards(page)).toHaveCount(7);
  await expect(cards(other)).toHaveCount(7);
  await other.keyboard.press('1');
  await other.keyboard.press('+');
  await expect(page.getByTestId('stops-key')).toHaveText('+⅓');
  await other.keyboard.press('Delete');
  await expect(cards(page)).toHaveCount(6);
  // what was done here can still be undone: this window's own light goes, the other's stays
  await page.bringToFront();
  await page.keyboard.press('Control+z');
  await expect(cards(page)).toHaveCount(5);
  await expect(cards(other)).toHaveCount(5);
  await untilSaved(page);
  const { lights } = (await kept(page, id)).document;
  expect(Object.keys(lights.items).filter((l) => /^fill-\d[a-z]{3}$/.test(l))).toHaveLength(1);
});

test('the Call sheet finds setups, comes in pages, and gives back what was thrown away', async ({ page }) => {
  const id = await copiedSetup(page);
  const { document } = (await (await page.request.get(`/api/setups/${id}`)).json()) as { document: object };
  for (let n = 0; n < 33; n++) await page.request.post('/api/setups', { data: { document: { ...document, name: `Harbour ${n}` } } });
  await page.goto('/');
  const cards = page.getByTestId('setup-card');
  await expect(cards).toHaveCount(30);
  await page.getByLabel('Find setups').fill('harbour');
  await expect(page.getByRole('heading', { name: 'Harbour 32' })).toBeVisible();
  await expect(cards).toHaveCount(30);
  await page.getByRole('button', { name: 'Show more' }).click();
  await expect(cards).toHaveCount(33);
  await page.getByLabel('Find setups').fill('harbour 17');
  await expect(cards).toHaveCount(1);
  await page.getByRole('button', { name: 'Throw Harbour 17 away' }).click();
  await expect(page.getByText('Nothing is called “harbour 17”')).toBeVisible();
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect(page.getByText('Harbour 17 is back')).toBeVisible();
  await expect(cards).toHaveCount(1);
  // other tests look for the demo on the first page
  const { items } = (await (await page.request.get('/api/setups?search=harbour&limit=100')).json()) as { items: { id: string }[] };
  for (const setup of items) await page.request.delete(`/api/setups/${setup.id}`);
});

test('a page that breaks says so, with a way back', async ({ page }) => {
  const id = await copiedSetup(page);
  await page.addInitScript(() => Object.assign(window, { ResizeObserver: undefined }));
  await page.goto(`/setup/${id}`);
  await expect(page.getByText('This page broke')).toBeVisible();
  await page.getByRole('link', { name: 'All setups' }).click();
  await expect(page.getByRole('heading', { name: 'Call sheet' })).toBeVisible();
});
