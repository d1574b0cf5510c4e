import { expect, test, type Page } from '@playwright/test';
import { readFileSync } from 'node:fs';
import { PNG } from 'pngjs';
import { demoSetup, openStage, untilSamples, untilSaved } from './stage.ts';

/** A figure at full length on a grey floor: a key, and a kicker near the floor that burns a spot into it. */
async function onTheFloor(page: Page): Promise<string> {
  const { id } = await demoSetup(page, 'The signaller listens');
  const { document } = (await (await page.request.get(`/api/setups/${id}`)).json()) as {
    document: { lights: { items: Record<string, object> } } & Record<string, object>;
  };
  const { key, fill } = document.lights.items as { key: object; fill: object };
  const made = await page.request.post('/api/setups', {
    data: {
      document: {
        ...document,
        name: 'On the floor',
        stage: { ...document['stage'], kind: 'floor', floor: 0, width: 16, front: 8, back: 8, colour: [0.3, 0.3, 0.3] },
        camera: { ...document['camera'], position: [0, 2.2, 6], target: [0, 0.75, 0], focal: 45, sensor: 24, aspect: 0.8, ev: 6 },
        lights: {
          items: {
            key: { ...key, name: 'Key', place: { azimuth: 50, elevation: 48, distance: 2.6, aim: [0, -0.6, 0] } },
            fill: { ...fill, rank: 'a1', stops: 1 },
            kicker: {
              ...key,
              rank: 'a2',
              name: 'Kicker',
              role: 'kick',
              width: 0.12,
              height: 0.12,
              place: { azimuth: -70, elevation: -42, distance: 1.7, aim: [-0.9, -1.6, 0.1] },
              output: { held: 'luminance', value: 90000, unit: 'cd/m²', efficacy: 15 },
            },
          },
        },
      },
    },
  });
  expect(made.status(), await made.text()).toBe(201);
  return ((await made.json()) as { id: string }).id;
}
const keep = (page: Page) => page.getByRole('button', { name: 'Keep', exact: true }).click();
/** Presses what gives a file, and reads it. */
async function download(page: Page, press: () => Promise<void>): Promise<Buffer> {
  const [file] = await Promise.all([page.waitForEvent('download'), press()]);
  return readFileSync((await file.path())!);
}
/** Alpha of a picture by a reader that is not ours, on a grid of cells from the top, 0…1. */
function alphaCells(bytes: Buffer, columns: number, rows: number): number[][] {
  const { width, height, data } = PNG.sync.read(bytes);
  const cell = (i: number, j: number): number => {
    let sum = 0,
      n = 0;
    for (let y = Math.floor((j * height) / rows); y < Math.floor(((j + 1) * height) / rows); y++)
      for (let x = Math.floor((i * width) / columns); x < Math.floor(((i + 1) * width) / columns); x++, n++)
        sum += data[(y * width + x) * 4 + 3]!;
    return sum / n / 255;
  };
  return Array.from({ length: rows }, (_, j) => Array.from({ length: columns }, (_, i) => cell(i, j)));
}

test('the floor’s hot spot goes, it gets a light of its own and the figure’s shadow back; only the key’s shadow leaves as a transparent PNG; lights leave as .usda and come back', async ({
  page,
}) => {
  test.slow();
  await openStage(page, await onTheFloor(page), 2);
  // found, shown in the picture, taken out by reach
  await page.getByRole('button', { name: /READING large/ }).click();
  await page
    .getByTestId('reading')
    .getByRole('button', { name: /^findings/ })
    .first()
    .click();
  const spot = page.getByTestId('findings').getByRole('listitem').filter({ hasText: 'makes a hot spot on the stage' });
  await expect(spot).toContainText(/^C makes a hot spot on the stage: \d\.\d stops over its middle/, { timeout: 60_000 });
  await spot.hover();
  await expect(page.getByTestId('dots')).toBeVisible();
  await spot.getByRole('button', { name: 'Mend' }).click();
  await keep(page);
  await expect(spot).toHaveCount(0, { timeout: 60_000 });
  await page.keyboard.press('3');
  await page.getByRole('tab', { name: 'Reach' }).click();
  const words = page.getByTestId('reach-words');
  await expect(words).toHaveText('Lights everything but the stage; casts the shadow of everything.');

  // the key leaves the floor to a light of its own, and gives only the shadow back
  await page.keyboard.press('1');
  await page.getByRole('button', { name: 'Own background light' }).click();
  await keep(page);
  await page.getByRole('button', { name: 'Shadow back' }).click();
  await keep(page);
  await expect(page.getByRole('button', { name: /Key, shadow$/ }).first()).toBeVisible();

  // no floor, only the key's shadow
  await page.getByRole('tab', { name: 'Stage', exact: true }).click();
  await page.getByRole('tab', { name: 'Only shadows' }).click();
  await page.getByTestId('shadow-stage').click();
  await page.getByRole('button', { name: 'Shadows of Key, shadow' }).dblclick();
  await expect(page.getByRole('button', { name: 'Shadows of Fill' })).toHaveAttribute('aria-pressed', 'false');
  await expect(page.getByRole('button', { name: 'Shadows of Key, shadow' })).toHaveAttribute('aria-pressed', 'true');
  await untilSaved(page);
  await untilSamples(page, 2);
  await page.getByTestId('cut-parts').selectOption('shadow');
  const shadow = alphaCells(await download(page, () => page.getByTestId('cut-out').click()), 16, 20);
  await page.getByTestId('cut-parts').selectOption('figure');
  const figure = alphaCells(await download(page, () => page.getByTestId('cut-out').click()), 16, 20);
  await page.getByTestId('cut-parts').selectOption('all');
  await page.getByTestId('cut-bits').selectOption('16');
  const bytes = await download(page, () => page.getByTestId('cut-out').click());
  expect(bytes.readUInt8(24)).toBe(16);
  const both = alphaCells(bytes, 16, 20);
  // the figure stands in the middle, its shadow lies on the floor to one side, above the horizon is none
  expect(Math.max(...figure.flat())).toBeGreaterThan(0.9);
  expect(Math.max(...shadow.slice(10).flat())).toBeGreaterThan(0.3);
  expect(Math.max(...shadow.slice(0, 4).flat())).toBe(0);
  expect(figure[0]![0]! + shadow[19]![15]! + shadow[19]![0]!).toBeLessThan(0.05);
  both.flat().forEach((a, i) => expect(Math.abs(a - Math.min(1, figure.flat()[i]! + shadow.flat()[i]!))).toBeLessThan(0.03));

  // out for other renderers, and back
  const usd = await download(page, async () => {
    await page.getByRole('button', { name: /^More files/ }).click();
    await page.getByRole('menuitem', { name: 'Scene as .usda' }).click();
  });
  expect(usd.toString('utf8', 0, 9)).toBe('#usda 1.0');
  await expect(page.getByTestId('file-report')).toContainText('What catches shadows.');
  await page.getByRole('button', { name: 'Close' }).click();
  const bring = (name: string, buffer: Buffer) => page.getByTestId('usd-input').setInputFiles({ name, mimeType: 'text/plain', buffer });
  await bring('back.usda', usd);
  await expect(page.getByText('all is as it was')).toBeVisible({ timeout: 30_000 });
  await page.getByRole('button', { name: 'D Kicker' }).last().click();
  await page.keyboard.press('Delete');
  await expect(page.getByTestId('card-kicker')).toHaveCount(0);
  await bring('back.usda', usd);
  await expect(page.getByTestId('preview')).toContainText('lights and the camera of back.usda');
  await keep(page);
  await expect(page.getByTestId('card-kicker')).toBeVisible();
  await page
    .getByTestId('card-kicker')
    .getByRole('button', { name: /Kicker$/ })
    .click();
  await page.getByRole('tab', { name: 'Reach' }).click();
  await expect(words).toHaveText('Lights everything but the stage; casts the shadow of everything.');
  // what cannot be read is refused by name, and nothing changes
  await bring('crate.usda', Buffer.from('PXR-USDC\0'));
  await expect(page.getByText(/crate\.usda was not read: This is a binary USD file/)).toBeVisible();
});

test('the table of what every light reaches, by mouse and keyboard; switches at a point of the picture', async ({ page }) => {
  await openStage(page, await onTheFloor(page));
  await page.keyboard.press('t');
  const table = page.getByTestId('reach-table');
  await expect(table).toContainText('3 lights');
  const mark = (name: string) => table.getByRole('checkbox', { name, exact: true });
  await mark('Key lights the stage').click();
  await expect(mark('Key lights the stage')).toHaveAttribute('aria-checked', 'false');
  await expect(mark('Key lights everything')).toHaveAttribute('aria-checked', 'mixed');
  await expect(table).toContainText(/\d+ of \d+/);
  // along the row, down, and turned: of each light alone
  await page.keyboard.press('ArrowRight');
  await page.keyboard.press('ArrowRight');
  await expect(mark('Fill lights the stage')).toBeFocused();
  await page.keyboard.press('ArrowDown');
  await page.keyboard.press('Space');
  await expect(mark('Fill lights The young signaller')).toHaveAttribute('aria-checked', 'false');
  await expect(mark('Key lights The young signaller')).toHaveAttribute('aria-checked', 'true');
  // unfolded by keyboard, found by name
  await page.keyboard.press('Home');
  await page.keyboard.press('ArrowLeft');
  await page.keyboard.press('Enter');
  await expect(mark('Key lights scarf')).toBeVisible();
  await page.getByLabel('Find an object').fill('scar');
  await expect(table.getByRole('row')).toHaveCount(4);
  await page.getByLabel('Find an object').fill('');
  await page.getByLabel('only lights that do not reach all').check();
  await expect(table).toContainText('2 lights');
  await page.keyboard.press('Escape');
  await expect(table).toHaveCount(0);
  await page.locator('body').press('Control+z');
  await page.locator('body').press('Control+z');

  // at a point of the picture
  const box = (await page.getByTestId('picture').boundingBox())!;
  await page.mouse.click(box.x + box.width * 0.5, box.y + box.height * 0.4, { button: 'right' });
  const card = page.getByTestId('reach-at');
  await expect(card).toContainText('The young signaller /');
  await card.getByRole('button', { name: 'All of it' }).click();
  await card.getByRole('checkbox', { name: 'Key lights The young signaller' }).click();
  await page.keyboard.press('1');
  await page.getByRole('tab', { name: 'Reach' }).click();
  await expect(page.getByTestId('reach-words')).toHaveText('Lights everything but The young signaller; casts the shadow of everything.');
  await page.keyboard.press('Escape');
  await expect(card).toHaveCount(0);
});

test('two windows on one catcher: both are heard, undo takes back one’s own, a reload in mid-save loses nothing', async ({
  page,
  context,
}) => {
  const { id: source } = await demoSetup(page, 'The signaller listens');
  const { document } = (await (await page.request.get(`/api/setups/${source}`)).json()) as { document: object };
  const made = await page.request.post('/api/setups', { data: { document: { ...document, name: 'Two on one catcher' } } });
  const { id } = (await made.json()) as { id: string };
  const caught = async () =>
    (
      (await (await page.request.get(`/api/setups/${id}`)).json()) as {
        document: { catcher: { objects: object; density: number; contact: number } };
      }
    ).document.catcher;
  const other = await context.newPage();
  for (const window of [page, other]) {
    await openStage(window, id);
    await window.getByRole('tab', { name: 'Stage', exact: true }).click();
    await window.getByRole('tab', { name: 'Only shadows' }).click();
    await window.getByTestId('catch-stage').waitFor();
  }
  const set = async (window: Page, field: string, value: string) => {
    await window.getByTestId(`catcher-${field}`).fill(value);
    await window.getByTestId(`catcher-${field}`).press('Enter');
  };
  await page.bringToFront();
  await page.getByTestId('catch-stage').check();
  await other.bringToFront();
  await set(other, 'density', '60');
  await expect.poll(caught).toMatchObject({ objects: { stage: true }, density: 0.6 });
  await page.bringToFront();
  await page.locator('body').press('Control+z');
  await expect.poll(caught).toMatchObject({ objects: {}, density: 0.6 });
  await page.locator('body').press('Control+Shift+z');
  await expect.poll(caught).toMatchObject({ objects: { stage: true }, density: 0.6 });
  // a change, and a reload before it can be sent
  await page.route('**/api/setups/*', (route) => (route.request().method() === 'PATCH' ? route.abort() : route.continue()));
  await set(page, 'contact', '40');
  await page.unrouteAll({ behavior: 'ignoreErrors' });
  await page.reload();
  await page.getByText('Add light').waitFor();
  await expect.poll(caught).toMatchObject({ objects: { stage: true }, density: 0.6, contact: 0.4 });
});
