import { expect, test, type Page } from '@playwright/test';
import { ownSequence, shotId } from './sequences.ts';
import { copiedSetup, untilSaved } from './stage.ts';

const open = async (page: Page, address: string) => {
  await page.goto(address);
  await expect(page.getByTestId('stops-key')).toBeVisible();
};

test('who else is here, and which light they have in hand, is seen on the card, in the header and on the board', async ({
  page,
  context,
}) => {
  const sequence = await ownSequence(page, 'Together', 2);
  const [one, two] = [shotId(sequence, 'S_10'), shotId(sequence, 'S_20')];
  await page.goto(`/sequence/${sequence.id}`);
  await expect(page.getByTestId('shot-S_10')).toBeVisible();
  await expect(page.getByTestId('inside')).toHaveCount(0);
  const [a, b] = [await context.newPage(), await context.newPage()];
  await open(a, `/shot/${one}`);
  await expect(page.getByTestId('shot-S_10').getByTestId('inside')).toHaveText('a window');
  await open(b, `/shot/${two}`);
  await expect(a.getByTestId('others')).toHaveText('1');
  await expect(a.getByTestId('others')).toHaveAttribute('title', 'Also here: another window, in S_20');
  await b.keyboard.press('2');
  const [, second] = await b.getByTestId(/^card-/).all();
  const light = (await second!.getAttribute('data-testid'))!.replace('card-', '');
  await expect(a.getByTestId(`held-${light}`)).toHaveText('another window, in S_20');
  await b.close();
  await expect(a.getByTestId('others')).toHaveCount(0);
  await expect(a.getByTestId(`held-${light}`)).toHaveCount(0);
  await a.close();
  await expect(page.getByTestId('inside')).toHaveCount(0);
});

test('a value that two change at once stands side by side: either is seen in the picture, and neither is lost', async ({
  page,
  context,
}) => {
  const id = await copiedSetup(page);
  await open(page, `/setup/${id}`);
  const other = await context.newPage();
  await open(other, `/setup/${id}`);
  // one of them is cut off and works on
  let cut = true;
  await page.route('**/api/setups/**', (route) => (cut ? route.abort() : route.continue()));
  await page.getByRole('button', { name: 'Key a third of a stop up' }).click();
  await page.getByTestId('brief').fill('only said here');
  await page.getByTestId('brief').press('Enter');
  await expect(page.getByTestId('save-state')).toHaveAttribute('data-state', 'offline');
  const down = other.getByRole('button', { name: 'Key a third of a stop down' });
  await down.click();
  await down.click();
  await untilSaved(other);
  cut = false;
  const odds = page.getByTestId('at-odds');
  await expect(odds).toHaveCount(1, { timeout: 20_000 });
  await expect(odds.getByRole('button', { name: /^you, in the picture/ })).toContainText('+⅓ stop');
  await expect(odds.getByRole('button', { name: /^another window/ })).toContainText('−⅔ stop');
  await expect(page.getByTestId('stops-key')).toHaveText('+⅓');
  await odds.getByRole('button', { name: /^another window/ }).click();
  await expect(page.getByTestId('stops-key')).toHaveText('−⅔');
  await page.keyboard.press('Control+z');
  await expect(page.getByTestId('stops-key')).toHaveText('+⅓');
  await odds.getByRole('button', { name: /^another window/ }).click();
  await page.getByRole('button', { name: 'Leave it as it is' }).click();
  await expect(odds).toHaveCount(0);
  await untilSaved(page);
  await expect(other.getByTestId('stops-key')).toHaveText('−⅔');
  await expect(other.getByTestId('brief')).toHaveValue('only said here');
});
