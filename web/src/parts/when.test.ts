import { describe, expect, it } from '@jest/globals';
import { when } from './when.ts';

const now = new Date(2026, 10, 28, 9, 30);
describe('when something was', () => {
  it.each<[string, Date, string]>([
    ['today', new Date(2026, 10, 28, 0, 5), '0:05'],
    ['a moment ahead, by a clock that goes wrong', new Date(2026, 10, 28, 9, 31), '9:31'],
    ['just before midnight', new Date(2026, 10, 27, 23, 59), 'yesterday'],
    ['some days ago', new Date(2026, 10, 24, 12), '4 days ago'],
    ['this year', new Date(2026, 2, 9), '9. März'],
    ['another year', new Date(2025, 10, 28), '28. Nov. 2025'],
  ])('%s', (_name, at, words) => expect(when(at, now, ['de-DE'])).toBe(words));
  it('has the date in the reader’s own form', () => {
    expect(when(new Date(2026, 2, 9), now, ['en-US'])).toBe('Mar 9');
    expect(when(new Date(2026, 2, 9), now, ['en-GB'])).toBe('9 Mar');
  });
});
