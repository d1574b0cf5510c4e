import { expect, it } from '@jest/globals';
import { insideWords } from './inside.ts';

it('says who has a shot open, people by name and windows by number', () => {
  const hand = (document: string, name?: string) => ({ client: 'c', document, lights: [], ...(name ? { name } : {}) });
  const others = [hand('a', 'Bo'), hand('a'), hand('a'), hand('b'), hand('a', 'Ane')];
  expect([insideWords(others, 'a'), insideWords(others, 'b'), insideWords(others, 'c')]).toEqual(['Bo, Ane, 2 windows', 'a window', '']);
});
