// The shelf of kits: looked through on three heads, kept in order, given away as a file and brought in again; a setup that stays tied is offered changes.
import { spawnSync } from 'node:child_process';
import { readFileSync } from 'node:fs';
import { expect, test, type Page } from '@playwright/test';
import { copiedSetup, openStage, untilSaved } from './stage.ts';

interface Kept {
  lights: { items: Record<string, { name: string; stops: number; role: string }> };
  turntable?: object;
  ties?: Record<string, { name: string; revision: number; offers: boolean }>;
}
const kept = async (page: Page, id: string) =>
  ((await (await page.request.get(`/api/setups/${id}`)).json()) as { document: Kept }).document;
const keyOf = ({ lights }: Kept) => Object.values(lights.items).find((l) => l.role === 'key')!;
interface KitRecord {
  id: string;
  revision: number;
  document: { name: string; tags: string[]; shown: { on: string; picture?: string }[] };
}
async function kitNamed(page: Page, name: string): Promise<KitRecord> {
  const { items } = (await (await page.request.get(`/api/kits?limit=200&search=${encodeURIComponent(name)}`)).json()) as {
    items: { id: string; name: string }[];
  };
  return (await (await page.request.get(`/api/kits/${items.find((k) => k.name === name)!.id}`)).json()) as KitRecord;
}

test('the shelf is looked through on every head; a kit is renamed, given away, thrown away and brought in again, and goes on a setup', async ({
  page,
}) => {
  test.slow();
  const id = await copiedSetup(page, 'To be lit from the shelf');
  await page.goto('/');
  await page.getByRole('link', { name: 'Kits' }).click();
  const shelf = page.getByRole('region', { name: 'Shelf of kits' });
  const card = (name: string) => shelf.getByTestId(`kit-${name}`);
  // what ships has a picture on each head, and says what is read there
  await expect(card('First lamp').locator('img')).toBeVisible();
  const picture = () => card('First lamp').locator('img').getAttribute('src');
  const onKeeper = await picture();
  await page.getByRole('button', { name: 'the tide-goat' }).click();
  await expect(async () => expect(await picture()).not.toBe(onKeeper)).toPass();
  await page.getByRole('button', { name: 'turntable', exact: true }).click();
  await expect(card('The light goes round')).toBeVisible();
  await expect(card('First lamp')).toBeHidden();
  await page.getByLabel('Find kits by words').fill('an edge from behind that takes the head');
  await card('First lamp, lifted').click();
  const leaf = page.getByRole('complementary', { name: 'About First lamp, lifted' });
  await expect(leaf).toContainText('the signaller');

  await leaf.getByLabel('Name of the kit').fill('Lamp for leaving');
  await leaf.getByLabel('Name of the kit').press('Enter');
  const own = page.getByRole('complementary', { name: 'About Lamp for leaving' });
  await expect(own).toContainText('renamed “Lamp for leaving”');
  await own.getByLabel('Tags of the kit').fill('loop, harbour');
  await own.getByLabel('Tags of the kit').press('Enter');
  await expect(async () => expect((await kitNamed(page, 'Lamp for leaving')).document.tags).toEqual(['loop', 'harbour'])).toPass();
  // a change by somebody else stands beside this one's
  const before = await kitNamed(page, 'Lamp for leaving');
  await page.request.patch(`/api/kits/${before.id}`, {
    headers: { 'Content-Type': 'application/merge-patch+json', 'If-Match': `"${before.revision}"` },
    data: JSON.stringify({ brief: 'said by somebody else' }),
  });
  await own.getByLabel('Notes of the kit').fill('for the pier, at night');
  await own.getByLabel('Name of the kit').click();
  await expect(own.getByLabel('What the kit is for')).toHaveValue('said by somebody else');

  const [file] = await Promise.all([page.waitForEvent('download'), own.getByRole('link', { name: 'Give it away' }).click()]);
  expect(file.suggestedFilename()).toBe('Lamp for leaving.plinket');
  const path = await file.path();
  expect(spawnSync('unzip', ['-t', path], { encoding: 'utf8' }).stdout).toContain('No errors detected');
  await own.getByRole('button', { name: 'Throw away' }).click();
  await page.getByLabel('Find kits by words').fill('harbour');
  await expect(shelf).toContainText('No kit is called “harbour”');
  const input = page.getByTestId('kit-input');
  await input.setInputFiles({ name: 'notes.plinket', mimeType: 'application/zip', buffer: Buffer.from('no zip at all, but words') });
  await expect(page.locator('[data-sonner-toast]').filter({ hasText: 'notes.plinket was not brought in' })).toContainText(
    'cannot be read as a zip',
  );
  await input.setInputFiles({ name: 'lamp.plinket', mimeType: 'application/zip', buffer: readFileSync(path) });
  await expect(card('Lamp for leaving')).toBeVisible();
  await expect(page.getByRole('complementary', { name: 'About Lamp for leaving' }).getByLabel('Notes of the kit')).toHaveValue(
    'for the pier, at night',
  );

  await page.getByLabel('Put it on a setup').selectOption({ label: 'To be lit from the shelf' });
  await expect(page.getByTestId('preview')).toContainText('Lamp for leaving is on this character');
  await page.getByTestId('preview').getByRole('button', { name: 'Keep' }).click();
  await untilSaved(page);
  expect(Object.values((await kept(page, id)).ties!)).toMatchObject([{ name: 'Lamp for leaving', offers: false }]);
  // a reload does not put it on once more
  await page.reload();
  await expect(page.getByTestId('progress')).toBeVisible();
  await expect(page.getByTestId('preview')).toBeHidden();
  // its proofs are found by it
  await page.keyboard.press('p');
  await expect(page.locator('[data-sonner-toast]').filter({ hasText: 'kept' })).toBeVisible({ timeout: 60_000 });
  await page.goto('/proofs');
  await page.getByLabel('Kit that was put on').selectOption({ label: 'Lamp for leaving' });
  await expect(page.getByRole('list', { name: 'Proofs' }).getByRole('button')).toHaveCount(1);
});

test('a setup that stays tied is offered what changes in its kit: shown, left, kept, undone; taken anew, untied', async ({ page }) => {
  test.slow();
  const id = await copiedSetup(page, 'Tied to a kit');
  await openStage(page, id);
  await page.keyboard.press('k');
  const kits = page.getByRole('region', { name: 'Kits' });
  await kits.getByRole('button', { name: 'Keep this setup as a kit' }).click();
  await kits.getByLabel('Name of the kit').fill('House light');
  await kits.getByLabel('this setup stays tied to it').check();
  await kits.getByRole('button', { name: 'Keep kit' }).click();
  const tie = kits.getByTestId('tie-House light');
  await expect(tie).toContainText('Tied to House light');
  await untilSaved(page);
  const kit = await kitNamed(page, 'House light');
  expect(kit.document.shown[0]!.picture).toMatch(/^[0-9a-f]{64}$/);

  // somebody changes the kit: here nothing changes by itself
  const before = await kept(page, id);
  const changed = await page.request.patch(`/api/kits/${kit.id}`, {
    headers: { 'Content-Type': 'application/merge-patch+json', 'If-Match': `"${kit.revision}"` },
    data: JSON.stringify({ parts: { rig: { lights: { items: { key: { stops: 2 } } } } } }),
  });
  expect(changed.ok()).toBe(true);
  await page.reload();
  await expect(page.getByTestId('offered')).toBeVisible();
  await page.getByRole('button', { name: 'Kits' }).click();
  await expect(tie).toContainText('House light has changed');
  expect(await kept(page, id)).toEqual(before);
  await tie.getByRole('button', { name: 'Show it here' }).click();
  const preview = page.getByTestId('preview');
  await expect(preview).toContainText('House light:');
  await preview.getByRole('button', { name: 'Leave' }).click();
  await untilSaved(page);
  expect(await kept(page, id)).toEqual(before);
  await tie.getByRole('button', { name: 'Show it here' }).click();
  await preview.getByRole('button', { name: 'Keep' }).click();
  await untilSaved(page);
  expect(keyOf(await kept(page, id)).stops).toBe(2);
  await expect(tie).toContainText('Tied to House light');
  await page.getByRole('button', { name: 'Undo', exact: true }).click();
  await untilSaved(page);
  expect(await kept(page, id)).toEqual(before);
  await tie.getByRole('button', { name: 'Stay as it is' }).click();
  await expect(tie).toContainText('Tied to House light');
  expect(keyOf(await kept(page, id)).stops).toBe(keyOf(before).stops);

  // as it stands here the kit is taken anew
  await kits.getByRole('button', { name: 'Take House light anew from this setup' }).click();
  await expect(page.locator('[data-sonner-toast]').filter({ hasText: 'House light is as here now' })).toBeVisible();
  const anew = (await kitNamed(page, 'House light')) as unknown as {
    document: { parts: { rig: { lights: { items: Record<string, { stops: number }> } } } };
  };
  expect(anew.document.parts.rig.lights.items['key']!.stops).toBe(keyOf(before).stops);
  await tie.getByRole('button', { name: 'Untie House light' }).click();
  await expect(tie).toBeHidden();
});
