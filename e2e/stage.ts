import { expect, type Locator, type Page } from '@playwright/test';

/** A setup of the demo, however many others this server has come to hold. */
export async function demoSetup(page: Page, name: string): Promise<{ id: string; revision: number }> {
  type Found = { items: { id: string; revision: number; name: string }[] };
  const { items } = (await (await page.request.get(`/api/setups?limit=100&search=${encodeURIComponent(name)}`)).json()) as Found;
  const found = items.find((s) => s.name === name);
  if (!found) throw new Error(`No setup is called “${name}”.`);
  return found;
}
export const firstSetup = (page: Page) => demoSetup(page, 'The keeper, first look');

/** A copy of the demo's setup, for tests that change it much. */
export async function copiedSetup(page: Page, name = 'A copy to work on'): Promise<string> {
  const { id } = await firstSetup(page);
  const { document } = (await (await page.request.get(`/api/setups/${id}`)).json()) as { document: { name: string } };
  const made = await page.request.post('/api/setups', { data: { document: { ...document, name } } });
  return ((await made.json()) as { id: string }).id;
}

/** Opens the Stage of a setup and waits for a picture, however coarse: of at least so many samples a pixel where more is asked for. */
export async function openStage(page: Page, id: string, samples = 0): Promise<void> {
  await page.goto(`/setup/${id}`);
  await untilSamples(page, samples);
}

export async function untilSamples(page: Page, samples: number): Promise<void> {
  await expect(async () =>
    expect(Number(await page.getByTestId('progress').getAttribute('data-samples'))).toBeGreaterThanOrEqual(samples),
  ).toPass({ timeout: 90_000 });
}

/** Until the noise is out of the picture: in a noisy one means come out darker to the eye. */
export async function untilSmooth(page: Page): Promise<void> {
  await untilSamples(page, 4);
  await expect(page.getByTestId('progress')).toHaveAttribute('data-smoothed', 'true', { timeout: 60_000 });
}

export const untilSaved = (page: Page) => expect(page.getByTestId('save-state')).toHaveAttribute('data-state', 'idle', { timeout: 20_000 });

/** Mean r g b of the picture on a grid of cells, 0…255: what an eye from afar would compare. */
export const cells = (page: Page, columns = 6, rows = 8): Promise<number[]> => cellsOf(page.getByTestId('picture'), columns, rows);

/** The same of any canvas. */
export function cellsOf(canvas: Locator, columns: number, rows: number): Promise<number[]> {
  return canvas.evaluate(
    (canvas: HTMLCanvasElement, [nx, ny]) => {
      const { data, width, height } = canvas.getContext('2d')!.getImageData(0, 0, canvas.width, canvas.height);
      const out = new Array<number>(nx! * ny! * 3).fill(0),
        counts = new Array<number>(nx! * ny!).fill(0);
      for (let y = 0; y < height; y++)
        for (let x = 0; x < width; x++) {
          const c = Math.floor((y / height) * ny!) * nx! + Math.floor((x / width) * nx!);
          counts[c]!++;
          for (let k = 0; k < 3; k++) out[c * 3 + k]! += data[(y * width + x) * 4 + k]!;
        }
      return out.map((v, i) => v / counts[Math.floor(i / 3)]!);
    },
    [columns, rows],
  );
}

/** Largest difference between two sets of cells. */
export const apart = (a: number[], b: number[]): number => Math.max(...a.map((v, i) => Math.abs(v - b[i]!)));
export const brightness = (a: number[]): number => a.reduce((s, v) => s + v, 0) / a.length;
