// The Lab: a sequence is sent, two nodes render it, one is killed, all frames are done; then it is balanced without a ray, and goes out again.
import { spawnSync, type ChildProcess } from 'node:child_process';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { expect, test, type Page } from '@playwright/test';
import { startNode } from '../scripts/lib/serve.mjs';
import { asked, ownSequence, shotId } from './sequences.ts';
import { finishedExr } from './films.ts';
import { firstSetup, openStage } from './stage.ts';

interface Frame {
  label: string;
  state: string;
  node?: string;
  files: { name: string; sha256: string }[];
  log: { words: string }[];
}
const url = process.env['PLINKET_URL']!;
const cache = mkdtempSync(join(tmpdir(), 'plinket-nodes-'));
const nodes: ChildProcess[] = [];
test.afterAll(() => {
  for (const node of nodes) node.kill('SIGKILL');
  rmSync(cache, { recursive: true, force: true });
});

/** Makes a node's token in the Lab, as its page shows it, and starts the node with it. */
async function addNode(page: Page, name: string): Promise<ChildProcess> {
  await page.getByRole('button', { name: 'Add a node' }).click();
  await page.getByLabel('Name of the new node').fill(name);
  await page.getByRole('button', { name: 'Make its token' }).click();
  const command = (await page.getByTestId('node-command').textContent())!;
  expect(command).toContain(`--server ${url} --token plinket-`);
  await page
    .getByRole('dialog', { name: `Node ${name}` })
    .getByRole('button', { name: 'Done' })
    .click();
  const node = startNode(url, /--token (\S+)/.exec(command)![1]!, ['--workers', '1', '--cache', join(cache, name)]);
  nodes.push(node);
  return node;
}
const framesOf = async (page: Page, job: string) => (await asked<{ items: Frame[] }>(page, `lab/jobs/${job}/frames`)).items;
const jobOf = (page: Page): string => new URL(page.url()).pathname.split('/')[2]!;
const state = (page: Page) => page.getByTestId('job-state');
/** Nobody is in the picture: what is tried is the way of the frames, not how long a face takes. */
const empty = (light: object): object => ({ ...light, subjects: { items: {} } });

test('a sequence goes to the Lab, a node dies, all its frames are done; balanced anew it is a version of its own', async ({ page }) => {
  test.slow();
  const sequence = await ownSequence(page, 'Dusk', 5, empty);
  const sent = page.waitForResponse((r) => r.url().endsWith('/api/lab/jobs') && r.request().method() === 'POST');
  await page.goto(`/sequence/${sequence.id}`);
  await page.getByRole('button', { name: 'Send to the Lab' }).click();
  const dialog = page.getByTestId('send-job');
  await dialog.getByText('glance', { exact: true }).click();
  // a name that would leave its folder is not sent
  await dialog.getByLabel('names').fill('../{version}/{shot}');
  await expect(page.getByTestId('name-example')).toContainText('no .. in it');
  await expect(dialog.getByRole('button', { name: 'Send' })).toBeDisabled();
  await dialog.getByLabel('names').fill('{job}/{version}/{shot}');
  await expect(page.getByTestId('name-example')).toHaveText('dusk/v001/lr-020.png');
  await expect(page.getByTestId('estimate')).toContainText('5 frames. No node is there');
  await dialog.getByRole('button', { name: 'Send' }).click();
  expect((await sent).status()).toBe(201);
  await expect(state(page)).toHaveAttribute('data-state', 'waiting');
  const job = jobOf(page);
  // of two nodes the first is killed as soon as it has a frame in hand
  const first = await addNode(page, 'north');
  await expect(state(page)).toHaveAttribute('data-state', 'running', { timeout: 60_000 });
  first.kill('SIGKILL');
  await addNode(page, 'south');
  await expect(state(page)).toHaveAttribute('data-state', 'done', { timeout: 240_000 });
  const frames = await framesOf(page, job);
  expect(frames.map((f) => [f.label, f.state, f.log.filter((l) => l.words === 'finished').length])).toEqual(
    ['S_10', 'S_20', 'S_30', 'S_40', 'S_50'].map((label) => [label, 'done', 1]),
  );
  expect(frames.flatMap((f) => f.files.map((file) => file.name)).sort()).toEqual(
    [10, 20, 30, 40, 50].flatMap((n) => [`dusk/v001/s_${n}.exr`, `dusk/v001/s_${n}.png`]),
  );
  expect(frames.some((f) => f.log.some((l) => l.words === 'taken by north'))).toBe(true);
  await page.getByTestId('frame').nth(1).click();
  await expect(page.getByRole('complementary', { name: 'S_20 1001' })).toContainText('finished');
  await page.keyboard.press('Escape');
  await expect(page.getByTestId('frame')).toHaveCount(5);
  await expect(page.getByTestId('node').filter({ hasText: 'south' })).toHaveAttribute('data-here', 'true');

  // the lamp comes down by half a stop, all else is warmer
  await page.getByRole('link', { name: 'Balance' }).click();
  await expect(page.getByTestId('graded')).toHaveAttribute('data-ready', 'true', { timeout: 60_000 });
  const look = () =>
    page.getByTestId('graded').evaluate((c: HTMLCanvasElement) => {
      const { data } = c.getContext('2d')!.getImageData(0, 0, c.width, c.height);
      const sums = [0, 0, 0];
      for (let i = 0; i < data.length; i += 4) for (let k = 0; k < 3; k++) sums[k]! += data[i + k]!;
      return sums.map((s) => s / (data.length / 4));
    });
  const settled = () =>
    expect(async () => {
      const [number, wanted] = await page
        .getByTestId('graded')
        .evaluate((c: HTMLCanvasElement) => [Number(c.dataset['number']), Number(c.dataset['wanted'])]);
      expect(number).toBeGreaterThanOrEqual(wanted!);
    }).toPass();
  /** But for the last bit of a sum that grew by steps. */
  const looks = (like: number[]) =>
    expect.poll(async () => Math.max(...(await look()).map((v, i) => Math.abs(v - like[i]!)))).toBeLessThan(0.01);
  await settled();
  const before = await look();
  const { document } = await asked<{ document: { lights: { items: Record<string, { role: string; stops: number; kelvin: number }> } } }>(
    page,
    `setups/${sequence.document.setup}`,
  );
  const key = Object.entries(document.lights.items).find(([, l]) => l.role === 'key')![0];
  const set = async (light: string, field: 'level' | 'warmer', value: string) => {
    const input = page.getByTestId(`voice-${light}`).getByRole('textbox', { name: new RegExp(`^${field}`) });
    await input.fill(value);
    await input.press('Enter');
  };
  await set(key, 'level', '-1/2');
  for (const light of Object.keys(document.lights.items)) if (light !== key) await set(light, 'warmer', '80');
  await settled();
  const after = await look();
  expect(after[0]! / after[2]!).toBeGreaterThan(before[0]! / before[2]!);
  // as it was, while the bar is held; undone and done again; a reload loses nothing
  await page.getByTestId('graded').click();
  await page.keyboard.down(' ');
  await looks(before);
  await page.keyboard.up(' ');
  await looks(after);
  await page.keyboard.press('Control+z');
  await expect.poll(async () => Math.abs((await look())[2]! - after[2]!)).toBeGreaterThan(0.02);
  await page.keyboard.press('Control+Shift+Z');
  await looks(after);
  await page.reload();
  await expect(page.getByTestId('graded')).toHaveAttribute('data-ready', 'true', { timeout: 60_000 });
  await looks(after);
  // through the frames and back, faster than they can be read: the last one that was asked for is shown
  const slider = page.getByLabel('Frame in view');
  for (let i = 0; i < 4; i++) await slider.press('ArrowRight');
  await expect(slider).toHaveAttribute('aria-valuetext', 'S_50 · 1001');
  for (let i = 0; i < 4; i++) await slider.press('ArrowLeft');
  await expect(page.getByTestId('graded')).toHaveAttribute('data-ready', 'true');
  await looks(after);
  // what it shows is what comes out: the same pixels, of a node, in a version of its own
  await page.getByRole('button', { name: 'Into the setups' }).click();
  await expect(page.getByText('5 setups changed')).toBeVisible();
  const shot = await asked<{ document: typeof document }>(page, `setups/${shotId(sequence, 'S_10')}`);
  expect(shot.document.lights.items[key]!.stops).toBeCloseTo(document.lights.items[key]!.stops - 0.5, 5);
  await page.getByRole('button', { name: 'Export 5 frames' }).click();
  await expect(page.getByRole('heading', { name: 'Dusk v002' })).toBeVisible();
  await expect(state(page)).toHaveAttribute('data-state', 'done', { timeout: 120_000 });
  const [out] = await framesOf(page, jobOf(page));
  expect(out!.files.map((f) => f.name)).toEqual(['dusk/v002/s_10.png']);
  const kept = await page.evaluate(async (sha256) => {
    const picture = await createImageBitmap(await (await fetch(`/api/blobs/${sha256}`)).blob());
    const canvas = new OffscreenCanvas(picture.width, picture.height),
      context = canvas.getContext('2d')!;
    context.drawImage(picture, 0, 0);
    const { data } = context.getImageData(0, 0, canvas.width, canvas.height);
    const sums = [0, 0, 0];
    for (let i = 0; i < data.length; i += 4) for (let k = 0; k < 3; k++) sums[k]! += data[i + k]!;
    return sums.map((s) => s / (data.length / 4));
  }, out!.files[0]!.sha256);
  kept.forEach((v, i) => expect(Math.abs(v - after[i]!)).toBeLessThan(0.05));
  // the frames stand side by side on a sheet
  const sheet = page.waitForEvent('download');
  await page.getByRole('button', { name: 'Contact sheet' }).click();
  const pdf = await sheet;
  expect(pdf.suggestedFilename()).toBe('Dusk-v002.pdf');
  const said = spawnSync('pdftotext', [await pdf.path(), '-']).stdout.toString();
  for (const code of ['S_10', 'S_50']) expect(said).toContain(code);
  // the frames join to a movie
  const movie = page.waitForEvent('download');
  await page.getByRole('button', { name: 'Movie' }).click();
  expect((await movie).suggestedFilename()).toBe('Dusk-v002.webm');
});

test('a picture goes to the Lab from its Stage; a job is paused, goes on, is cancelled; a token is taken back', async ({ page }) => {
  test.slow();
  const { document } = await ownSequence(page, 'Dawn', 1, empty);
  await openStage(page, document.setup);
  await page.getByRole('button', { name: 'Lab', exact: true }).click();
  await page.getByTestId('send-job').getByLabel('EXR with every light').uncheck();
  await page.getByTestId('send-job').getByLabel('called').fill('Paused');
  // so much work that it is not done before it is cancelled, however fast the node
  await page.getByTestId('send-job').getByText('show', { exact: true }).click();
  await page.getByTestId('send-job').getByRole('button', { name: 'Send' }).click();
  await page.getByRole('button', { name: 'Pause' }).click();
  await expect(state(page)).toHaveAttribute('data-state', 'paused');
  await page.getByRole('button', { name: 'Go on' }).click();
  await expect(state(page)).toHaveAttribute('data-state', /waiting|running/);
  // whoever looks on in another window sees the same at once
  const other = await page.context().newPage();
  await other.goto(page.url());
  await expect(state(other)).toHaveAttribute('data-state', /waiting|running/);
  await page.getByRole('button', { name: 'Cancel' }).click();
  await expect(state(page)).toHaveAttribute('data-state', 'cancelled');
  await expect(state(other)).toHaveAttribute('data-state', 'cancelled');
  await other.close();
  await page.getByRole('button', { name: 'Take the job off the list' }).click();
  await expect(page.getByTestId('job').filter({ hasText: 'Paused' })).toHaveCount(0);
  await page.getByRole('button', { name: 'Add a node' }).click();
  await page.getByLabel('Name of the new node').fill('for a moment');
  await page.getByRole('button', { name: 'Make its token' }).click();
  // the token comes from the server: only then is there something for Escape to leave
  const token = page.getByRole('dialog', { name: 'Node for a moment' });
  await expect(token).toBeVisible();
  await page.keyboard.press('Escape');
  await expect(token).toHaveCount(0);
  const row = page.getByTestId('node').filter({ hasText: 'for a moment' });
  await expect(row).toContainText('was never here');
  await row.getByRole('button').click();
  await expect(row).toHaveCount(0);
});

test('characters go to the Lab under kits, each with each', async ({ page }) => {
  const { document } = await ownSequence(page, 'Under kits', 1, empty);
  await page.goto(`/setup/${document.setup}`);
  await page.getByRole('button', { name: 'Lab', exact: true }).click();
  const dialog = page.getByTestId('send-job'),
    send = dialog.getByRole('button', { name: 'Send' });
  await dialog.getByRole('combobox', { name: /^what/ }).selectOption({ label: 'its character under kits' });
  await expect(page.getByTestId('estimate')).toContainText('0 frames');
  await expect(send).toBeDisabled();
  const find = dialog.getByRole('searchbox', { name: 'Find kits' });
  await find.fill('butterfly');
  const kits = dialog.getByRole('list', { name: 'kits', exact: true });
  await expect(kits.getByRole('checkbox').first()).toBeVisible();
  await expect(kits.getByRole('listitem')).not.toHaveCount(43);
  await kits.getByRole('checkbox').first().check();
  const [first] = await kits.getByRole('listitem').allInnerTexts();
  // what is chosen stays chosen while other words are looked for
  await find.fill('split');
  await expect(kits.getByRole('checkbox', { checked: true })).toHaveCount(0);
  await kits.getByRole('checkbox').first().check();
  await expect(dialog.getByText('kits, 2 chosen')).toBeVisible();
  await dialog.getByRole('searchbox', { name: 'Find also characters of' }).fill('keeper, first look');
  await dialog.getByRole('list', { name: 'also characters of' }).getByRole('checkbox').first().check();
  await expect(page.getByTestId('estimate')).toContainText('4 frames');
  await dialog.getByText('glance', { exact: true }).click();
  await send.click();
  await page.waitForURL(/\/lab\/./);
  const frames = await framesOf(page, jobOf(page));
  expect(frames).toHaveLength(4);
  expect(frames[0]!.label).toContain(`${first!.trim()}, `);
  await expect(page.getByText('under kits').first()).toBeVisible();
  await page.getByRole('button', { name: 'Cancel' }).click();
  await expect(state(page)).toHaveAttribute('data-state', 'cancelled');
});

test('an EXR from a disk is balanced where it is one of ours, and refused with its reason where not', async ({ page }) => {
  await page.goto('/lab/balance');
  const input = page.getByLabel('EXR of a finished picture');
  await input.setInputFiles({ name: 'foreign.exr', mimeType: 'image/x-exr', buffer: Buffer.from('no exr at all') });
  await expect(page.getByRole('alert')).toContainText('foreign.exr cannot be balanced: This is no OpenEXR file');
  await page.goto('/lab/balance');
  const { id } = await firstSetup(page);
  const { document } = await asked<{ document: { lights: { items: Record<string, { name: string }> } } }>(page, `setups/${id}`);
  await input.setInputFiles({ name: 'night.exr', mimeType: 'image/x-exr', buffer: finishedExr(document) });
  await expect(page.getByTestId('graded')).toHaveAttribute('data-ready', 'true');
  const green = () => page.getByTestId('graded').evaluate((c: HTMLCanvasElement) => c.getContext('2d')!.getImageData(9, 9, 1, 1).data[1]!);
  const before = await green();
  await page.getByRole('textbox', { name: 'exposure, st' }).fill('-2');
  await page.getByRole('textbox', { name: 'exposure, st' }).press('Enter');
  await expect.poll(green).toBeLessThan(before);
  const png = page.waitForEvent('download');
  await page.getByRole('button', { name: 'PNG' }).click();
  expect((await png).suggestedFilename()).toBe('night.png');
});
