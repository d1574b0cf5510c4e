// A turntable planned: its safe frame, its play-through, eight angles, the face all round, a movie.
import { spawnSync } from 'node:child_process';
import { expect, test, type Page } from '@playwright/test';
import { copiedSetup, demoSetup, untilSaved } from './stage.ts';

interface Document {
  camera: { position: number[]; focal: number };
  turntable?: { frames: number; turning: string };
}
const kept = async (page: Page, id: string) =>
  ((await (await page.request.get(`/api/setups/${id}`)).json()) as { document: Document }).document;

test('a turn is planned, framed, undone, played, looked at from eight sides and made into a movie', async ({ page }) => {
  test.slow();
  const id = await copiedSetup(page, 'To be turned');
  await page.goto(`/turntable/${id}`);
  const work = page.getByTestId('turn-work');
  await expect(page.getByTestId('safe-words')).toContainText('leaves the safe frame', { timeout: 60_000 });
  // sixteen frames: the whole play-through in a moment
  const frames = page.getByTestId('turn-frames').or(page.getByLabel('Frames of a turn')).first();
  await frames.fill('16');
  await frames.press('Enter');
  await untilSaved(page);
  expect((await kept(page, id)).turntable).toMatchObject({ frames: 16, turning: 'figure' });
  await expect(page.getByTestId('plan-words')).toContainText('16 frames, 0.6 s');

  const before = await kept(page, id);
  await page.getByRole('button', { name: /^Distance/ }).click();
  await expect(page.getByTestId('safe-words')).toContainText('All of it stays within', { timeout: 60_000 });
  // touching, not merely inside
  expect(Math.abs(Number(await page.getByTestId('safe-words').getAttribute('data-out')))).toBeLessThan(0.002);
  await untilSaved(page);
  expect((await kept(page, id)).camera.position).not.toEqual(before.camera.position);
  await page.getByRole('button', { name: 'Undo', exact: true }).first().click();
  await expect(page.getByTestId('safe-words')).toContainText('leaves the safe frame', { timeout: 60_000 });
  await page.getByRole('button', { name: /^Lens/ }).click();
  await expect(page.getByTestId('safe-words')).toContainText('All of it stays within', { timeout: 60_000 });
  await untilSaved(page);
  expect((await kept(page, id)).camera.focal).toBeLessThan(before.camera.focal);

  // all of it is traced, and plays; the slider holds it
  await expect(work).toContainText('16 of 16 frames traced', { timeout: 120_000 });
  await page.getByRole('button', { name: 'Play' }).click();
  const at = page.getByTestId('frame-words');
  await expect(at).not.toHaveText(/^1 of 16/);
  // a press on the slider holds, also where it stands just then
  await page.getByLabel('Frame', { exact: true }).click();
  await expect(page.getByRole('button', { name: 'Play' })).toBeVisible();
  await page.getByLabel('Frame', { exact: true }).fill('5');
  await expect(at).toHaveText('5 of 16 · 90° · 25 a second');
  await expect(page.getByTestId('turn')).toHaveAttribute('data-frame', '5');
  // another picture than the first
  const picture = () => page.getByTestId('turn').evaluate((c: HTMLCanvasElement) => c.toDataURL());
  const side = await picture();
  await page.getByLabel('Frame', { exact: true }).fill('1');
  await expect(page.getByTestId('turn')).toHaveAttribute('data-frame', '1');
  expect(await picture()).not.toBe(side);

  // the face all round: the key draws on it what it drew on the Stage, and nothing on the back of the head
  const strip = page.getByTestId('strip');
  await expect(strip).toHaveAttribute('data-moments', '16', { timeout: 120_000 });
  await expect(strip).toHaveAttribute('aria-label', /Closed triangle/);

  await page.getByRole('button', { name: 'Trace eight' }).click();
  await expect(page.getByTestId('angle')).toHaveCount(8, { timeout: 150_000 });
  const [sheet] = await Promise.all([page.waitForEvent('download'), page.getByRole('button', { name: 'Sheet PDF' }).click()]);
  const text = spawnSync('pdftotext', [await sheet.path(), '-'], { encoding: 'utf8' }).stdout;
  for (const words of ['To be turned, turntable', '180°', 'frame 9', 'Closed triangle']) expect(text).toContain(words);

  // a movie that is stopped leaves nothing; one that is not holds every frame once (read by ffprobe)
  await page.getByLabel('Height').selectOption('180');
  await page.getByLabel('Samples').selectOption('4');
  await page.getByRole('button', { name: 'Make a WebM' }).click();
  await page.getByRole('button', { name: 'Stop' }).click();
  await expect(page.getByText('The movie was stopped')).toBeVisible();
  const [movie] = await Promise.all([
    page.waitForEvent('download', { timeout: 150_000 }),
    page.getByRole('button', { name: 'Make a WebM' }).click(),
  ]);
  const probe = spawnSync(
    'ffprobe',
    [
      '-v',
      'error',
      '-count_frames',
      '-show_entries',
      'stream=width,height,nb_read_frames,avg_frame_rate',
      '-of',
      'json',
      await movie.path(),
    ],
    { encoding: 'utf8' },
  );
  const { streams } = JSON.parse(probe.stdout) as { streams: { width: number; height: number; nb_read_frames: string }[] };
  expect(streams[0]).toMatchObject({ width: 144, height: 180, nb_read_frames: '16' });
  await expect(page.getByTestId('turn-command')).toContainText(`plinket turn ${id}`);
});

test('a figure plays its clip while it turns, in whole loops, and says what does not match', async ({ page }) => {
  const { id: from } = await demoSetup(page, 'The signaller listens');
  const { document } = (await (await page.request.get(`/api/setups/${from}`)).json()) as { document: object };
  const turntable = {
    turning: 'figure',
    axis: 'middle',
    start: 0,
    direction: 'left',
    frames: 16,
    fps: 25,
    before: 0,
    after: 0,
    margin: 0.06,
  };
  const made = await page.request.post('/api/setups', { data: { document: { ...document, name: 'Listens, turning', turntable } } });
  const { id } = (await made.json()) as { id: string };
  await page.goto(`/turntable/${id}`);
  const work = page.getByTestId('turn-work');
  await expect(work).toContainText('16 of 16 frames traced', { timeout: 120_000 });
  const slider = page.getByLabel('Frame', { exact: true });
  const picture = async () => {
    await slider.fill('9');
    await expect(page.getByTestId('turn')).toHaveAttribute('data-frame', '9');
    return page.getByTestId('turn').evaluate((c: HTMLCanvasElement) => c.toDataURL());
  };
  const still = await picture();
  await page.getByLabel('clips play while it turns').check();
  const words = page.getByTestId('clip-words');
  await expect(words).toContainText('plays once at');
  await expect(words).toContainText('do not match');
  await expect(async () => expect(await picture()).not.toBe(still)).toPass({ timeout: 120_000 });
  await untilSaved(page);
  expect((await kept(page, id)).turntable).toMatchObject({ plays: true });
  // as many frames as its own speed wants, one step, taken back
  await words.getByRole('button', { name: /frames$/ }).click();
  await expect(words).toContainText('at 1.00 of its speed', { timeout: 30_000 });
  await page.getByRole('button', { name: 'Undo', exact: true }).first().click();
  await expect(words).toContainText('do not match');
  await untilSaved(page);
  expect((await kept(page, id)).turntable).toMatchObject({ frames: 16, plays: true });
});
