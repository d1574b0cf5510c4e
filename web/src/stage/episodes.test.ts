import { describe, expect, it } from '@jest/globals';
import { Episodes } from './episodes.ts';

describe('gestures without an end of their own', () => {
  it('are one while they go on, and two with a pause between', () => {
    const e = new Episodes();
    const first = e.name('wheel', 0);
    expect(e.name('wheel', 500)).toBe(first);
    expect(e.name('wheel', 1300)).toBe(first);
    expect(e.name('wheel', 2300)).not.toBe(first);
  });
  it('end where another begins', () => {
    const e = new Episodes();
    const right = e.name('key-right', 0);
    e.name('level', 10);
    expect(e.name('key-right', 20)).not.toBe(right);
  });
  it('last as long as a key is held, also on a machine that takes seconds over each step', () => {
    const e = new Episodes();
    const held = e.name('key-right', 0);
    expect(e.name('key-right', 5000, true)).toBe(held);
    expect(e.name('key-right', 9000, true)).toBe(held);
    // let go and pressed again after a pause
    expect(e.name('key-right', 14_000)).not.toBe(held);
  });
});
