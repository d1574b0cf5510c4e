import { describe, expect, it } from '@jest/globals';
import fc from 'fast-check';
import type { CharacterAsset } from '../scene/index.ts';
import { parseSetup, TURNTABLE_DEFAULTS, type Setup, type Turntable } from '../setup/index.ts';
import { setupWith, subjectWith } from '../testing/setups.ts';
import { clipFits, clipTime, framesOf, posedAt } from './index.ts';

const asset = { rig: { clips: [{ name: 'nods', duration: 2.2, channels: [] }] } } as unknown as CharacterAsset;
const source = () => asset;
const plan = (more: Partial<Turntable> = {}): Turntable => ({ ...TURNTABLE_DEFAULTS, plays: true, ...more });
const posed = (pose: NonNullable<Setup['subjects']['items'][string]['pose']>): Setup =>
  setupWith({}, { subjects: { items: { who: subjectWith({ name: 'Who', pose }) } } });
const nods = posed({ clip: 'nods', time: 0.5 });

describe('clips that play while a figure turns', () => {
  it('play as often as the turn has room for, and say at what speed, and how long a turn would suit them', () => {
    // 300 frames at 25 a second: 12 s, in which 2.2 s fit 5.45 times: five times, by 11 : 12
    expect(clipFits(nods, plan(), source)).toEqual([
      { subject: 'who', name: 'Who', clip: 'nods', from: 0, seconds: 2.2, loops: 5, speed: expect.closeTo(11 / 12, 12), frames: 275 },
    ]);
    expect(clipFits(nods, plan({ frames: 275 }), source)[0]!.speed).toBe(1);
    // holds belong to the movie; a short turn plays it once, however fast
    expect(clipFits(nods, plan({ frames: 8, before: 1, after: 1 }), source)[0]).toMatchObject({
      loops: 1,
      speed: expect.closeTo(5.5, 9),
      frames: 53,
    });
    expect(clipFits(nods, plan({ turning: 'figure then dome', frames: 55 }), source)[0]).toMatchObject({ loops: 2, speed: 1, frames: 55 });
  });
  it('tile the clip: whole loops, and the frame after the last is the first, number for number (property)', () => {
    const whole = (max: number) => fc.integer({ min: 1, max });
    fc.assert(
      fc.property(
        whole(400),
        whole(60),
        fc.integer({ min: 0, max: 40 }),
        fc.double({ min: 0, max: 2, noNaN: true }),
        (frames, tenths, before, at) => {
          const table = plan({ frames, before }),
            all = framesOf(table);
          const [fit] = clipFits(posed({ clip: 'nods', time: at, range: [0.2, 0.2 + tenths / 10] }), table, source);
          if (!fit) return;
          expect(clipTime(fit, at, all, all + 1)).toBe(clipTime(fit, at, all, 1));
          for (const n of [1, 2, all]) {
            const time = clipTime(fit, at, all, n);
            expect(time).toBeGreaterThanOrEqual(fit.from);
            expect(time).toBeLessThan(fit.from + fit.seconds + 1e-9);
          }
          // all steps together are whole loops
          const step = (fit.seconds * fit.loops) / all;
          const next = clipTime(fit, at, all, 2) - clipTime(fit, at, all, 1);
          const off = (next - step) / fit.seconds;
          expect(Math.abs(off - Math.round(off))).toBeLessThan(1e-9);
        },
      ),
    );
  });
  it('move the figure and nothing else; one that stands still, is out of sight or has no such clip stays', () => {
    const fits = clipFits(nods, plan(), source);
    const then = posedAt(nods, plan(), fits, 61);
    // a fifth of the turn later the clip is where it was
    expect(then.subjects.items['who']!.pose!.time).toBeCloseTo(0.5, 9);
    const other = posedAt(nods, plan(), fits, 31);
    expect(other.subjects.items['who']!.pose!.time).toBeCloseTo(0.5 + 1.1, 9);
    expect({ ...other, subjects: nods.subjects }).toEqual(nods);
    expect(posedAt(nods, plan({ plays: false }), fits, 31)).toBe(nods);
    expect(clipFits(posed({ clip: 'waves', time: 0 }), plan(), source)).toEqual([]);
    expect(clipFits(setupWith({}, { subjects: { items: { who: subjectWith() } } }), plan(), source)).toEqual([]);
    expect(clipFits(posed({ clip: 'nods', time: 3, range: [5, 6] }), plan(), source)).toEqual([]);
    expect(parseSetup({ ...nods, turntable: plan() }).turntable).toEqual(plan());
  });
});
