import { readFileSync } from 'node:fs';
import { describe, expect, it } from '@jest/globals';
import {
  applyPatch,
  collected,
  compile,
  LANDMARK_NAMES,
  NO_FILES,
  place,
  placePatch,
  readGlb,
  type CharacterAsset,
  type Setup,
} from '@plinket/core';
import { nodePool } from '@plinket/engine/node';
import { panelLight, setupWith, subjectWith } from '../../../core/src/testing/setups.ts';
import type { FaceReport } from './messages.ts';
import { FaceReader } from './reading.ts';

const glb = readFileSync(new URL('../../../demo/assets/keeper.glb', import.meta.url));

/** A reader over one worker, a clock that runs when it is told, and what was told to the page. */
async function bench(change: (asset: CharacterAsset) => CharacterAsset = (a) => a) {
  const asset = change(await readGlb(glb, 'keeper.glb'));
  const told: FaceReport[] = [];
  const waiting: { ms: number; run: () => void }[] = [];
  let now = 0,
    pace = 0;
  let heard: (() => void) | undefined;
  const pool = nodePool({ workers: 1 });
  const reader = new FaceReader(
    pool,
    {
      now: () => (now += pace),
      after: (ms, run) => {
        const timer = { ms, run };
        waiting.push(timer);
        return () => void (waiting.includes(timer) && waiting.splice(waiting.indexOf(timer), 1));
      },
    },
    NO_FILES,
    (report) => {
      told.push(report);
      heard?.();
    },
  );
  const setup: Setup = { ...setupWith({ key: panelLight() }), subjects: collected({ who: subjectWith({ head: asset.head }) }) };
  let wish = 0;
  const show = (now: Setup, held = true, painted = true) => {
    const scene = compile(now, () => asset);
    if (held) pool.setGeometry(scene.geometry);
    reader.take(++wish, now, scene, () => asset);
    if (painted) reader.pictured(wish);
  };
  /** Runs what is to be run at once, and what that asks for. */
  const turns = () => {
    for (let timer; (timer = waiting.find((t) => t.ms <= 0));) {
      waiting.splice(waiting.indexOf(timer), 1);
      timer.run();
    }
  };
  const until = async (is: (r: FaceReport) => boolean): Promise<FaceReport> => {
    while (!told.length || !is(told.at(-1)!)) {
      turns();
      if (told.length && is(told.at(-1)!)) break;
      await new Promise<void>((resolve) => {
        heard = resolve;
        setTimeout(resolve, 5);
      });
    }
    return told.at(-1)!;
  };
  const rest = () => waiting.splice(0).forEach(({ run }) => run());
  return { reader, pool, setup, show, turns, hurry: (ms: number) => (pace = ms), until, told, rest, close: () => pool.close() };
}

describe('the face reader', () => {
  it('looks at a face once, then reads each change, and by rays when the hand rests', async () => {
    const { reader, setup, show, turns, until, told, rest, close } = await bench();
    try {
      show(setup);
      expect(told.at(-1)).toMatchObject({ why: { kind: 'looking' }, exact: false });
      const first = await until((r) => r.reading !== undefined);
      expect(first.reading!.key!.azimuth).toBeCloseTo(40, -1);
      expect(first.exact).toBe(false);
      // a level costs no ray
      show(applyPatch(setup, { lights: { items: { key: { stops: 2 } } } }));
      turns();
      expect(told.at(-1)).toMatchObject({ wish: 2, exact: false });
      expect(told.at(-1)!.reading!.byKey[0]!.pattern).toBe(first.reading!.byKey[0]!.pattern);
      rest();
      const exact = await until((r) => r.exact);
      expect(exact.reading!.byKey[0]!.pattern).toBe(first.reading!.byKey[0]!.pattern);
      expect(exact.reading!.features!.lit).toBeCloseTo(first.reading!.features!.lit, 1);
      // a light that moves is looked up again
      show(applyPatch(setup, placePatch('key', { azimuth: 90, elevation: 8 })));
      turns();
      expect(told.at(-1)!.reading!.byKey[0]!.pattern).toBe('split');
      expect(told.at(-1)!.exact).toBe(false);

      const placed = place(reader.stand(), 'key', { kind: 'pattern', pattern: 'closed triangle', from: 'right' });
      expect(placed.reached).toBe(true);
      show(applyPatch(setup, placed.patch));
      turns();
      expect(told.at(-1)!.reading!.byKey[0]!.pattern).toBe('closed triangle');
      expect(told.at(-1)!.reading!.key!.azimuth).toBeLessThan(0);
      expect(() => place(reader.stand(), 'gone', { kind: 'ratio', value: 2 })).toThrow('not there any more');
    } finally {
      close();
    }
  }, 60_000);

  it('under a hand that never rests takes a fifth of the time, ends what it began, and reads the newest then', async () => {
    const { setup, show, turns, until, told, rest, hurry, close } = await bench();
    try {
      show(setup);
      await until((r) => r.reading !== undefined);
      const read = told.length;
      // this reading takes 20 ms in two turns, and then time stands still; amid it the hand moves on
      hurry(10);
      show(applyPatch(setup, placePatch('key', { azimuth: 60 })));
      rest();
      expect(told).toHaveLength(read);
      show(applyPatch(setup, placePatch('key', { azimuth: 70 })));
      turns();
      hurry(0);
      expect(told).toHaveLength(read + 1);
      expect(told.at(-1)!.reading!.key!.azimuth).toBeCloseTo(60, -1);
      show(applyPatch(setup, placePatch('key', { azimuth: 90, elevation: 8 })));
      turns();
      expect(told).toHaveLength(read + 1);
      rest();
      turns();
      expect(told).toHaveLength(read + 2);
      expect(told.at(-1)!.reading!.key!.azimuth).toBeCloseTo(90, -1);
    } finally {
      close();
    }
  }, 60_000);

  it('lets the picture go first', async () => {
    const { reader, setup, show, turns, until, told, rest, close } = await bench();
    try {
      show(setup);
      await until((r) => r.reading !== undefined);
      const read = told.length;
      show(applyPatch(setup, placePatch('key', { azimuth: 60 })), true, false);
      turns();
      expect(told).toHaveLength(read);
      reader.pictured(2);
      turns();
      expect(told).toHaveLength(read + 1);
      // a picture that does not come is not waited for for ever
      show(applyPatch(setup, placePatch('key', { azimuth: 70 })), true, false);
      turns();
      expect(told).toHaveLength(read + 1);
      rest();
      turns();
      expect(told).toHaveLength(read + 2);
    } finally {
      close();
    }
  }, 60_000);

  it('waits until the workers hold the mesh that it is about, and looks again where that was taken from them', async () => {
    const { pool, setup, show, until, told, rest, close } = await bench();
    try {
      // what is traced is another mesh
      const other = compile({ ...setup, subjects: collected({}) }, () => undefined).geometry;
      pool.setGeometry(other);
      show(setup, false);
      expect(told).toHaveLength(1);
      expect(told[0]).toMatchObject({ why: { kind: 'looking' } });
      rest();
      // said once, however long it takes
      expect(told).toHaveLength(1);
      expect(pool.rays.walk).toBe(0);
      show(setup);
      // taken away amid the work
      pool.setGeometry(other);
      await new Promise((resolve) => setTimeout(resolve, 20));
      show(setup);
      const report = await until((r) => r.reading !== undefined);
      expect(report.reading!.byKey[0]!.score).toBeGreaterThan(0);
    } finally {
      close();
    }
  }, 60_000);

  it('knows nothing of another face by the map of the one before', async () => {
    const { reader, setup, show, until, close } = await bench();
    try {
      show(setup);
      await until((r) => r.reading !== undefined);
      expect(reader.isKnown).toBe(true);
      // turned about: what is traced is another mesh, and its face has not been looked at
      show(applyPatch(setup, { subjects: { items: { who: { turn: 40 } } } }));
      expect(reader.isKnown).toBe(false);
      expect(() => reader.stand()).toThrow('has not been read');
    } finally {
      close();
    }
  }, 60_000);

  it('claims nothing where landmarks are missing, and names them; nor where nobody is in sight', async () => {
    const { reader, setup, show, told, close } = await bench((asset) => ({
      ...asset,
      landmarks: Object.fromEntries(LANDMARK_NAMES.filter((n) => n !== 'noseTip' && n !== 'pupilL').map((n) => [n, asset.landmarks[n]!])),
    }));
    try {
      show(setup);
      expect(told).toHaveLength(1);
      expect(told[0]).toMatchObject({ subject: 'who', why: { kind: 'landmarks', missing: ['pupilL', 'noseTip'] } });
      expect(told[0]!.reading).toBeUndefined();
      expect(() => reader.stand()).toThrow('has not been read');
      show(applyPatch(setup, { subjects: { items: { who: { visible: false } } } }));
      expect(told.at(-1)).toMatchObject({ why: { kind: 'nobody' } });
    } finally {
      close();
    }
  });
});
