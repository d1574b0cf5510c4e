// A sequence: its board, a shot that departs, a jump that is found and matched, what goes up for all shots, and shot lists.
import { readFileSync } from 'node:fs';
import { expect, test, type Page } from '@playwright/test';
import { asked, ownSequence, shotId, type Setup } from './sequences.ts';
import { apart, cellsOf, openStage, untilSaved } from './stage.ts';

const codes = (page: Page) => page.getByLabel(/^Code of /).evaluateAll((all) => (all as HTMLInputElement[]).map((i) => i.value));
const keyOf = (s: Setup) => Object.values(s.document.lights.items).find((l) => l.role === 'key')!;

test('the first screen shows productions; the board shows its shots in order, what they depart in and what jumps', async ({ page }) => {
  await page.goto('/');
  const production = page.getByRole('region', { name: 'The lamp and the tide' });
  await expect(production.getByTestId('sequence-Night watch')).toContainText('5 shots');
  await production.getByRole('link', { name: 'Open Night watch' }).click();
  await expect(page.getByTestId('shot-NW_010')).toContainText('as its sequence');
  expect(await codes(page)).toEqual(['NW_010', 'NW_020', 'NW_030', 'NW_040', 'NW_050']);
  await expect(page.getByTestId('shot-NW_050').getByTestId('departures')).toContainText('lamp: −1⅔ stop');
  await expect(page.getByTestId('shot-NW_030').getByTestId('jump')).toContainText('jumps:');
  await page.getByLabel('only jumps').check();
  await expect(page.getByTestId('shot-NW_010')).toBeHidden();
  await page.getByLabel('only jumps').uncheck();
  // a name of a character finds its shots
  await page.getByLabel('Find shots by words').fill('goat');
  await expect.poll(() => codes(page)).toEqual(['NW_040']);
  await page.getByLabel('Find shots by words').fill('nothing like it');
  await page.getByRole('button', { name: 'Show all' }).click();
  // setups of the sequence are not among those that belong to none
  await page.getByRole('link', { name: 'All setups' }).click();
  await expect(page.getByTestId('setup-card').first()).toBeVisible();
  await expect(page.getByTestId('setup-card').filter({ hasText: 'Night watch' })).toHaveCount(0);
});

test('a production is made and named, a sequence in it lit as a setup; thrown away both come back, and sequences outlive their production', async ({
  page,
}) => {
  await page.goto('/');
  await page.getByRole('button', { name: 'New production' }).click();
  await page.getByLabel('Name of New production').fill('The far light');
  await page.getByLabel('Name of New production').press('Enter');
  const production = page.getByRole('region', { name: 'The far light' });
  await production.getByRole('button', { name: 'Sequence' }).click();
  await page.getByLabel('Name of the new sequence').fill('First night');
  await page.getByLabel('What the sequence is lit as').selectOption({ label: 'The keeper, first look' });
  await page.getByRole('button', { name: 'Make it' }).click();
  await page.getByRole('button', { name: 'Add the first' }).click();
  await expect(page.getByTestId('shot-010')).toContainText('as its sequence');
  await page.getByRole('button', { name: 'Throw the sequence away' }).click();
  await page.locator('[data-sonner-toast]').filter({ hasText: 'First night thrown away' }).getByRole('button', { name: 'Undo' }).click();
  await expect(production.getByTestId('sequence-First night')).toContainText('1 shot');
  await page.getByRole('button', { name: 'Throw The far light away' }).click();
  const free = page.getByRole('region', { name: 'Sequences of no production' });
  await expect(free.getByTestId('sequence-First night')).toBeVisible();
  await page.reload();
  await expect(free.getByTestId('sequence-First night')).toBeVisible();
});

test('the board is worked on by hand and keyboard: order, states, frames, codes; all of it can be undone, and is seen in another window', async ({
  page,
  context,
}) => {
  const { id } = await ownSequence(page, 'Board work', 3);
  const other = await context.newPage();
  await other.goto(`/sequence/${id}`);
  await page.goto(`/sequence/${id}`);
  await expect(page.getByTestId('shot-S_10')).toBeVisible();
  await expect(other.getByTestId('shot-S_10')).toBeVisible();
  await page.getByLabel('Open S_30').focus();
  await page.keyboard.press('Alt+ArrowLeft');
  await expect.poll(() => codes(page)).toEqual(['S_10', 'S_30', 'S_20']);
  await expect.poll(() => codes(other)).toEqual(['S_10', 'S_30', 'S_20']);
  // by its grip, slowly, with a rest in between
  const grip = (await page.getByRole('button', { name: 'Move S_10' }).boundingBox())!,
    goal = (await page.getByTestId('shot-S_20').boundingBox())!;
  await page.mouse.move(grip.x + 8, grip.y + 8);
  await page.mouse.down();
  await page.mouse.move(grip.x + 60, grip.y + 12, { steps: 6 });
  await page.waitForTimeout(700);
  await page.mouse.move(goal.x + goal.width / 2, goal.y + goal.height / 2, { steps: 8 });
  await page.mouse.up();
  await expect.poll(() => codes(page)).toEqual(['S_30', 'S_20', 'S_10']);
  // several at once
  await page.getByLabel('Choose S_30').click();
  await page.getByLabel('Choose S_10').click({ modifiers: ['Shift'] });
  await page.getByLabel('State of the chosen shots').selectOption('in work');
  await expect(page.getByLabel('State of S_20')).toHaveValue('in work');
  await expect(other.getByLabel('State of S_20')).toHaveValue('in work');
  // frames that are none are said, and nothing changes
  await page.getByLabel('Frames of S_20').fill('1050-1001');
  await page.getByLabel('Frames of S_20').press('Enter');
  await expect(page.locator('[data-sonner-toast]').filter({ hasText: 'are no frames' })).toBeVisible();
  await page.getByLabel('Code of S_20').fill('S_25');
  await page.getByLabel('Code of S_20').press('Enter');
  await expect(page.getByTestId('shot-S_25')).toBeVisible();
  await page.getByRole('button', { name: 'Take S_10 out' }).click();
  await expect.poll(() => codes(page)).toEqual(['S_30', 'S_25']);
  for (let i = 0; i < 5; i++) await page.keyboard.press('Control+z');
  await expect.poll(() => codes(page)).toEqual(['S_10', 'S_20', 'S_30']);
  await expect(page.getByLabel('State of S_20')).toHaveValue('to light');
  await page.getByRole('button', { name: 'Redo' }).click();
  await expect.poll(() => codes(page)).toEqual(['S_10', 'S_30', 'S_20']);
  await page.reload();
  await expect.poll(() => codes(page)).toEqual(['S_10', 'S_30', 'S_20']);
  await page.getByRole('button', { name: 'Add shot' }).click();
  await expect.poll(() => codes(page)).toEqual(['S_10', 'S_30', 'S_20', 'S_40']);
  // out of its production and back
  const production = page.getByLabel('Production of the sequence');
  await production.selectOption({ label: 'of no production' });
  await expect(other.getByLabel('Production of the sequence')).toHaveValue('');
  await page.keyboard.press('Control+z');
  await expect(other.getByLabel('Production of the sequence')).not.toHaveValue('');
  await expect(production.locator('option:checked')).toHaveText('The lamp and the tide');
});

test('shot lists come in with a report of what they change, and go out', async ({ page }) => {
  const { id } = await ownSequence(page, 'Cut', 2);
  await page.goto(`/sequence/${id}`);
  await expect(page.getByTestId('shot-S_20')).toBeVisible();
  const bring = (name: string, text: string) =>
    page.getByTestId('list-input').setInputFiles({ name, mimeType: 'text/plain', buffer: Buffer.from(text) });
  await bring('backwards.csv', 'shot,first,last\nS_10,1050,1001\n');
  await expect(
    page.locator('[data-sonner-toast]').filter({ hasText: 'line 2: S_10 ends at 1001, before it begins at 1050' }),
  ).toBeVisible();
  const event = (n: number, from: string, to: string, name: string) =>
    `00${n}  A0${n}  V  C  00:00:00:00 00:00:02:00 ${from} ${to}\n* FROM CLIP NAME: ${name}\n`;
  await bring(
    'reel.edl',
    `TITLE: X\nFCM: NON-DROP FRAME\n${event(1, '01:00:02:00', '01:00:04:00', 'S_30')}${event(2, '01:00:00:00', '01:00:02:00', 'S_20')}`,
  );
  const report = page.getByTestId('list-report');
  await expect(report).toContainText('1 new · 1 changed · 1 not in the list · 0 the same');
  await expect(report).toContainText('S_20: frames 1001–1050 become 1001–1048');
  await report.getByRole('button', { name: 'Take it over' }).click();
  await expect.poll(() => codes(page)).toEqual(['S_10', 'S_20', 'S_30']);
  await expect(page.getByLabel('Frames of S_20')).toHaveValue('1001–1048');
  const download = page.waitForEvent('download');
  await page.getByRole('button', { name: 'OTIO' }).click();
  const file = readFileSync(await (await download).path(), 'utf8');
  expect(
    (JSON.parse(file) as { tracks: { children: { children: { name: string }[] }[] } }).tracks.children[0]!.children.map((c) => c.name),
  ).toEqual(['S_10', 'S_20', 'S_30']);
});

test('a shot departs, the jump is found and matched to the shot before; what it has goes up for all, and comes back', async ({
  page,
  context,
}) => {
  test.slow();
  const sequence = await ownSequence(page, 'Departing', 3),
    [first, second, third] = ['S_10', 'S_20', 'S_30'].map((c) => shotId(sequence, c)) as [string, string, string];
  await openStage(page, first);
  await expect(page.getByTestId('shot-code')).toHaveText('S_10');
  // a proof has the reading that is there when it is kept
  await expect(page.getByTestId('reading-words')).not.toHaveText('', { timeout: 60_000 });
  // the shot before has a proof with its reading
  await page.getByTestId('keep-proof').click();
  await expect(page.locator('[data-sonner-toast]').filter({ hasText: 'kept' })).toBeVisible({ timeout: 60_000 });
  const other = await context.newPage();
  await other.goto(`/shot/${third}`);
  await expect(other.getByTestId('shot-code')).toHaveText('S_30');

  await page.getByRole('link', { name: 'The shot after: S_20' }).click();
  await expect(page.getByTestId('shot-code')).toHaveText('S_20');
  await page.getByRole('button', { name: '0 departures' }).click();
  const panel = page.getByRole('region', { name: 'Shot S_20' });
  await expect(panel).toContainText('None: it is lit as its sequence');
  const azimuth = page.getByTestId('azimuth');
  await azimuth.fill('-40');
  await azimuth.press('Enter');
  await expect(panel.getByTestId('departure')).toHaveCount(1);
  await expect(panel.getByTestId('against-S_10')).toContainText('the key comes from', { timeout: 90_000 });
  await panel.getByRole('button', { name: 'Match to it' }).click();
  const preview = page.getByTestId('preview');
  await expect(preview).toContainText('As in S_10', { timeout: 90_000 });
  await expect(panel.getByRole('button', { name: 'Match to it' })).toBeEnabled({ timeout: 120_000 });
  await preview.getByRole('button', { name: 'Keep' }).click();
  await untilSaved(page);
  await expect(panel.getByTestId('against-S_10')).not.toContainText('the key comes from', { timeout: 90_000 });
  expect(
    Math.abs(
      keyOf(await asked<Setup>(page, `setups/${second}`)).place!.azimuth -
        keyOf(await asked<Setup>(page, `setups/${first}`)).place!.azimuth,
    ),
  ).toBeLessThan(15);
  await page.getByRole('button', { name: 'Undo', exact: true }).first().click();
  await expect(panel.getByTestId('departure')).toHaveCount(1);

  // for all shots: which ones is told first; another window that has one of them open shows it at once
  await panel.getByRole('button', { name: 'for all shots …' }).click();
  await expect(panel.getByTestId('raising')).toContainText('Changes S_10, S_30.');
  // each is seen before and after: the key that comes from elsewhere is seen in it
  const pair = panel.getByTestId('before-after-S_30').getByTestId('glimpse');
  await expect(pair).toHaveCount(2, { timeout: 60_000 });
  expect(apart(await cellsOf(pair.nth(0), 6, 6), await cellsOf(pair.nth(1), 6, 6))).toBeGreaterThan(8);
  await panel.getByRole('button', { name: 'Make it the sequence’s' }).click();
  await expect(panel).toContainText('None: it is lit as its sequence', { timeout: 30_000 });
  await expect.poll(async () => keyOf(await asked<Setup>(page, `setups/${first}`)).place!.azimuth).toBe(-40);
  await expect(other.getByTestId('azimuth')).toHaveValue(/[−-]40/, { timeout: 30_000 });
  // a value returns
  await azimuth.fill('10');
  await azimuth.press('Enter');
  await panel.getByRole('button', { name: 'return' }).click();
  await expect(panel).toContainText('None: it is lit as its sequence');
  await untilSaved(page);
  expect(keyOf(await asked<Setup>(page, `setups/${second}`)).place!.azimuth).toBe(-40);
});
