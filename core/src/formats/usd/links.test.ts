// Rules of reach as collections of USD, checked rule by rule against what the standard says of paths.
import fc from 'fast-check';
import { describe, expect, it } from '@jest/globals';
import { isReached } from '../../setup/index.ts';
import { collectionOf, primOf, rulesOf, type UsdCollection } from './index.ts';

/** Whether a path is in a collection, as USD says it: the nearest that names it or what it lies in decides, else the root (UsdCollectionAPI; from memory). */
function isIncluded({ includeRoot, includes, excludes }: UsdCollection, path: string): boolean {
  for (let at = path; at !== ''; at = at.slice(0, at.lastIndexOf('/'))) {
    if (excludes.includes(at)) return false;
    if (includes.includes(at)) return true;
  }
  return includeRoot;
}

describe('USD collections', () => {
  it('collections mean what rules of reach mean, object by object, written and read back (UsdCollectionAPI; from memory)', () => {
    const objects = [
      'stage/backdrop',
      'stage/front',
      'props/drum',
      'subjects/a/Skin',
      'subjects/a/Hair',
      'subjects/b/Skin',
      'subjects/b/eye-white L',
    ];
    const rules = [
      '*',
      'stage',
      'stage/front',
      'props',
      'props/drum',
      'subjects',
      'subjects/a',
      'subjects/a/Hair',
      'subjects/b/eye-white L',
      'subjects/*/Skin',
    ];
    fc.assert(
      fc.property(fc.dictionary(fc.constantFrom(...rules), fc.boolean()), (collection) => {
        const written = collectionOf(collection, objects);
        const back = rulesOf(written);
        expect(back.left).toEqual([]);
        for (const o of objects) {
          expect([o, isIncluded(written, primOf(o))]).toEqual([o, isReached(collection, o)]);
          expect([o, isReached(back.rules, o)]).toEqual([o, isReached(collection, o)]);
        }
      }),
      { numRuns: 300 },
    );
    // within a name, not within the beginning of one
    expect(isIncluded({ includeRoot: true, includes: [], excludes: ['/World/Ball'] }, '/World/Ball2')).toBe(true);
  });
});
