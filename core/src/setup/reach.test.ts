// Which objects a light reaches: membership as UsdCollectionAPI has it (openusd.org; from memory): the nearest path decides, what is excluded is out.
import { describe, expect, it } from '@jest/globals';
import fc from 'fast-check';
import {
  EVERYTHING,
  isReached,
  reachOver,
  reachRule,
  reachSchema,
  waitingRules,
  withRule,
  type ReachCollection,
  type ReachRule,
} from './reach.ts';

const of = (includes: ReachRule[], excludes: ReachRule[] = []): ReachCollection => ({ includes, excludes });
const OBJECTS = [
  'stage/backdrop',
  'stage/front',
  'props/drum',
  'props/ball',
  'subjects/keeper/Skin',
  'subjects/keeper/Eyes',
  'subjects/goat/Skin',
  'subjects/goat/Horn/left',
];

describe('a collection', () => {
  it('without a word is everything', () => {
    expect(OBJECTS.every((o) => isReached(undefined, o) && isReached(EVERYTHING, o))).toBe(true);
    expect(OBJECTS.some((o) => isReached(of([]), o))).toBe(false);
  });
  it.each<[string, ReachCollection, string[]]>([
    ['all but the stage', of([''], ['stage']), OBJECTS.slice(2)],
    ['only the characters', of(['subjects']), OBJECTS.slice(4)],
    ['only one', of(['subjects/keeper']), OBJECTS.slice(4, 6)],
    ['what lies below an exclusion is in again', of(['', 'stage/front'], ['stage']), OBJECTS.slice(1)],
    ['and out again below that', of(['subjects'], ['subjects/keeper/Eyes', 'subjects/goat']), ['subjects/keeper/Skin']],
    ['a part of every character', of(['subjects/*/Skin']), ['subjects/keeper/Skin', 'subjects/goat/Skin']],
    ['that very part is nearer than every such part', of(['subjects/*/Skin'], ['subjects/goat/Skin']), ['subjects/keeper/Skin']],
    ['a part of every one is nearer than one', of(['subjects/*/Skin'], ['subjects/goat']), ['subjects/keeper/Skin', 'subjects/goat/Skin']],
    ['at the same path it is out', of(['props'], ['props']), []],
    ['names that only begin alike are others', of(['props/dr']), []],
    ['a part whose name has a slash', of(['subjects/*/Horn/left']), ['subjects/goat/Horn/left']],
  ])('%s', (_words, collection, inside) => {
    expect(OBJECTS.filter((o) => isReached(collection, o))).toEqual(inside);
  });
  it('says of many whether all, some or none are in', () => {
    const keepers = OBJECTS.slice(4, 6);
    expect(reachOver(of(['subjects']), keepers)).toBe('all');
    expect(reachOver(of(['subjects/*/Eyes']), keepers)).toBe('some');
    expect(reachOver(of(['props']), keepers)).toBe('none');
  });
  it('is changed by a rule with no more words than needed', () => {
    const noStage = withRule(undefined, 'stage', false);
    expect(noStage).toEqual(of([''], ['stage']));
    expect(withRule(noStage, 'stage/backdrop', false)).toEqual(noStage);
    expect(withRule(noStage, 'stage', true)).toBeUndefined();
    expect(withRule(withRule(noStage, 'stage/front', true), 'stage', false)).toEqual(noStage);
    expect(withRule(noStage, '', false)).toEqual(of([]));
    expect(withRule(withRule(noStage, '', false), 'subjects/*/Eyes', true)).toEqual(of(['subjects/*/Eyes']));
    expect(withRule(of(['subjects/keeper/Eyes', 'subjects/*/Skin']), 'subjects', true)).toEqual(of(['subjects']));
  });
  it('after any rules holds for the last one and for nothing outside of it otherwise than before', () => {
    const rule = fc.constantFrom(
      '',
      'stage',
      'stage/backdrop',
      'props',
      'props/drum',
      'subjects',
      'subjects/keeper',
      'subjects/keeper/Skin',
      'subjects/*/Skin',
      'subjects/goat',
    );
    fc.assert(
      fc.property(fc.array(fc.tuple(rule, fc.boolean()), { maxLength: 8 }), rule, fc.boolean(), (before, last, within) => {
        const was = before.reduce<ReachCollection | undefined>((c, [r, w]) => withRule(c, r, w), undefined),
          is = withRule(was, last, within);
        for (const o of OBJECTS) {
          const meant = isReached(of([last]), o);
          // a part by name is nearer than its character: only a rule for the part itself, or for all above both, reaches it
          if (!meant) expect(isReached(is, o)).toBe(isReached(was, o));
          else if (!(last.startsWith('subjects/') && !last.includes('*') && o.endsWith('/Skin'))) expect(isReached(is, o)).toBe(within);
        }
        if (is) expect(reachSchema.safeParse({ lights: is }).success).toBe(true);
      }),
    );
  });
  it('keeps rules for what is gone, and says which those are', () => {
    const rules = of(['', 'subjects/keeper/Hat'], ['subjects/*/Cape', 'props/gone', 'stage', 'subjects/*/Skin']);
    expect(waitingRules(rules, OBJECTS)).toEqual(['subjects/keeper/Hat', 'subjects/*/Cape', 'props/gone']);
    expect(waitingRules(undefined, OBJECTS)).toEqual([]);
  });
  it('refuses what names nothing', () => {
    for (const good of ['', 'subjects', 'props', 'stage', 'stage/front', 'subjects/a/b/c', 'subjects/*/Eyes'])
      expect(reachRule.safeParse(good).success).toBe(true);
    for (const bad of ['*', 'stage/cellar', 'subjects/*', 'subjects//x', 'lights/key', '/', 'subjects/*/'])
      expect(reachRule.safeParse(bad).success).toBe(false);
    expect(reachSchema.safeParse({ lights: { includes: [] } }).success).toBe(false);
  });
});
