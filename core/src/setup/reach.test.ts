// Which objects a light reaches: membership as UsdCollectionAPI has it (openusd.org; from memory): the nearest path decides, what is excluded is out.
import { describe, expect, it } from '@jest/globals';
import fc from 'fast-check';
import {
  ALL,
  forgetRule,
  only,
  reachPatch,
  isReached,
  pairShadowOf,
  pairShadowPatch,
  reachOver,
  reachRule,
  reachSchema,
  waitingRules,
  withRule,
  type ReachCollection,
  type ReachRule,
} from './reach.ts';
import { applyPatch, invertPatch } from './patch.ts';

/** A collection by what it includes, everything ('') or only these, and what it excludes. */
const of = (includes: ReachRule[], excludes: ReachRule[] = []): ReachCollection => ({
  ...(includes.includes('') ? {} : { [ALL]: false }),
  ...Object.fromEntries(includes.filter((r) => r !== '').map((r) => [r, true])),
  ...Object.fromEntries(excludes.map((r) => [r, false])),
});
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
    expect(OBJECTS.every((o) => isReached(undefined, o) && isReached({}, o))).toBe(true);
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
    expect(withRule(noStage, 'stage', true)).toEqual({});
    expect(withRule(withRule(noStage, 'stage/front', true), 'stage', false)).toEqual(noStage);
    expect(withRule(noStage, ALL, false)).toEqual(of([]));
    expect(withRule(of([]), ALL, true)).toEqual({});
    expect(withRule(withRule(noStage, ALL, false), 'subjects/*/Eyes', true)).toEqual(only('subjects/*/Eyes'));
    expect(withRule(of(['subjects/keeper/Eyes', 'subjects/*/Skin']), 'subjects', true)).toEqual(of(['subjects']));
  });
  it('is changed rule by rule: what two people say of two objects both stands, and undo takes back one’s own', () => {
    for (const reach of [
      { lights: {}, casts: {} },
      { lights: { props: false }, casts: { stage: false } },
    ]) {
      const setup = { lights: { items: { key: { reach } } } };
      const mine = reachPatch(setup.lights, ['key', 'gone'], 'lights', 'stage', false),
        theirs = reachPatch(setup.lights, ['key'], 'lights', 'subjects/keeper', false);
      const both = applyPatch(applyPatch(setup, mine), theirs);
      expect(both.lights.items.key.reach).toEqual({ ...reach, lights: { ...reach.lights, stage: false, 'subjects/keeper': false } });
      expect(applyPatch(both, invertPatch(setup, mine)).lights.items.key.reach).toEqual({
        ...reach,
        lights: { ...reach.lights, 'subjects/keeper': false },
      });
    }
    // a light of before, of which nothing was ever said
    const old = { lights: { items: { key: {} as { reach?: unknown } } } };
    expect(applyPatch(old, reachPatch({ items: { key: {} } }, ['key'], 'casts', 'stage', false)).lights.items.key.reach).toEqual({
      lights: {},
      casts: { stage: false },
    });
  });
  it('after any rules holds for the last one and for nothing outside of it otherwise than before', () => {
    const rule = fc.constantFrom(
      ALL,
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
        const was = before.reduce<ReachCollection>((c, [r, w]) => withRule(c, r, w), {}),
          is = withRule(was, last, within);
        for (const o of OBJECTS) {
          const meant = isReached(only(...(last === ALL ? OBJECTS : [last])), o);
          // a part by name is nearer than its character: only a rule for the part itself, or for all above both, reaches it
          if (!meant) expect(isReached(is, o)).toBe(isReached(was, o));
          else if (!(last.startsWith('subjects/') && !last.includes('*') && o.endsWith('/Skin'))) expect(isReached(is, o)).toBe(within);
        }
        expect(reachSchema.safeParse({ lights: is, casts: {} }).success).toBe(true);
      }),
    );
  });
  it('keeps rules for what is gone, and says which those are', () => {
    const rules = of(['', 'subjects/keeper/Hat'], ['subjects/*/Cape', 'props/gone', 'stage', 'subjects/*/Skin']);
    expect(waitingRules(rules, OBJECTS)).toEqual(['subjects/keeper/Hat', 'subjects/*/Cape', 'props/gone']);
    expect(waitingRules(undefined, OBJECTS)).toEqual([]);
    const light = { reach: { lights: rules, casts: { 'props/gone': true } } };
    expect(applyPatch(light, forgetRule(light.reach, 'props/gone'))).toEqual({
      reach: { lights: of(['', 'subjects/keeper/Hat'], ['subjects/*/Cape', 'stage', 'subjects/*/Skin']), casts: {} },
    });
    expect(Object.keys(forgetRule(light.reach, 'stage')['reach'] as object)).toEqual(['lights']);
  });
  it('refuses what names nothing', () => {
    for (const good of ['*', 'subjects', 'props', 'stage', 'stage/front', 'subjects/a/b/c', 'subjects/*/Eyes'])
      expect(reachRule.safeParse(good).success).toBe(true);
    for (const bad of ['', 'stage/cellar', 'subjects/*', 'subjects//x', 'lights/key', '/', 'subjects/*/'])
      expect(reachRule.safeParse(bad).success).toBe(false);
    expect(reachSchema.safeParse({ lights: { stage: 'no' }, casts: {} }).success).toBe(false);
  });
  it('says how much of a shadow each casts: the nearest rule, a whole one unless somebody says otherwise', () => {
    const lights = { items: { key: {} as { reach?: Reach } } };
    const say = (from: typeof lights, rule: string, density: number, colour: [number, number, number] = [0, 0, 0]) =>
      applyPatch({ lights: from } as never, pairShadowPatch(from, ['key'], rule, { density, colour })) as unknown as {
        lights: typeof lights;
      };
    const half = say(lights, 'subjects', 0.5).lights;
    expect(pairShadowOf(half.items.key.reach!.shadows, 'subjects/a/Hair').density).toBe(0.5);
    expect(pairShadowOf(half.items.key.reach!.shadows, 'props/drum').density).toBe(1);
    // a part of it whole again: it is named, since a wider rule says less
    const whole = say(half, 'subjects/a/Hair', 1).lights;
    expect(whole.items.key.reach!.shadows).toEqual({
      subjects: { density: 0.5, colour: [0, 0, 0] },
      'subjects/a/Hair': { density: 1, colour: [0, 0, 0] },
    });
    expect(pairShadowOf(whole.items.key.reach!.shadows, 'subjects/a/Hair').density).toBe(1);
    // what is said of all takes the place of what was said of parts, and whole of all is nothing to say
    const all = say(whole, 'subjects', 1).lights;
    expect(all.items.key.reach).toEqual({ lights: {}, casts: {} });
    expect(reachSchema.safeParse(say(lights, 'props/drum', 0.25, [0.2, 0, 0]).lights.items.key.reach).success).toBe(true);
    expect(reachSchema.safeParse({ lights: {}, casts: {}, shadows: { cellar: { density: 1, colour: [0, 0, 0] } } }).success).toBe(false);
  });
});
