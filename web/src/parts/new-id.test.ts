import { expect, it } from '@jest/globals';
import { z } from 'zod';
import { newId } from './new-id.ts';

it('is a UUID of version 4, as Zod reads it, and another each time', () => {
  const ids = Array.from({ length: 200 }, newId);
  for (const id of ids) expect(z.uuidv4().safeParse(id).success).toBe(true);
  expect(new Set(ids).size).toBe(200);
});
