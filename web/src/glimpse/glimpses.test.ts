// Small pictures, one after the other, by an engine that is told when.
import { describe, expect, it } from '@jest/globals';
import type { Setup } from '@plinket/core';
import { setupWith, panelLight } from '../../../core/src/testing/setups.ts';
import type { Frame, ShowWish } from '../engine/messages.ts';
import { Glimpses, type GlimpseEngine } from './glimpses.ts';

class Engine implements GlimpseEngine {
  wish = 0;
  onFrame: (frame: Frame) => void = () => undefined;
  onFailure: (message: string) => void = () => undefined;
  shown: { setup: Setup; wish: ShowWish }[] = [];
  closed = false;
  show(setup: Setup, wish: ShowWish): void {
    this.wish++;
    this.shown.push({ setup, wish });
  }
  character = () => Promise.reject(new Error('none here'));
  close(): void {
    this.closed = true;
  }
  frame(of: Partial<Frame> = {}): void {
    const { width, height } = this.shown.at(-1)!.wish;
    this.onFrame({
      width,
      height,
      rgba: new ArrayBuffer(width * height * 4),
      wish: this.wish,
      samples: 16,
      smoothed: false,
      finished: false,
      ...of,
    } as Frame);
  }
}

function made() {
  const engines: Engine[] = [],
    later: { ms: number; run: () => void; off: boolean }[] = [];
  const glimpses = new Glimpses(
    () => {
      engines.push(new Engine());
      return engines.at(-1)!;
    },
    (ms, run) => {
      const timer = { ms, run, off: false };
      later.push(timer);
      return () => void (timer.off = true);
    },
  );
  /** Time goes by: whatever waits for it happens. */
  const wait = () => later.splice(0).forEach((t) => t.off || t.run());
  return { glimpses, engines, wait };
}
const setup = (stops: number, name = 'A'): Setup => ({ ...setupWith({ key: panelLight({ stops }) }), name });
const on = () => new AbortController().signal;

describe('small pictures', () => {
  it('are made one after the other, in the aspect of their cameras, once they are good enough', async () => {
    const { glimpses, engines } = made();
    const first = glimpses.picture(setup(0), 100, on()),
      second = glimpses.picture(setup(1), 100, on());
    const [engine] = engines as [Engine];
    expect(engine.shown.length).toBe(1);
    const { width, height } = engine.shown[0]!.wish;
    expect(width / height).toBeCloseTo(setup(0).camera.aspect, 1);
    engine.frame({ samples: 3, smoothed: true });
    engine.frame({ samples: 15 });
    // of a wish before
    engine.frame({ wish: 0 });
    expect(engine.shown.length).toBe(1);
    engine.frame({ samples: 4, smoothed: true });
    expect(await first).toMatchObject({ width, height });
    expect(engine.shown.length).toBe(2);
    engine.frame({ samples: 2, finished: true });
    expect((await second).rgba.length).toBe(width * height * 4);
    expect(engines.length).toBe(1);
  });

  it('are kept: what looks the same, whatever it is called, is made once', async () => {
    const { glimpses, engines } = made();
    const both = [glimpses.picture(setup(0), 50, on()), glimpses.picture(setup(0, 'B'), 50, on())];
    engines[0]!.frame();
    const [a, b] = await Promise.all(both);
    expect(b).toBe(a);
    expect(await glimpses.picture(setup(0, 'C'), 50, on())).toBe(a);
    expect(engines[0]!.shown.length).toBe(1);
    void glimpses.picture(setup(0), 60, on());
    expect(engines[0]!.shown.length).toBe(2);
  });

  it('are given up by who asked, and the next comes', async () => {
    const { glimpses, engines } = made();
    const leaving = new AbortController(),
      waiting = new AbortController();
    const first = glimpses.picture(setup(0), 50, leaving.signal),
      second = glimpses.picture(setup(1), 50, waiting.signal),
      third = glimpses.picture(setup(2), 50, on());
    waiting.abort(new Error('scrolled away'));
    leaving.abort(new Error('left'));
    await expect(first).rejects.toThrow('left');
    await expect(second).rejects.toThrow('scrolled away');
    expect(engines[0]!.shown.map((s) => s.setup.lights.items['key']!.stops)).toEqual([0, 2]);
    engines[0]!.frame();
    await third;
    await expect(glimpses.picture(setup(3), 50, AbortSignal.abort(new Error('too late')))).rejects.toThrow('too late');
  });

  it('say why there is none, and go on with the next', async () => {
    const { glimpses, engines } = made();
    const first = glimpses.picture(setup(0), 50, on()),
      second = glimpses.picture(setup(1), 50, on());
    engines[0]!.onFailure('a character is not here');
    await expect(first).rejects.toThrow('a character is not here');
    engines[0]!.frame();
    await second;
  });

  it('let their engine go when nobody has asked for a while, and begin another one later', async () => {
    const { glimpses, engines, wait } = made();
    const first = glimpses.picture(setup(0), 50, on());
    wait();
    expect(engines[0]!.closed).toBe(false);
    engines[0]!.frame();
    await first;
    wait();
    expect(engines[0]!.closed).toBe(true);
    const second = glimpses.picture(setup(1), 50, on()),
      third = glimpses.picture(setup(2), 50, on());
    expect(engines.length).toBe(2);
    glimpses.close();
    await expect(second).rejects.toThrow('closed');
    await expect(third).rejects.toThrow('closed');
    expect(engines[1]!.closed).toBe(true);
    expect(engines.length).toBe(2);
  });
});
