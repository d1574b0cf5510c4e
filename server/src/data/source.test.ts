import { describe, expect, it } from '@jest/globals';
import type { DataSource } from 'typeorm';
import { initialized } from './source.ts';

describe('a database at the start', () => {
  /** One that fails in these ways, one after the other, and then answers. */
  const failing = (...messages: string[]) => {
    const asked = { times: 0 };
    const initialize = (): Promise<DataSource> => {
      asked.times++;
      const message = messages.shift();
      return message === undefined ? Promise.resolve({} as DataSource) : Promise.reject(new Error(message));
    };
    return { asked, initialize };
  };
  it('that answers late is asked again', async () => {
    const slow = failing('Connection terminated due to connection timeout', 'timeout exceeded when trying to connect');
    await initialized(slow);
    expect(slow.asked.times).toBe(3);
  });
  it('that never answers is told as such, and one that refuses at once', async () => {
    const dead = failing(...Array.from({ length: 20 }, () => 'Connection terminated due to connection timeout'));
    await expect(initialized(dead, 4)).rejects.toThrow('timeout');
    expect(dead.asked.times).toBe(4);
    const other = failing('password authentication failed for user "x"');
    await expect(initialized(other)).rejects.toThrow('password');
    expect(other.asked.times).toBe(1);
  });
});
