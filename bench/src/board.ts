// A sequence of five hundred shots: how soon its board is there, how smoothly it scrolls, and how long it takes to work out what all shots become when
// the light of the sequence has changed.
import { chromium, type Page } from '@playwright/test';
import { applyPatch, changesOf, follow, newShot, parseSetup, type Setup } from '@plinket/core';
import { ensureKernel, ensureWeb } from '../../scripts/build.mjs';
import { ensureChromium, FLAGS } from '../../scripts/lib/chromium.mjs';
import { serveFresh } from '../../scripts/lib/serve.mjs';
import { median, report, time } from './report.ts';
import { asker } from './asking.ts';

const SHOTS = 500,
  TIMES = 5,
  NOTCHES = 60;

await ensureKernel();
await ensureWeb();
const server = await serveFresh('bench');
const ask = asker(server.url);
type Made = { id: string };
type Sequence = Made & { document: { setup: string; shots: { items: Record<string, object> } } };

const { items } = await ask<{ items: (Made & { name: string })[] }>('sequences');
const demo = await ask<Sequence>(`sequences/${items.find((s) => s.name === 'Night watch')!.id}`);
const { document: light } = await ask<{ document: Setup }>(`setups/${demo.document.setup}`);
const setup = await ask<Made>('setups', { document: { ...light, name: 'Five hundred, their light' } });
const made = await ask<Made>('sequences', { document: { ...demo.document, name: 'Five hundred', setup: setup.id, shots: { items: {} } } });
const said = Array.from({ length: SHOTS }, (_, i) => ({
  code: `F_${String(i + 1).padStart(4, '0')}`,
  first: 1001,
  last: 1100,
  state: 'to light',
  brief: '',
  notes: '',
}));
await ask(`sequences/${made.id}/shots`, { shots: said });

// what all shots become: each departs in something, as shots do
const follows = { setup: setup.id, revision: 1 },
  base = parseSetup(light),
  key = Object.keys(base.lights.items)[0]!;
const shots = said.map(({ code }, i) =>
  applyPatch<Setup>(newShot(base, follows, code), {
    lights: { items: { [key]: { stops: (i % 7) / 3 } } },
    camera: { focal: 40 + (i % 60) },
  }),
);
const now = applyPatch<Setup>(base, { lights: { items: { [key]: { kelvin: 4200 } } } });
const resolving = Array.from({ length: TIMES }, () =>
  time(() => {
    const changed = changesOf(base, now);
    for (const shot of shots) follow(shot, base, now, { ...follows, revision: 2 }, changed);
  }),
);

/** Milliseconds from the address of the board to its first cards with what is said of all shots. */
async function opened(page: Page): Promise<number> {
  const start = performance.now();
  await page.goto(`${server.url}/sequence/${made.id}`);
  await page.getByTestId('shot-F_0001').getByText('as its sequence').waitFor();
  return performance.now() - start;
}
const browser = await chromium.launch({ executablePath: ensureChromium(), args: FLAGS });
const opens: number[] = [],
  frames: number[] = [];
try {
  const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
  await opened(page);
  for (let i = 0; i < TIMES; i++) opens.push(await opened(page));
  await page.mouse.move(640, 500);
  for (let i = 0; i < TIMES; i++) {
    await page.evaluate(`(() => { const w = { frames: [], on: true }; let last = performance.now();
      const look = (n) => { w.frames.push(n - last); last = n; if (w.on) requestAnimationFrame(look); }; requestAnimationFrame(look); window.watched = w; })()`);
    for (let n = 0; n < NOTCHES; n++) {
      await page.mouse.wheel(0, i % 2 ? -120 : 120);
      await page.waitForTimeout(50);
    }
    frames.push(await page.evaluate<number>('(watched.on = false, Math.max(...watched.frames.slice(2)))'));
  }
} finally {
  await browser.close();
  await server.stop();
}

const words = (v: number[]) => v.map((x) => Math.round(x)).join(', ');
report('board', { open_ms: median(opens), resolve_ms: median(resolving), frame_ms: Math.max(...frames) }, [
  `${SHOTS} shots of one sequence: the board, from its address until it says what each departs in: ${words(opens)} ms`,
  `what all become over a newer light of the sequence, each with two departures: ${words(resolving)} ms`,
  `the longest frame while it is scrolled by a wheel, 20 notches a second: ${words(frames)} ms`,
]);
