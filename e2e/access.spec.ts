import AxeBuilder from '@axe-core/playwright';
import { expect, test, type Page } from '@playwright/test';
import { finishedExr } from './films.ts';
import { copiedSetup, openStage } from './stage.ts';

// WCAG 2.2 A and AA as axe-core checks it.
const faults = async (page: Page) => {
  const { violations } = await new AxeBuilder({ page })
    .withTags(['wcag2a', 'wcag2aa', 'wcag21a', 'wcag21aa', 'wcag22aa'])
    // our pages have no frames: no second page is opened to put their results together
    .setLegacyMode()
    .analyze();
  return violations
    .filter((v) => v.impact === 'serious' || v.impact === 'critical')
    .map(
      (v) =>
        `${v.id}: ${v.nodes
          .map((n) => n.target.join(' '))
          .slice(0, 4)
          .join(' | ')}`,
    );
};

/** What is cut off within its own box, or lies outside the window, among everything that holds words. */
const cutOff = (page: Page) =>
  page.evaluate(() => {
    const out: string[] = [];
    for (const e of document.querySelectorAll<HTMLElement>('main span, main h2, main h3, main button, main label, header *, [role=tab]')) {
      const text = e.textContent?.trim() ?? '';
      if (text === '' || e.children.length > 0 || e.closest('[aria-hidden]') || e.closest('.sr-only')) continue;
      // what is told in full where it is pointed at may be shortened
      if (e.title.includes(text)) continue;
      // a row that scrolls may hold more than it shows
      let scrolls = false;
      for (let up = e.parentElement; up; up = up.parentElement) scrolls ||= /auto|scroll/.test(getComputedStyle(up).overflowX);
      const box = e.getBoundingClientRect();
      if (box.width === 0 || box.height === 0 || !e.checkVisibility()) continue;
      if (e.scrollWidth > e.clientWidth + 1 && getComputedStyle(e).overflow !== 'visible' && e.clientWidth > 0) out.push(`cut: ${text}`);
      if (!scrolls && (box.right > innerWidth + 1 || box.left < -1)) out.push(`outside: ${text}`);
    }
    return out;
  });

/** Words of one sheet that cover each other. */
const covering = (page: Page) =>
  page.evaluate(() => {
    const words = [...document.querySelectorAll<HTMLElement>('section[aria-label=Sheet] :is(span, input, select, button, h3, p)')]
      .filter((e) => e.children.length === 0 || e.matches('select, button'))
      .map((e) => ({ e, box: e.getBoundingClientRect() }))
      .filter(({ e, box }) => box.width > 0 && box.height > 0 && e.checkVisibility());
    const out: string[] = [];
    words.forEach((a, i) => {
      for (const b of words.slice(i + 1)) {
        if (a.e.contains(b.e) || b.e.contains(a.e)) continue;
        const w = Math.min(a.box.right, b.box.right) - Math.max(a.box.left, b.box.left),
          h = Math.min(a.box.bottom, b.box.bottom) - Math.max(a.box.top, b.box.top);
        if (w > 2 && h > 3) out.push(`${a.e.textContent?.slice(0, 30)} × ${b.e.textContent?.slice(0, 30)}`);
      }
    });
    return out;
  });

/** Pages of the reading, where it is large. */
const PAGES = ['face', 'directions', 'wishes', 'targets', 'findings', 'motion'];
const readLarge = async (page: Page) => {
  await page.getByRole('button', { name: /READING large/ }).click();
  await expect(page.getByTestId('reading-words')).not.toHaveText('', { timeout: 60_000 });
};
const openPage = (page: Page, name: string) =>
  page
    .getByTestId('reading')
    .getByRole('button', { name: new RegExp(`^${name}`) })
    .first()
    .click();

const SHEETS = ['Light', 'Camera', 'Look', 'Stage', 'Surfaces', 'Character'];

test('no serious fault for who sees, hears or points otherwise, on any screen', async ({ page }) => {
  await page.goto('/');
  await expect(page.getByTestId('setup-card').first()).toBeVisible();
  expect(await faults(page)).toEqual([]);
  await openStage(page, await copiedSetup(page));
  for (const name of SHEETS) {
    await page.getByRole('tab', { name, exact: true }).click();
    expect({ name, faults: await faults(page) }).toEqual({ name, faults: [] });
  }
  await page.getByRole('tab', { name: 'Stage', exact: true }).click();
  await page.getByRole('tab', { name: 'Only shadows' }).click();
  expect(await faults(page)).toEqual([]);
  await page.keyboard.press('t');
  await page
    .getByRole('button', { name: /^Unfold/ })
    .first()
    .click();
  expect(await faults(page)).toEqual([]);
  await page.keyboard.press('Escape');
  await page.getByRole('button', { name: /^More files/ }).click();
  expect(await faults(page)).toEqual([]);
  await page.keyboard.press('Escape');
  await page.keyboard.press('?');
  expect(await faults(page)).toEqual([]);
  await page.keyboard.press('Escape');
  await page.keyboard.press('a');
  expect(await faults(page)).toEqual([]);
});

test('nor on the pages of the reading', async ({ page }) => {
  test.slow();
  await openStage(page, await copiedSetup(page));
  await readLarge(page);
  for (const name of PAGES) {
    await openPage(page, name);
    expect({ name, faults: await faults(page) }).toEqual({ name, faults: [] });
  }
});

test('nor on the wall of proofs, the turntable, the kits and the history', async ({ page }) => {
  test.slow();
  const id = await copiedSetup(page);
  const { items } = (await (await page.request.get('/api/proofs?limit=2')).json()) as { items: { id: string }[] };
  await page.goto(`/proofs?on=${items.map((p) => p.id).join(',')}`);
  await expect(page.getByTestId('readings')).toBeVisible();
  expect(await faults(page)).toEqual([]);
  await page.getByRole('button', { name: 'Wipe' }).click();
  expect(await faults(page)).toEqual([]);
  await page.goto('/kits');
  await page.getByTestId('kit-First lamp').click();
  await expect(page.getByRole('complementary', { name: 'About First lamp' })).toBeVisible();
  expect(await faults(page)).toEqual([]);
  await page.goto(`/turntable/${id}`);
  await expect(page.getByTestId('safe-words')).toBeVisible({ timeout: 60_000 });
  expect(await faults(page)).toEqual([]);
  await openStage(page, id);
  await page.keyboard.press('k');
  await expect(page.getByRole('region', { name: 'Kits' })).toBeVisible();
  expect(await faults(page)).toEqual([]);
  await page.keyboard.press('k');
  await page.getByRole('button', { name: 'History' }).click();
  expect(await faults(page)).toEqual([]);
});

test('nor on the first screen with productions, the board of a sequence, its report of a list and a shot', async ({ page }) => {
  test.slow();
  await page.goto('/');
  await page.getByRole('region', { name: 'The lamp and the tide' }).getByRole('button', { name: 'Sequence' }).click();
  await expect(page.getByRole('form', { name: 'New sequence' })).toBeVisible();
  expect(await faults(page)).toEqual([]);
  await page.getByRole('link', { name: 'Open Low tide' }).click();
  await page.getByLabel('Choose LT_010').click();
  await page.getByText(/^jumps from/).click();
  expect(await faults(page)).toEqual([]);
  await page.getByText(/^jumps from/).click();
  await page
    .getByTestId('list-input')
    .setInputFiles({ name: 'cut.csv', mimeType: 'text/csv', buffer: Buffer.from('shot,first,last\nLT_010,1001,1010\nLT_040,1,9\n') });
  await expect(page.getByTestId('list-report')).toBeVisible();
  expect(await faults(page)).toEqual([]);
  await page.keyboard.press('Escape');
  await page.getByLabel('Open LT_020').click();
  await page.getByRole('button', { name: /departures$/ }).click();
  await expect(page.getByTestId('departure').first()).toBeVisible();
  expect(await faults(page)).toEqual([]);
});

test('nor in the Lab, on what is sent to it, and on finished pictures that are balanced', async ({ page }) => {
  await page.goto('/');
  await page.getByRole('link', { name: 'Open Low tide' }).click();
  await page.getByRole('button', { name: 'Send to the Lab' }).click();
  await expect(page.getByTestId('estimate')).toContainText('3 frames');
  expect(await faults(page)).toEqual([]);
  await page.getByTestId('send-job').getByRole('button', { name: 'Send' }).click();
  await page.getByTestId('frame').first().click();
  await page.getByRole('button', { name: 'Add a node' }).click();
  expect(await faults(page)).toEqual([]);
  await page.getByLabel('Name of the new node').fill('access');
  await page.getByRole('button', { name: 'Make its token' }).click();
  await expect(page.getByRole('dialog', { name: /^Node / })).toBeVisible();
  expect(await faults(page)).toEqual([]);
  await page.keyboard.press('Escape');
  await page.getByRole('button', { name: 'Cancel' }).click();
  await page.getByRole('button', { name: 'Take the token of access back' }).click();
  await page.goto('/lab/balance');
  expect(await faults(page)).toEqual([]);
  const { document } = (await (await page.request.get(`/api/setups/${await copiedSetup(page)}`)).json()) as { document: object };
  await page
    .getByLabel('EXR of a finished picture')
    .setInputFiles({ name: 'night.exr', mimeType: 'image/x-exr', buffer: finishedExr(document) });
  await expect(page.getByTestId('graded')).toHaveAttribute('data-ready', 'true');
  expect(await faults(page)).toEqual([]);
  for (const [width, height] of [
    [1024, 768],
    [1280, 800],
    [1920, 1080],
  ] as const) {
    await page.setViewportSize({ width, height });
    await page.waitForTimeout(120);
    const where = `${width} × ${height}`;
    expect([where, ...(await cutOff(page))]).toEqual([where]);
  }
});

test('the Stage fits its window: nothing cut, nothing over another, no sheet to be scrolled', async ({ page }) => {
  await openStage(page, await copiedSetup(page));
  for (const [width, height] of [
    [1024, 768],
    [1280, 800],
    [1920, 1080],
    [2560, 1440],
  ] as const) {
    await page.setViewportSize({ width, height });
    for (const name of SHEETS) {
      await page.getByRole('tab', { name, exact: true }).click();
      await page.waitForTimeout(120);
      const where = `${name} at ${width} × ${height}`;
      expect([where, ...(await cutOff(page))]).toEqual([where]);
      expect([where, ...(await covering(page))]).toEqual([where]);
      const [tall, room] = await page
        .locator('section[aria-label=Sheet] > div:last-child')
        .evaluate((e) => [e.scrollHeight, e.clientHeight] as const);
      if (height >= 800)
        expect(`${where}: ${tall > room + 1 ? tall - room : 0} pixels below the fold`).toBe(`${where}: 0 pixels below the fold`);
    }
    // the room is used: the column grows with the window
    if (width >= 1920) expect((await page.getByTestId('column').boundingBox())!.width).toBeGreaterThan(500);
  }
});

test('the pages of the reading fit theirs', async ({ page }) => {
  await openStage(page, await copiedSetup(page));
  await readLarge(page);
  for (const [width, height] of [
    [1024, 768],
    [1280, 800],
    [1920, 1080],
  ] as const) {
    await page.setViewportSize({ width, height });
    for (const name of PAGES) {
      await openPage(page, name);
      await page.waitForTimeout(120);
      const where = `${name} at ${width} × ${height}`;
      expect([where, ...(await cutOff(page))]).toEqual([where]);
    }
  }
});
