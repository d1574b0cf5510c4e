import { describe, expect, it } from '@jest/globals';
import type { Holding } from '@plinket/contract';
import { Holder } from './holder.ts';

function begun() {
  const said: Holding[] = [];
  let later: (() => void) | undefined,
    fails = false;
  const holder = new Holder(
    (holding) => {
      if (fails) return Promise.reject(new Error('gone'));
      said.push(holding);
      return Promise.resolve();
    },
    (_ms, then) => {
      later = then;
      return () => (later = undefined);
    },
  );
  const rest = () => {
    later?.();
    later = undefined;
  };
  return { holder, said, rest, fail: (now: boolean) => (fails = now) };
}

describe('what a page has in hand', () => {
  it('is said once the hand rests, and only where it has changed', () => {
    const { holder, said, rest } = begun();
    holder.hold(['a']);
    holder.hold(['a', 'b']);
    expect(said).toEqual([]);
    rest();
    expect(said).toEqual([{ client: holder.client, lights: ['a', 'b'] }]);
    holder.hold(['a', 'b']);
    rest();
    expect(said).toHaveLength(1);
    holder.hold(['a', 'b'], 'a sequence');
    rest();
    expect(said[1]).toEqual({ client: holder.client, lights: ['a', 'b'], sequence: 'a sequence' });
  });
  it('is said anew to a server that has just begun to listen, and again where it was not heard', async () => {
    const { holder, said, rest, fail } = begun();
    holder.hold(['a']);
    rest();
    holder.say();
    expect(said).toHaveLength(2);
    fail(true);
    holder.hold(['b']);
    rest();
    await Promise.resolve();
    await Promise.resolve();
    fail(false);
    holder.hold(['b']);
    rest();
    expect(said.at(-1)!.lights).toEqual(['b']);
    holder.hold(['c']);
    holder.stop();
    rest();
    expect(said).toHaveLength(3);
  });
});
