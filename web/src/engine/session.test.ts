import { readFileSync } from 'node:fs';
import { afterEach, describe, expect, it, jest } from '@jest/globals';
import { applyPatch, STAGE_DEFAULTS, type Setup } from '@plinket/core';
import { decode as decodePng } from 'fast-png';
import { Pool, Renderer } from '@plinket/engine';
import { Ports } from '../../../engine/src/testing.ts';
import { plainFilmMath } from '../../../kernel/src/index.ts';
import { panelLight, setupWith } from '../../../core/src/testing/setups.ts';
import type { Frame, FromEngine, ShowMessage, ToEngine } from './messages.ts';
import type { Clock } from './painter.ts';
import { StageSession } from './session.ts';

const ports = new Ports();
const pages: { closed: boolean }[] = [];
afterEach(() => {
  ports.close();
  for (const page of pages.splice(0)) page.closed = true;
});
const urls = { shared: '', own: '', film: '', draco: '', jpeg: '' };
const base = setupWith({
  key: panelLight(),
  fill: panelLight({ name: 'Fill', place: { azimuth: -60, elevation: 10, distance: 2, aim: [0, 0, 0] } }),
});

/** A page and a worker in one: what is told is kept, and can be waited for. */
class Page {
  readonly told: FromEngine[] = [];
  private waiting: { fits: (m: FromEngine) => boolean; met: (m: FromEngine) => void }[] = [];
  private number = 0;
  closed = false;
  readonly session: StageSession;

  constructor(files: Record<string, Uint8Array> = {}) {
    const clock: Clock = {
      now: () => performance.now(),
      after: (ms, run) => {
        const timer = setTimeout(() => !this.closed && run(), ms);
        return () => clearTimeout(timer);
      },
    };
    pages.push(this);
    this.session = new StageSession({
      clock,
      tell: (message) => {
        this.told.push(message);
        for (const w of this.waiting.filter((x) => x.fits(message))) w.met(message);
        this.waiting = this.waiting.filter((x) => !x.fits(message));
      },
      open: () => Promise.resolve({ pool: new Pool(() => ports.local(), 1, { module: undefined, shared: false }), math: plainFilmMath() }),
      another: () => Promise.resolve(new Pool(() => ports.local(), 1, { module: undefined, shared: false })),
      load: (sha, what) => (files[sha] ? Promise.resolve(files[sha]) : Promise.reject(new Error(`${what} cannot be loaded (404).`))),
      fetch: () => Promise.reject(new Error('no decoder')),
    });
  }

  say(message: ToEngine): void {
    this.session.hear(message);
  }
  show(setup: Setup, more: Partial<ShowMessage> = {}): number {
    const number = ++this.number;
    this.say({
      type: 'show',
      number,
      setup,
      width: 24,
      height: 20,
      full: [24, 20],
      solo: [],
      mode: { kind: 'light' },
      clay: false,
      thumb: [8, 4],
      ...more,
    });
    return number;
  }
  /** The next message that fits. */
  hears<T extends FromEngine['type']>(type: T, fits: (m: Extract<FromEngine, { type: T }>) => boolean = () => true) {
    return new Promise<Extract<FromEngine, { type: T }>>((resolve) =>
      this.waiting.push({
        fits: (m) => m.type === type && fits(m as Extract<FromEngine, { type: T }>),
        met: (m) => resolve(m as Extract<FromEngine, { type: T }>),
      }),
    );
  }
  /** The next picture that answers a wish, or a newer one. */
  picture(number: number): Promise<Frame> {
    return this.hears('frame', (f) => f.wish >= number);
  }
  async opened(setup = base, more: Partial<ShowMessage> = {}): Promise<Frame> {
    this.say({ type: 'open', urls });
    return this.picture(this.show(setup, more));
  }
}
const mean = ({ rgba }: { rgba: ArrayBuffer }) => new Uint8Array(rgba).filter((_, i) => i % 4 < 3).reduce((a, b) => a + b) / (24 * 20 * 3);

describe('a session', () => {
  it('opens, builds, traces, and shows what was wished for, with small pictures', async () => {
    const page = new Page();
    const thumbs = page.hears('thumbs');
    const frame = await page.opened();
    expect(frame).toMatchObject({ width: 24, height: 20, wish: 1 });
    expect(mean(frame)).toBeGreaterThan(3);
    expect((await thumbs).thumbs.map((t) => [t.id, t.width, t.height])).toEqual([
      ['key', 8, 4],
      ['fill', 8, 4],
    ]);
    const states = page.told.flatMap((m) => (m.type === 'state' ? [m.state] : []));
    expect(states.slice(0, 3)).toEqual(['loading', 'building', 'tracing']);
  });
  it('a level costs no ray, and every picture says which wish it answers', async () => {
    const page = new Page();
    const before = await page.opened();
    const brighter = page.show(applyPatch(base, { lights: { items: { key: { stops: 1 } } } }));
    const after = await page.picture(brighter);
    expect(mean(after)).toBeGreaterThan(mean(before));
    expect(after.wish).toBe(brighter);
    const numbers = page.told.flatMap((m) => (m.type === 'frame' ? [m.wish] : []));
    expect(numbers).toEqual([...numbers].sort((a, b) => a - b));
  });
  it('a picture that a new balance changes is not called finished before its tiles were judged by it', async () => {
    const page = new Page();
    const finished = page.hears('frame', (f) => f.finished);
    await page.opened();
    await finished;
    const brighter = page.show(applyPatch(base, { lights: { items: { key: { stops: 2 } } } }));
    expect((await page.picture(brighter)).finished).toBe(false);
    expect((await page.hears('frame', (f) => f.finished)).wish).toBe(brighter);
  });
  it('a hand that is put on something finds the cores free at once, and gives them back as soon as it lets go', async () => {
    const page = new Page();
    await page.opened();
    const holds = jest.spyOn(Renderer.prototype, 'hold');
    page.say({ type: 'hand', down: true });
    page.say({ type: 'hand', down: false });
    page.say({ type: 'hand', down: false });
    expect(holds.mock.calls).toEqual([[true], [false]]);
    holds.mockRestore();
    expect((await page.hears('frame', (f) => f.finished)).wish).toBe(1);
  });
  it('a hand that is there before the first picture holds nothing', async () => {
    const page = new Page();
    page.say({ type: 'hand', down: true });
    page.say({ type: 'open', urls });
    page.show(base);
    page.say({ type: 'hand', down: true });
    expect((await page.hears('frame', (f) => f.finished)).wish).toBe(1);
  });
  it('shares add up to the whole, each heard alone', async () => {
    const page = new Page();
    const setup = applyPatch(base, { look: { view: 'plain' } });
    await page.opened(setup);
    const alone = async (light: string) => mean(await page.picture(page.show(setup, { mode: { kind: 'share', light } })));
    const [key, fill] = [await alone('key'), await alone('fill')];
    const whole = mean(await page.picture(page.show(setup)));
    expect(key).toBeLessThan(whole);
    expect(fill).toBeLessThan(whole);
    expect(fill).toBeGreaterThan(0);
  });
  it.each(['tones', 'alpha', 'openness'] as const)('shows %s', async (kind) => {
    const page = new Page();
    const light = await page.opened();
    const frame = await page.picture(page.show(base, { mode: { kind } }));
    expect([...new Uint8Array(frame.rgba)]).not.toEqual([...new Uint8Array(light.rgba)]);
  });
  it('a picture and a contact sheet show plate and touches, a share on its own neither', async () => {
    const page = new Page();
    const plate = { kind: 'linear' as const, from: [1, 1, 1] as [number, number, number], to: [1, 1, 1] as [number, number, number] };
    const open = applyPatch(base, { stage: { ...STAGE_DEFAULTS, kind: 'none' }, plate, look: { view: 'plain' } });
    const frame = await page.opened(open);
    expect(mean(frame)).toBe(255);
    const sheet = page.hears('contacts');
    page.say({ type: 'contact', request: 1, setup: open });
    const { pictures } = await sheet;
    expect(pictures.map((p) => p.id)).toEqual(['key', 'fill', '']);
    expect(pictures.map(mean)).toEqual([0, 0, 255]);
    const file = page.hears('exported');
    page.say({ type: 'export', request: 2, setup: open });
    expect(
      Buffer.from((await file).png)
        .subarray(1, 4)
        .toString(),
    ).toBe('PNG');
  });
  it('goes on to the screen’s own pixels when all rests, keeps them while only balance changes, and gives them up for what must be traced', async () => {
    const page = new Page();
    const full = { full: [48, 40] as [number, number] };
    const first = await page.opened(base, full);
    expect(first.width).toBe(24);
    const large = await page.hears('frame', (f) => f.width === 48);
    expect(large).toMatchObject({ height: 40, wish: 1 });
    // it took the small one's place when it was as calm
    expect(large.samples).toBeGreaterThanOrEqual(16);
    const louder = await page.picture(page.show(applyPatch(base, { lights: { items: { key: { stops: 1 } } } }), full));
    expect(louder.width).toBe(48);
    const moved = await page.picture(page.show(applyPatch(base, { lights: { items: { key: { width: 2 } } } }), full));
    expect(moved.width).toBe(24);
  });
  it('goes on with the screen’s own pixels where what rested in the dark is seen to be noisy once it is brighter', async () => {
    const page = new Page();
    const full = { full: [48, 40] as [number, number] };
    const dark = applyPatch(base, { lights: { items: { key: { stops: -10 }, fill: { stops: -10 } } } });
    page.say({ type: 'open', urls });
    page.show(dark, full);
    const rested = await page.hears('frame', (f) => f.width === 48 && f.finished);
    page.show(base, full);
    const after = await page.hears('frame', (f) => f.width === 48 && f.samples > rested.samples);
    expect(after.wish).toBe(2);
  });
  it('a proof shows the surfaces as they are, though the picture is in clay, and the clay comes back', async () => {
    const page = new Page();
    const red = applyPatch(base, { stage: { ...STAGE_DEFAULTS, kind: 'sweep', colour: [0.8, 0.05, 0.05] }, look: { view: 'plain' } });
    const clay = await page.opened(red, { clay: true });
    const greyness = (rgba: Uint8Array) =>
      Math.max(...rgba.filter((_, i) => i % 4 === 0)) - Math.max(...rgba.filter((_, i) => i % 4 === 1));
    expect(greyness(new Uint8Array(clay.rgba))).toBeLessThan(20);
    const file = page.hears('exported');
    page.say({ type: 'export', request: 1, setup: red });
    const { data } = decodePng(new Uint8Array((await file).png));
    expect(greyness(new Uint8Array(data))).toBeGreaterThan(40);
    // clay again, without being asked for
    await page.hears('frame', (f) => greyness(new Uint8Array(f.rgba)) < 20);
  });
  it('what is asked for before there is a picture is refused with its number, and the session goes on', async () => {
    const page = new Page();
    const refused = page.hears('refused');
    page.say({ type: 'export', request: 7, setup: base });
    expect(await refused).toMatchObject({ request: 7, message: 'There is no picture yet.' });
    expect((await page.opened()).wish).toBe(1);
  });
  it('a file that cannot be had is told by name; the next wish is shown', async () => {
    const page = new Page();
    await page.opened();
    const failed = page.hears('failed');
    page.show(applyPatch(base, { plate: { kind: 'picture', asset: 'f'.repeat(64) } }));
    expect((await failed).message).toContain('The plate');
    expect((await page.picture(page.show(base))).wish).toBe(3);
  });
  it('says what lies under a point, and reads a character that is asked for', async () => {
    const sha = 'c'.repeat(64);
    const goat = Uint8Array.from(readFileSync(new URL('../../../demo/assets/goat.glb', import.meta.url)));
    const page = new Page({ [sha]: goat });
    await page.opened();
    const picked = page.hears('picked');
    // surfaces are known once a tile has been traced finely
    await page.hears('frame', (f) => f.samples >= 1);
    page.say({ type: 'pick', request: 1, x: 0.5, y: 0.9 });
    expect((await picked).picked).toMatchObject({ object: 'stage/backdrop' });
    const parts = page.hears('parts');
    page.say({ type: 'parts', request: 2, asset: sha });
    expect((await parts).character.parts.length).toBeGreaterThan(3);
  });
});
