import { describe, expect, it } from '@jest/globals';
import { deedWords } from './words.ts';

const ID = '00000000-0000-4000-8000-000000000000';

describe('what somebody did', () => {
  it.each([
    ['POST /api/setups', 201, 'made a setup'],
    [`DELETE /api/setups/${ID}`, 204, 'threw it away'],
    [`DELETE /api/accounts/${ID}`, 204, 'took an account away'],
    [`DELETE /api/lab/jobs/${ID}`, 409, 'took a job off the list (refused: 409)'],
    [`POST /api/kits/${ID}/restore`, 200, 'brought it back'],
    ['POST /api/lab/jobs', undefined, 'sent a job to the Lab (the server ended before it was answered)'],
    ['key: +½ stop', 200, 'key: +½ stop'],
  ])('%s is said', (words, status, said) => {
    expect(deedWords({ words, status })).toBe(said);
  });
});
