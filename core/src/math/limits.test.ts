// The table of limits in words is the one that readers go by.
import { readFileSync } from 'node:fs';
import { expect, it } from '@jest/globals';
import { FILE_LIMITS } from './index.ts';

it('what files may ask for stands in the documentation, number by number', () => {
  const text = readFileSync(new URL('../../../docs/files.md', import.meta.url), 'utf8');
  const rows = [...text.matchAll(/^\| `(\w+)` +\| ([\d ]+?) *\|/gm)].map(([, name, number]) => [name, Number(number!.replaceAll(' ', ''))]);
  expect(Object.fromEntries(rows)).toEqual(FILE_LIMITS);
});
