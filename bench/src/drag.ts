// In the real browser: the demo's key light is dragged round the head in PLAN for ten seconds without a pause, and how old the
// picture is meanwhile is asked in every frame that the page paints. Its age is the time since the first change that it does not
// show yet. Tasks of the page beyond 50 ms are what the browser itself reports (Long Tasks API, W3C). Before that the same address is
// opened again, its files known to the browser: how long until a first, coarse picture stands there.
import { chromium } from '@playwright/test';
import { ensureKernel, ensureWeb } from '../../scripts/build.mjs';
import { ensureChromium, FLAGS } from '../../scripts/lib/chromium.mjs';
import { serveFresh } from '../../scripts/lib/serve.mjs';
import { OPENED } from './page.ts';
import { median, report } from './report.ts';

const SECONDS = 10;
// a text, since the loader of this file names inner functions by a helper that the page does not have
const WATCH = `(() => {
  const { dataset } = document.querySelector('[data-testid=picture]');
  const asked = [], ages = [], shown = new Set(), tasks = [];
  const watch = { ages, shown, asked, tasks, on: true };
  new PerformanceObserver((list) => tasks.push(...list.getEntries().map((e) => e.duration))).observe({ type: 'longtask' });
  const look = (now) => {
    const last = Number(dataset.wish), answered = Number(dataset.shown);
    for (let n = asked.length; n <= last; n++) asked[n] = now;
    shown.add(answered);
    ages.push(answered < last ? now - asked[answered + 1] : 0);
    if (watch.on) requestAnimationFrame(look);
  };
  requestAnimationFrame(look);
  window.watch = watch;
})()`;
const RESULT = `(watch.on = false, { ages: watch.ages, tasks: watch.tasks, pictures: watch.shown.size, changes: watch.asked.filter((t) => t > watch.asked[0]).length })`;

const OPENINGS = 5;

await ensureKernel();
await ensureWeb();
const server = await serveFresh('bench');
const browser = await chromium.launch({ executablePath: ensureChromium(), args: FLAGS });
try {
  const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
  const setups = ((await (await fetch(`${server.url}/api/setups`)).json()) as { items: { id: string; name: string }[] }).items;
  const address = `${server.url}/setup/${setups.find((s) => s.name === 'The keeper, first look')!.id}`;
  await page.goto(address);
  await page.evaluate(OPENED);
  const openings: number[] = [];
  for (let i = 0; i < OPENINGS; i++) {
    await page.goto(address, { waitUntil: 'commit' });
    openings.push(await page.evaluate<number>(OPENED));
  }
  await page.waitForFunction(() => Number(document.querySelector('[data-testid=progress]')?.getAttribute('data-samples')) >= 4, undefined, {
    timeout: 120_000,
  });
  const mark = (await page.getByTestId('plan-key').boundingBox())!;
  const x = mark.x + mark.width / 2,
    y = mark.y + mark.height / 2;
  await page.mouse.move(x, y);
  await page.mouse.down();
  await page.mouse.move(x - 12, y);
  await page.evaluate(WATCH);
  const start = performance.now();
  let moves = 0;
  for (; performance.now() - start < SECONDS * 1000; moves++) {
    const t = (performance.now() - start) / 1000;
    await page.mouse.move(x - 40 + 28 * Math.cos(t * 1.7), y - 10 + 16 * Math.sin(t * 2.3));
    await new Promise((resolve) => setTimeout(resolve, 25));
  }
  const { ages, pictures, changes, tasks } = await page.evaluate<{ ages: number[]; tasks: number[]; pictures: number; changes: number }>(
    RESULT,
  );
  await page.mouse.up();
  const oldest = Math.max(...ages);
  const some = ages.filter((a) => a > 0).sort((a, b) => a - b);
  const late = ages.filter((a) => a > 300).length / ages.length;
  const page_ms = Math.max(0, ...tasks),
    open_ms = median(openings);
  report('drag', { oldest_ms: oldest, median_ms: median(some), late, pictures, page_ms, open_ms }, [
    `opened ${OPENINGS} times with a warm cache: ${openings.map((t) => t.toFixed(0)).join(', ')} ms to a coarse picture`,
    tasks.length
      ? `${tasks.length} tasks of the page beyond 50 ms, the longest ${page_ms.toFixed(0)} ms`
      : 'no task of the page beyond 50 ms (shown as 0)',
    `${moves} moves of the hand, ${changes} changes, ${pictures} pictures of them in ${SECONDS} s`,
    `age of the picture: ${median(some).toFixed(0)} ms in the middle, ${some[Math.floor(some.length * 0.95)]!.toFixed(0)} ms at 95 %, ${oldest.toFixed(0)} ms at the oldest, of ${ages.length} frames`,
  ]);
} finally {
  await browser.close();
  await server.stop();
}
