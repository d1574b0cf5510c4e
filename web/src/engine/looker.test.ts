import { describe, expect, it } from '@jest/globals';
import type { FilmSource, PictureMaker, Scene, Setup } from '@plinket/core';
import { Looker } from './looker.ts';
import type { FaceReader } from './reading.ts';

describe('who measures the picture', () => {
  it('begins once the hand rests, not in the frame that asked, and not at all when the hand goes on', () => {
    const waiting: (() => void)[] = [];
    let measured = 0;
    const clock = {
      now: () => 0,
      after: (_: number, run: () => void) => {
        waiting.push(run);
        return () => void waiting.splice(waiting.indexOf(run), 1);
      },
    };
    const reader = {
      isKnown: true,
      stand: () => {
        measured++;
        throw new Error('measured');
      },
    } as unknown as FaceReader;
    const looker = new Looker(clock, () => undefined);
    const look = () => looker.look(1, { guides: { least: 8 } } as FilmSource, {} as PictureMaker, {} as Setup, {} as Scene, reader, true);
    // a finished picture that is told in every frame, as under a level that is dragged
    for (let frame = 0; frame < 5; frame++) look();
    expect(measured).toBe(0);
    expect(waiting).toHaveLength(1);
    looker.stop();
    expect(waiting).toHaveLength(0);
    look();
    expect(() => waiting[0]!()).toThrow('measured');
    expect(measured).toBe(1);
  });
});
