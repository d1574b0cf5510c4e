import { readFileSync } from 'node:fs';
import { beforeAll, describe, expect, it } from '@jest/globals';
import { collected, NO_FILES, readGlb, type CharacterAsset, type Setup } from '@plinket/core';
import { nodePool } from '@plinket/engine/node';
import { panelLight, setupWith, subjectWith } from '../../../core/src/testing/setups.ts';
import { breaksOf, MOMENTS, timesOf } from '../stage/reading/motion.ts';
import type { MotionReport } from './messages.ts';
import { MotionReader } from './motion.ts';

let asset: CharacterAsset;
let setup: Setup;
beforeAll(async () => {
  asset = await readGlb(readFileSync(new URL('../../../demo/assets/keeper.glb', import.meta.url)), 'keeper.glb');
  const [clip] = asset.rig!.clips;
  setup = {
    ...setupWith({
      key: panelLight(),
    }),
    subjects: collected({ who: subjectWith({ head: asset.head, pose: { clip: clip!.name, time: 0 } }) }),
  };
}, 60_000);

/** Reads some times; what was told, the last last. */
async function read(times: readonly number[], stopAfter = Infinity): Promise<MotionReport[]> {
  const told: MotionReport[] = [];
  const reader = new MotionReader(
    () => Promise.resolve(nodePool({ workers: 1 })),
    NO_FILES,
    (report) => {
      told.push(report);
      if (report.moments.length === stopAfter) reader.stop();
    },
  );
  await reader.read(setup, 'who', () => asset, times);
  return told;
}

describe('times of a motion', () => {
  it('are all frames of a short one, and no more than there is room for of a long one, both ends among them', () => {
    expect(timesOf(0, 0.5, 24)).toHaveLength(13);
    const long = timesOf(1, 21, 24);
    expect(long).toHaveLength(MOMENTS);
    expect([long[0], long.at(-1)]).toEqual([1, 21]);
    // on frames
    for (const t of long) expect(Math.abs(t * 24 - Math.round(t * 24))).toBeLessThan(1e-3);
    expect(timesOf(2, 2, 24)).toEqual([2, 2.04167]);
  });
});

describe('a face over a motion', () => {
  it('is read moment by moment where its head is, and told as it goes', async () => {
    const { duration } = asset.rig!.clips[0]!;
    const told = await read([0, duration / 2]);
    expect(told.map((r) => r.moments.length)).toEqual([0, 1, 2, 2]);
    const { moments, done, failed } = told.at(-1)!;
    expect(failed).toBeUndefined();
    expect(done).toBe(true);
    // the keeper looks up: other light falls on the face
    expect(moments[0]!.lit).not.toBeCloseTo(moments[1]!.lit, 3);
    for (const m of moments) {
      expect(m.meets['key']!).toBeGreaterThan(0.1);
      expect(m.ratio!).toBeGreaterThan(1);
    }
  }, 60_000);
  it('ends when it is stopped, and tells no more', async () => {
    const told = await read([0, 0.5, 1, 1.5], 1);
    expect(told.at(-1)!.moments).toHaveLength(1);
    expect(told.at(-1)!.done).toBe(false);
  }, 60_000);
  it('says what keeps it from being read', async () => {
    const whole = asset;
    asset = { ...whole, landmarks: {} };
    const told = await read([0]);
    asset = whole;
    expect(told.at(-1)!.failed).toContain('Landmarks are missing: pupilL');
  }, 60_000);
  it('breaks where another pattern is shown', () => {
    const at = (time: number, pattern?: 'loop' | 'split') => ({ time, lit: 1, over: 0, meets: {}, ...(pattern ? { pattern } : {}) });
    expect(breaksOf([at(0, 'loop'), at(1, 'loop'), at(2, 'split'), at(3)])).toEqual([
      { time: 2, from: 'loop', to: 'split' },
      { time: 3, from: 'split', to: undefined },
    ]);
  });
});
