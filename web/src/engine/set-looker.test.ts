import { describe, expect, it } from '@jest/globals';
import { Guides, type FilmSource, type PictureMaker, type Scene, type Setup } from '@plinket/core';
import type { Pool } from '@plinket/engine';
import { setupWith } from '../../../core/src/testing/setups.ts';
import type { SetReport } from './messages.ts';
import { SetLooker, type SetView } from './set-looker.ts';

/** A clock whose time the test makes pass. */
function clock() {
  const waiting = new Set<() => void>();
  return {
    now: () => 0,
    after: (_ms: number, run: () => void) => {
      waiting.add(run);
      return () => void waiting.delete(run);
    },
    pass: async () => {
      const due = [...waiting];
      waiting.clear();
      for (const run of due) run();
      await new Promise((resolve) => setImmediate(resolve));
    },
  };
}
const scene = {
  geometry: { objects: [], mesh: { positions: new Float32Array(0), indices: new Uint32Array(0) }, triangleObject: new Uint16Array(0) },
  lights: [],
} as unknown as Scene;
const maker = { linear: () => ({ linear: new Float32Array(12), heard: [] }) } as unknown as PictureMaker;
function view(setup: Setup, samples: number, wish = 1): SetView {
  const guides = new Guides(2, 2);
  guides.counts.fill(samples);
  return { wish, setup, scene, maker, source: { width: 2, height: 2, guides, shown: () => undefined } as FilmSource };
}

describe('looking at the set', () => {
  const setup = setupWith({});
  it('waits for the hand to rest, looks once at a setup, and again when it is twice as calm', async () => {
    const told: SetReport[] = [],
      time = clock();
    const looker = new SetLooker({} as Pool, time, (report) => told.push(report));
    looker.look(view(setup, 2));
    await time.pass();
    expect(told).toHaveLength(0);
    looker.look(view(setup, 8));
    looker.stop();
    await time.pass();
    expect(told).toHaveLength(0);
    looker.look(view(setup, 8));
    looker.look(view(setup, 8, 2));
    await time.pass();
    expect(told.map((t) => t.wish)).toEqual([2]);
    looker.look(view(setup, 12));
    await time.pass();
    expect(told).toHaveLength(1);
    looker.look(view(setup, 16));
    await time.pass();
    expect(told).toHaveLength(2);
    looker.look(view(setupWith({}), 4, 3));
    await time.pass();
    expect(told.map((t) => t.wish)).toEqual([2, 1, 3]);
  });
});
