// A rig and a stage kept as a kit, put under another character, fitted to its face, left and kept.
import { expect, test, type Page } from '@playwright/test';
import { copiedSetup, openStage, untilSaved } from './stage.ts';

interface Kept {
  document: {
    lights: {
      items: Record<
        string,
        { name: string; role: string; width?: number; place?: { azimuth: number; elevation: number; distance: number } }
      >;
    };
    subjects: { items: Record<string, { scale: number; head: { height: number } }> };
    stage: { kind: string; colour: number[] };
    camera: { ev: number };
  };
}
const named = ({ lights }: Kept['document']) =>
  Object.values(lights.items)
    .map((l) => l.name)
    .sort();
const keyOf = ({ lights }: Kept['document']) => Object.values(lights.items).find((l) => l.role === 'key')!;
const kept = async (page: Page, id: string) => ((await (await page.request.get(`/api/setups/${id}`)).json()) as Kept).document;
/** A copy of another character's setup. */
async function goatSetup(page: Page): Promise<string> {
  const { items } = (await (await page.request.get('/api/setups?search=goat')).json()) as { items: { id: string; name: string }[] };
  // that of the demo: others may have begun some of their own
  const { id } = items.find((s) => s.name.startsWith('The tide-goat'))!;
  const { document } = (await (await page.request.get(`/api/setups/${id}`)).json()) as { document: { name: string } };
  const made = await page.request.post('/api/setups', { data: { document: { ...document, name: 'Another head' } } });
  return ((await made.json()) as { id: string }).id;
}

test('a rig and a stage kept as a kit go under another character, fit its face, and are left or kept in one step', async ({ page }) => {
  test.slow();
  const from = await copiedSetup(page, 'Where the kit comes from');
  await openStage(page, from);
  // what it draws on this face goes into the kit
  await expect(page.getByText('Closed triangle').first()).toBeVisible({ timeout: 90_000 });
  await page.keyboard.press('k');
  const kits = page.getByRole('region', { name: 'Kits' });
  // those that ship
  await expect(kits.getByTestId('kit-First lamp')).toContainText('1 light · Loop');
  await kits.getByRole('button', { name: 'Keep this setup as a kit' }).click();
  await kits.getByLabel('Name of the kit').fill('Lamp room');
  await kits.getByLabel('What the kit is for').fill('one warm key, the rest falls away');
  await kits.getByLabel('stage', { exact: true }).check();
  await kits.getByRole('button', { name: 'Keep kit' }).click();
  await expect(kits.getByTestId('kit-Lamp room')).toContainText('5 lights, stage · Closed triangle');

  const to = await goatSetup(page);
  const before = await kept(page, to);
  await openStage(page, to);
  await page.keyboard.press('k');
  await kits.getByLabel('Find a kit').fill('warm key');
  // letters that are typed are no keys of the Stage
  await expect(kits.getByTestId('kit-Lamp room')).toBeVisible();
  await kits.getByRole('button', { name: 'Put Lamp room on', exact: true }).click();
  const preview = page.getByTestId('preview');
  await expect(preview).toContainText('Lamp room is on this character');
  await untilSaved(page);
  const [source, put] = [await kept(page, from), await kept(page, to)];
  const heads = [source, put].map(({ subjects }) => Object.values(subjects.items)[0]!).map((s) => s.scale * s.head.height);
  const k = heads[1]! / heads[0]!;
  const [old, now] = [keyOf(source), keyOf(put)];
  expect(named(put)).toEqual(named(source));
  expect(now.width! / old.width!).toBeCloseTo(k, 3);
  expect(now.place!.distance / old.place!.distance).toBeCloseTo(k, 3);
  expect(put.stage.colour).toEqual(source.stage.colour);
  expect(put.camera.ev).toBe(source.camera.ev);
  // left, everything is as it was
  await preview.getByRole('button', { name: 'Leave' }).click();
  await untilSaved(page);
  expect(await kept(page, to)).toEqual(before);

  await kits.getByRole('button', { name: 'Put Lamp room on, fitted to this face' }).click();
  await expect(preview).toContainText('Closed triangle', { timeout: 120_000, ignoreCase: true });
  // beside the plain scaling
  await preview.getByRole('button', { name: 'As put on' }).click({ timeout: 120_000 });
  await untilSaved(page);
  expect(keyOf(await kept(page, to)).place).toEqual(now.place);
  await preview.getByRole('button', { name: 'Fitted' }).click();
  await preview.getByRole('button', { name: 'Keep' }).click();
  await untilSaved(page);
  const fitted = await kept(page, to);
  expect(keyOf(fitted).place).not.toEqual(now.place);
  // kit and fit are one step
  await page.getByRole('button', { name: 'Undo' }).click();
  await untilSaved(page);
  expect(await kept(page, to)).toEqual(before);

  // beside what is there, only the lights
  await kits.getByLabel('What becomes of the lights that are here').selectOption('merge');
  await kits.getByLabel('Take its stage').uncheck();
  await kits.getByRole('button', { name: 'Put Lamp room on, fitted to this face' }).click();
  await expect(preview).toContainText('Closed triangle', { timeout: 120_000, ignoreCase: true });
  await untilSaved(page);
  const both = await kept(page, to);
  expect(Object.keys(both.lights.items).length).toBe(Object.keys(before.lights.items).length + 5);
  expect(both.stage).toEqual(before.stage);
  // what was fitted is the kit's key, not the one that was there
  for (const [id, light] of Object.entries(before.lights.items)) expect(both.lights.items[id]).toEqual(light);
  // thrown away and had back
  await kits.getByRole('button', { name: 'Throw Lamp room away' }).click();
  await expect(kits).toContainText('No kit is called');
  await page.locator('[data-sonner-toast]').getByRole('button', { name: 'Undo' }).click();
  await expect(kits.getByTestId('kit-Lamp room')).toBeVisible();
  await page.keyboard.press('Escape');
  await expect(kits).toBeHidden();
});
