import { expect, test, type Page } from '@playwright/test';
import { copiedSetup, openStage, untilSaved } from './stage.ts';

/** Mean of a light's small picture within a part of it, 0…255. */
const share = (page: Page, id: string, [x, y, w, h]: [number, number, number, number]) =>
  page.getByTestId(`thumb-${id}`).evaluate(
    (canvas: HTMLCanvasElement, box) => {
      const [x, y, w, h] = box as [number, number, number, number];
      const { data } = canvas.getContext('2d')!.getImageData(x * canvas.width, y * canvas.height, w * canvas.width, h * canvas.height);
      return data.reduce((sum, v, i) => (i % 4 < 3 ? sum + v : sum), 0) / ((data.length / 4) * 3);
    },
    [x, y, w, h],
  );
const CORNER: [number, number, number, number] = [0.02, 0.05, 0.15, 0.4],
  FACE: [number, number, number, number] = [0.4, 0.2, 0.2, 0.6];

test('a light leaves the stage alone, gives the shadow back, reaches the hair only; undone, kept through a reload, by keyboard too', async ({
  page,
}) => {
  const id = await copiedSetup(page);
  await openStage(page, id);
  await page.keyboard.press('1');
  await page.getByRole('tab', { name: 'Reach' }).click();
  const words = page.getByTestId('reach-words');
  await expect(words).toHaveText('Lights everything; casts the shadow of everything.');
  await expect.poll(() => share(page, 'key', CORNER)).toBeGreaterThan(4);
  const face = await share(page, 'key', FACE);

  // shown first, and one step of undo
  await page.getByRole('button', { name: 'Off the stage' }).click();
  await expect(page.getByTestId('preview')).toContainText('leaves the stage alone');
  await expect(words).toHaveText('Lights everything but the stage; casts the shadow of everything.');
  await expect.poll(() => share(page, 'key', CORNER)).toBeLessThan(1);
  await expect.poll(() => share(page, 'key', FACE)).toBeGreaterThan(face / 2);
  await page.getByRole('button', { name: 'Leave', exact: true }).click();
  await expect(words).toHaveText('Lights everything; casts the shadow of everything.');
  await page.getByRole('button', { name: 'Off the stage' }).click();
  await page.getByRole('button', { name: 'Keep', exact: true }).click();

  // its own light for the shadow stands where it stands
  await page.getByRole('button', { name: 'Shadow back' }).click();
  await expect(page.getByRole('button', { name: 'B Key, shadow' }).last()).toBeVisible();
  await page.locator('body').press('Control+z');
  await expect(page.getByRole('button', { name: 'B Key, shadow' })).toHaveCount(0);

  // marks: nothing but the hair, by keyboard; the group says that some of it is in
  const all = page.getByRole('checkbox', { name: 'Key lights everything' });
  expect(await all.evaluate((input: HTMLInputElement) => input.indeterminate)).toBe(true);
  await all.focus();
  await page.keyboard.press('Space');
  await expect(all).toBeChecked();
  await page.keyboard.press('Space');
  await expect(words).toContainText('Lights nothing; casts the shadow of everything. It lights nothing that is here.');
  await page.getByRole('button', { name: /^Parts of/ }).click();
  await page.getByRole('checkbox', { name: 'Key lights hair' }).click();
  await expect(words).toContainText('hair');
  await expect.poll(() => share(page, 'key', CORNER)).toBeLessThan(1);
  await untilSaved(page);
  await page.reload();
  await page.getByText('Add light').waitFor();
  await page.keyboard.press('1');
  await page.getByRole('tab', { name: 'Reach' }).click();
  await expect(words).toContainText('hair');

  // half of the figure's shadow; what is no number is not taken, and undo takes it back
  const density = page.getByLabel('Shadow of The old keeper, percent');
  await density.fill('abc');
  await density.press('Enter');
  await expect(density).toHaveValue('100');
  await density.fill('50');
  await density.press('Enter');
  await expect(words).toContainText('that of The old keeper at 50 %');
  await page.locator('body').press('Control+z');
  await expect(words).not.toContainText('50 %');

  // a part that nobody has waits, and can be forgotten; what no rule can name is refused by field and reason
  const patch = (reach: unknown) =>
    page.evaluate(
      async ([id, reach]) => {
        const { revision } = (await (await fetch(`/api/setups/${id as string}`)).json()) as { revision: number };
        const answer = await fetch(`/api/setups/${id as string}`, {
          method: 'PATCH',
          headers: { 'content-type': 'application/merge-patch+json', 'if-match': `"${revision}"`, 'idempotency-key': crypto.randomUUID() },
          body: JSON.stringify({ lights: { items: { key: { reach } } } }),
        });
        return { status: answer.status, text: await answer.text() };
      },
      [id, reach] as const,
    );
  const refused = await patch({ lights: { cellar: false } });
  expect(refused.status).toBe(422);
  expect(refused.text).toMatch(/reach.*lights.*cellar/s);
});

test('two windows on one light’s reach: what each says of another object stands, a reload in mid-save loses nothing, undo takes back one’s own', async ({
  page,
  context,
}) => {
  const id = await copiedSetup(page);
  const leaf = async (window: Page) => {
    await openStage(window, id);
    await window.keyboard.press('1');
    await window.getByRole('tab', { name: 'Reach' }).click();
    await window.getByRole('button', { name: 'Parts of The old keeper' }).waitFor();
  };
  await leaf(page);
  const other = await context.newPage();
  await leaf(other);
  const mark = (window: Page, words: string) => window.getByRole('checkbox', { name: words });
  // both before either has heard of the other
  const held: (() => void)[] = [];
  for (const window of [page, other])
    await window.route('**/api/setups/*', async (route) => {
      if (route.request().method() === 'PATCH') await new Promise<void>((resolve) => held.push(resolve));
      await route.continue().catch(() => undefined);
    });
  await page.bringToFront();
  await mark(page, 'Key lights the stage').click();
  await other.bringToFront();
  await mark(other, 'The old keeper casts a shadow of Key').click();
  await expect.poll(() => held.length).toBeGreaterThanOrEqual(2);
  for (const window of [page, other]) await window.unrouteAll({ behavior: 'ignoreErrors' });
  for (const go of held) go();
  const both = /^Lights everything but the stage; casts the shadow of everything but The old keeper\.$/;
  for (const window of [page, other]) await expect(window.getByTestId('reach-words')).toHaveText(both);
  await untilSaved(page);
  await untilSaved(other);

  // a change, and a reload before it can be sent
  await other.route('**/api/setups/*', (route) => (route.request().method() === 'PATCH' ? route.abort() : route.continue()));
  await other.getByRole('button', { name: 'Parts of The old keeper' }).click();
  await mark(other, 'Key lights hair').click();
  await other.unrouteAll({ behavior: 'ignoreErrors' });
  await leaf(other);
  await expect(other.getByTestId('reach-words')).toContainText('hair');
  await expect(page.getByTestId('reach-words')).toContainText('hair');

  // undo here takes back what was said here, not what the other said since
  await page.bringToFront();
  await page.locator('body').press('Control+z');
  await expect(page.getByTestId('reach-words')).toHaveText(/^Lights everything but The old keeper \/ hair; casts .* but The old keeper\.$/);
  await expect(other.getByTestId('reach-words')).toHaveText(
    /^Lights everything but The old keeper \/ hair; casts .* but The old keeper\.$/,
  );
});
