import { describe, expect, it } from '@jest/globals';
import { Asking } from './asking.ts';

describe('questions to a worker', () => {
  it('get the answers that carry their number, in whatever order', async () => {
    const asking = new Asking(),
      sent: number[] = [];
    const send = (request: number) => void sent.push(request);
    const first = asking.ask<string>(send),
      second = asking.ask<string>(send);
    expect(new Set(sent).size).toBe(2);
    asking.answer(sent[1]!, 'second');
    asking.answer(sent[0]!, 'first');
    // an answer that nobody waits for, or that comes again, does nothing
    asking.answer(sent[0]!, 'again');
    asking.answer(99, 'nobody');
    expect(await first).toBe('first');
    expect(await second).toBe('second');
  });
  it('are refused one by one, or all when nobody will answer', async () => {
    const asking = new Asking(),
      sent: number[] = [];
    const waiting = [0, 1, 2].map(() => asking.ask((request) => void sent.push(request)));
    asking.refuse(sent[0]!, new Error('no'));
    await expect(waiting[0]).rejects.toThrow('no');
    asking.refuseAll(new Error('stopped'));
    await expect(waiting[1]).rejects.toThrow('stopped');
    await expect(waiting[2]).rejects.toThrow('stopped');
    // later questions are asked as ever
    const later = asking.ask<number>((request) => asking.answer(request, 7));
    expect(await later).toBe(7);
  });
});
