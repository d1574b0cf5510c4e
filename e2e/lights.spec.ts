import { readFileSync } from 'node:fs';
import { expect, test, type Page } from '@playwright/test';
import { writeExr } from '../core/src/formats/exr/write.ts';
import { apart, brightness, cells, copiedSetup, openStage, untilSamples, untilSaved } from './stage.ts';

/** Puts a light from the shelf onto the stage. */
async function shelf(page: Page, item: string): Promise<void> {
  await page.keyboard.press('a');
  await page.getByTestId(`shelf-${item}`).click();
  await expect(page.getByTestId('light-sheet')).toBeVisible();
}

const type = async (page: Page, field: string, text: string) => {
  await page.getByTestId(field).fill(text);
  await page.getByTestId(field).press('Enter');
};
const leaf = (page: Page, name: string) => page.getByRole('tab', { name, exact: true }).click();
const lightsOf = async (page: Page, id: string) => {
  const { document } = (await (await page.request.get(`/api/setups/${id}`)).json()) as {
    document: { lights: { items: Record<string, Record<string, never>> } };
  };
  const { items } = document.lights;
  const rank = (id: string) => String((items[id] as unknown as { rank: string }).rank);
  return { items, order: Object.keys(items).sort((a, b) => (rank(a) < rank(b) ? -1 : 1)) };
};
/** Every card selected, and gone. */
async function fromNothing(page: Page): Promise<void> {
  await page.keyboard.press('0');
  const cards = page.getByTestId(/^card-/).getByRole('button', { name: /^[A-Z] / });
  for (let i = 0; i < (await cards.count()); i++) await cards.nth(i).click({ modifiers: i ? ['Shift'] : [] });
  await page.keyboard.press('Delete');
  await expect(page.getByTestId(/^card-/)).toHaveCount(0);
}
const untilBright = (page: Page, least: number) =>
  expect(async () => expect(brightness(await cells(page))).toBeGreaterThan(least)).toPass({ timeout: 60_000 });

test('a two-strip clamshell from nothing, in under a minute', async ({ page }) => {
  const problems: string[] = [];
  page.on('pageerror', (e) => problems.push(e.message));
  const id = await copiedSetup(page);
  await openStage(page, id);
  const start = Date.now();
  await fromNothing(page);
  await shelf(page, 'strip');
  await type(page, 'width', '1.5 m');
  await type(page, 'height', '60cm');
  await page.getByLabel('Twin of Strip').click();
  await page.getByText('Twin below').click();
  await expect(page.getByText('twin of A')).toBeVisible();
  // the pair goes down a stop together, and the lower one alone two thirds more once the level is its own
  await page.keyboard.press('Shift+-');
  await leaf(page, 'Notes');
  await page.getByRole('button', { name: 'level', exact: true }).click();
  await page.keyboard.press('-');
  await page.keyboard.press('-');
  await untilBright(page, 12);
  expect(Date.now() - start).toBeLessThan(60_000);
  await untilSaved(page);
  const { order, items } = await lightsOf(page, id);
  expect(order).toHaveLength(2);
  const [above, below] = order.map(
    (o) => items[o]! as unknown as { stops: number; width: number; place: { elevation: number; distance: number } },
  );
  expect(below!.place.elevation).toBe(-above!.place.elevation);
  expect(below!.place.distance).toBe(above!.place.distance);
  expect([above!.width, below!.width]).toEqual([1.5, 1.5]);
  expect(above!.stops).toBeCloseTo(-1, 3);
  expect(below!.stops).toBeCloseTo(-5 / 3, 3);
  expect(problems).toEqual([]);
});

test('a low sun and its sky, a window across the face, a spot on the backdrop', async ({ page }) => {
  const id = await copiedSetup(page);
  await openStage(page, id);
  await fromNothing(page);
  // sun and sky: one day, moved together; the picture is warm where the sun is
  await shelf(page, 'daylight');
  await type(page, 'sun-height', '4');
  await untilBright(page, 10);
  await untilSaved(page);
  const day = await lightsOf(page, id);
  expect(day.order.map((o) => (day.items[o] as unknown as { elevation: number }).elevation)).toEqual([4, 4]);
  await page.getByLabel('Sun alone').click();
  await untilSamples(page, 2);
  const sun = await cells(page);
  const sum = (k: number) => sun.reduce((s, v, i) => s + (i % 3 === k ? v : 0), 0);
  await expect(async () => expect(sum(0) / sum(2)).toBeGreaterThan(2)).toPass();
  await page.getByLabel('Sun alone').click();

  // by place and time it stands where the almanac says
  await page.getByText('By place and time').click();
  await type(page, 'latitude', '39.742476');
  await type(page, 'longitude', '-105.1786');
  await page.getByTestId('moment').fill('2003-10-17T19:30:30Z');
  await page.getByTestId('moment').press('Enter');
  await expect(page.getByTestId('sun-height')).toHaveValue('39.9');

  // a window, moved in by its gobo; taking it out changes the face
  await fromNothing(page);
  await shelf(page, 'window');
  await untilSamples(page, 4);
  await untilBright(page, 3);
  const panes = await cells(page);
  await leaf(page, 'Shaping');
  await page.getByTestId('gobo').selectOption('none');
  await expect(async () => expect(apart(await cells(page), panes)).toBeGreaterThan(15)).toPass({ timeout: 40_000 });
  await page.keyboard.press('Control+z');

  // a flag before it takes its light away, and an end of its range too
  const flagged = brightness(await cells(page));
  await page.getByRole('button', { name: 'Flag', exact: true }).click();
  await type(page, 'flag-width', '2 m');
  await type(page, 'flag-height', '2 m');
  await expect(async () => expect(brightness(await cells(page))).toBeLessThan(flagged / 2)).toPass({ timeout: 40_000 });
  await expect(page.getByTestId(/^plan-flag-1/)).toBeVisible();
  await page.getByLabel('Flag 1 in the way').click();

  await shelf(page, 'background');
  await untilSaved(page);
  const last = await lightsOf(page, id);
  expect(last.items[last.order.at(-1)!]).toMatchObject({ kind: 'spot', role: 'background' });
});

test('units, several in hand, exaggerating, files and the contact sheet', async ({ page }) => {
  const id = await copiedSetup(page);
  await openStage(page, id, 2);
  const before = await cells(page);

  // units are only words: choosing another changes no pixel, typing one chooses it
  await page.getByTestId('unit').selectOption('lm');
  await expect(page.getByTestId('output')).toHaveValue('3676');
  await page.getByTestId('unit').selectOption('kcd/m²');
  await expect(page.getByTestId('output')).toHaveValue('3.6');
  await type(page, 'output', '245W@15');
  await expect(page.getByTestId('unit')).toHaveValue('W');
  expect(Number(await page.getByTestId('output').inputValue())).toBeCloseTo(245, 0);
  await page.getByTestId('unit').selectOption('cd/m²');
  expect(Number(await page.getByTestId('output').inputValue())).toBeCloseTo(3600, -2);
  await type(page, 'output', '3 bananas');
  await expect(page.getByText(/bananas does not belong here/)).toBeVisible();

  // three stops up as long as the key is held
  await page.getByTestId('card-key').getByRole('button', { name: 'A Key' }).focus();
  await page.keyboard.down('x');
  await expect(page.getByText('A three stops up')).toBeVisible();
  await expect(async () => expect(brightness(await cells(page))).toBeGreaterThan(brightness(before) * 1.4)).toPass();
  await page.keyboard.up('x');
  await expect(async () => expect(brightness(await cells(page))).toBeLessThan(brightness(before) * 1.15)).toPass();

  // two in hand go along with each other, or are set alike with “=”, in one step each
  await page
    .getByTestId('card-fill')
    .getByRole('button', { name: 'B Fill' })
    .click({ modifiers: ['Shift'] });
  await expect(page.getByText('and 1 more')).toBeVisible();
  await leaf(page, 'Colour');
  await type(page, 'kelvin', '=4000');
  await page.getByTestId('gel').selectOption('quarter-dusk');
  await untilSaved(page);
  const lights = await lightsOf(page, id);
  for (const l of ['key', 'fill']) expect(lights.items[l]).toMatchObject({ kelvin: 4000, gel: 'quarter-dusk' });
  expect(lights.items['rim']).toMatchObject({ kelvin: 7600, gel: '' });

  // a luminaire as measured, written by hand as its standard says; a broken one is refused by its line
  const ies = ['IESNA:LM-63-2002', '[LUMINAIRE] Harbour lamp', 'TILT=NONE', '1 -1 1 3 1 1 2 0 0 0', '1 1 60', '0 45 90', '0', '800 500 0'];
  const file = (name: string, lines: string[]) => ({ name, mimeType: 'text/plain', buffer: Buffer.from(lines.join('\r\n')) });
  await page.keyboard.press('a');
  await page.getByTestId('file-.ies').setInputFiles(file('broken.ies', [...ies.slice(0, 7), '800 dim 0']));
  await expect(page.getByText(/Line 8: “dim” is no number/)).toBeVisible();
  await page.getByTestId('file-.ies').setInputFiles(file('harbour.ies', ies));
  await expect(page.getByTestId(/^card-accent-1/)).toBeVisible();
  await page.keyboard.press('Escape');
  await leaf(page, 'Place & source');
  await expect(page.getByText(/Harbour lamp: 800 cd/)).toBeVisible();

  // a dome from a picture that Radiance would write: two rows, blue above, dark below
  const row = (r: number, g: number, b: number, e: number) => [2, 2, 0, 8, ...[r, g, b, e].flatMap((v) => [136, v])];
  const hdr = Buffer.from([
    ...Buffer.from('#?RADIANCE\nFORMAT=32-bit_rle_rgbe\n\n-Y 4 +X 8\n'),
    ...row(20, 40, 200, 130),
    ...row(20, 40, 200, 130),
    ...row(4, 4, 4, 126),
    ...row(4, 4, 4, 126),
  ]);
  await page.keyboard.press('a');
  await page.getByTestId('file-.hdr,.exr').first().setInputFiles({ name: 'cove.hdr', mimeType: 'application/octet-stream', buffer: hdr });
  await expect(page.getByTestId(/^card-dome-1/)).toBeVisible();
  await page.keyboard.press('Escape');
  await untilSamples(page, 1);

  // a picture of several layers: the one without a name is taken, another can be chosen
  const plane = (v: number) => new Float32Array(32).fill(v);
  const channels = ['R', 'G', 'B', 'dusk.R', 'dusk.G', 'dusk.B'].map((name, i) => ({ name, data: plane(i + 1) }));
  const exr = Buffer.from(writeExr(8, 4, channels));
  await page.getByTestId('file-.hdr,.exr').first().setInputFiles({ name: 'cove.exr', mimeType: 'application/octet-stream', buffer: exr });
  await page.getByTestId('layer').selectOption('dusk');
  await untilSaved(page);
  const { items } = await lightsOf(page, id);
  expect(Object.entries(items).find(([light]) => light.startsWith('dome-1'))![1]).toMatchObject({
    fill: { kind: 'picture', name: 'cove.exr', layer: 'dusk' },
  });

  // every share and all together, in one PNG
  const download = page.waitForEvent('download');
  await page.keyboard.press('Control+k');
  await page.getByPlaceholder('What to do?').fill('contact sheet');
  await page.keyboard.press('Enter');
  const png = readFileSync(await (await download).path());
  expect(png.subarray(1, 4).toString()).toBe('PNG');
  expect(png.readUInt32BE(16)).toBeGreaterThan(800);
});
