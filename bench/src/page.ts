// What benches in the real browser have in common.
import type { Page } from '@playwright/test';

/** Until the picture has so many samples a pixel. */
export const untilSamples = (page: Page, least: number) =>
  page.waitForFunction((n) => Number(document.querySelector('[data-testid=progress]')?.getAttribute('data-samples')) >= n, least, {
    timeout: 300_000,
  });

/**
 * Does something (a text of JavaScript, since the loader of these files names inner functions by a helper that the page does not have) and answers the
 * milliseconds until a picture that answers it is on the screen.
 */
export const untilShown = (page: Page, act: string): Promise<number> =>
  page.evaluate<number>(`(async () => {
  const answered = () => Number(document.querySelector('[data-testid=progress]').getAttribute('data-shown'));
  const before = answered();
  const start = performance.now();
  ${act};
  while (answered() <= before) await new Promise((resolve) => requestAnimationFrame(resolve));
  // the attribute is written with the picture; one more frame and it is on the screen
  await new Promise((resolve) => requestAnimationFrame(resolve));
  return performance.now() - start;
})()`);

/** A text that answers when a first, coarse picture stands on the Stage, in milliseconds since its address was opened. */
export const OPENED = `new Promise((resolve) => {
  const look = () => Number(document.querySelector('[data-testid=progress]')?.getAttribute('data-shown')) >= 1
    ? requestAnimationFrame(() => resolve(performance.now())) : requestAnimationFrame(look);
  look();
})`;
