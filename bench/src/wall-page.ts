// How soon nine proofs hang on the wall, among a thousand that are kept.
import { readFileSync } from 'node:fs';
import { readingText, writePng, type Setup } from '@plinket/core';
import { DEMO_SETUPS } from '@plinket/demo';
import type { Browser } from '@playwright/test';

/** Proofs that are kept, and those that hang. */
const ALL = 1000,
  NINE = 9,
  TIMES = 7;

const reading = { pattern: 'loop', ratio: 3, catchlights: [] };

/**
 * Milliseconds until the last of nine pictures is there with the table below: from a click that leads to them within the application (`within`), and from
 * the address, with the application itself (`whole`), each time in a page of its own.
 */
export async function wallTimes(browser: Browser, url: string): Promise<{ within: number[]; whole: number[] }> {
  const { items } = (await (await fetch(`${url}/api/setups`)).json()) as { items: { id: string }[] };
  const id = items[0]!.id;
  const { document } = (await (await fetch(`${url}/api/setups/${id}`)).json()) as { document: Setup };
  const send = async (png: Uint8Array<ArrayBuffer>, name: string): Promise<string> => {
    const answer = await fetch(`${url}/api/setups/${id}/proofs?name=${name}`, {
      method: 'POST',
      headers: { 'Content-Type': 'image/png' },
      body: png,
    });
    if (answer.status !== 201) throw new Error(`a proof was not kept: ${answer.status}`);
    return ((await answer.json()) as { id: string }).id;
  };
  const small = (i: number) => Uint8Array.from(writePng(8, 10, new Uint8Array(320).fill(i % 256), document, readingText(reading)));
  for (let i = 0; i < ALL - NINE; i++) await send(small(i), `Of ${i}`);
  const nine: string[] = [];
  for (let i = 0; i < NINE; i++)
    nine.push(await send(Uint8Array.from(readFileSync(DEMO_SETUPS[i % DEMO_SETUPS.length]!.picture)), `Nine ${i}`));
  const address = `/proofs?on=${nine.join(',')}`;
  /** A text of JavaScript that answers how long it took from `start` on. */
  const hangs = (start: string) => `(async () => {
    const start = ${start};
    const all = () => [...document.querySelectorAll('[data-testid=pane] img')];
    const there = () => all().length === ${NINE} && all().every((i) => i.complete && i.naturalWidth > 0) && document.querySelector('[data-testid=readings]');
    while (!there()) await new Promise((resolve) => requestAnimationFrame(resolve));
    await Promise.all(all().map((i) => i.decode()));
    await new Promise((resolve) => requestAnimationFrame(resolve));
    return performance.now() - start;
  })()`;
  const within: number[] = [],
    whole: number[] = [];
  for (let i = 0; i < TIMES; i++) {
    const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
    await page.goto(`${url}${address}`, { waitUntil: 'commit' });
    whole.push(await page.evaluate<number>(hangs('0')));
    await page.goto(url);
    await page.getByTestId('setup-card').first().waitFor();
    // what is kept in this page's memory is gone with the new page: the proofs are asked for again, their pictures come from the browser's store
    within.push(
      await page.evaluate<number>(
        hangs(`(history.pushState({}, '', '${address}'), dispatchEvent(new PopStateEvent('popstate')), performance.now())`),
      ),
    );
    await page.close();
  }
  return { within, whole };
}
