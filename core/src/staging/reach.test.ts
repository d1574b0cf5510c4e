import { describe, expect, it } from '@jest/globals';
import { applyPatch, isReached, orderOf, parseSetup, reachPatch, type ObjectRef, type Setup } from '../setup/index.ts';
import { panelLight, setupWith } from '../testing/setups.ts';
import { lightsNothing, reachWords } from '../words/index.ts';
import { addFlagPatch } from './moves.ts';
import { eyeRules, reachWish, REACH_WISHES } from './reach.ts';

const OBJECTS: ObjectRef[] = [
  'stage/backdrop',
  'props/drum',
  'subjects/a/Skin',
  'subjects/a/iris L',
  'subjects/b/Left Eye',
  'subjects/b/eyelashes',
];
const setup = setupWith({ key: panelLight(), rim: panelLight({ name: 'Rim' }) });
const lit = (s: Setup, id: string, relation: 'lights' | 'casts' = 'lights') =>
  OBJECTS.filter((o) => isReached(s.lights.items[id]!.reach?.[relation], o));

describe('wishes about what light reaches', () => {
  it.each(REACH_WISHES)(
    '%s leaves a setup that is valid, touches no other light but where it is about them, and says what it did',
    (wish) => {
      const { patch, text } = reachWish(setup, 'key', wish, OBJECTS);
      const after = applyPatch(setup, patch);
      expect(() => parseSetup(JSON.parse(JSON.stringify(after)))).not.toThrow();
      if (wish !== 'one-shadow') expect(after.lights.items['rim']).toEqual(setup.lights.items['rim']);
      expect(text).toContain(setup.lights.items['key']!.name);
    },
  );
  it('only one shadow on the stage: the others light it through a copy that nothing but the stage stops, as much as before', () => {
    const { patch, id: card } = addFlagPatch(setup, 'rim');
    const flagged = applyPatch(setup, patch);
    const after = applyPatch(flagged, reachWish(flagged, 'key', 'one-shadow', OBJECTS).patch);
    const copy = orderOf(after.lights).find((id) => id !== 'key' && id !== 'rim')!;
    expect(orderOf(after.lights)).toHaveLength(3);
    expect(after.lights.items['key']).toEqual(setup.lights.items['key']);
    expect(lit(after, 'rim')).toEqual(OBJECTS.slice(1));
    expect(lit(after, 'rim', 'casts')).toEqual(OBJECTS);
    expect(lit(after, copy)).toEqual(OBJECTS.slice(0, 1));
    expect(lit(after, copy, 'casts')).toEqual(OBJECTS.slice(0, 1));
    const { name: _, reach: __, rank: ___, ...same } = after.lights.items[copy]!;
    expect(setup.lights.items['rim']).toMatchObject(same);
    // what is in the light's way is in the copy's
    expect(after.flags.items[card]!.lights).toEqual(['rim', copy]);
    // again there is nothing left to do
    expect(() => reachWish(after, 'key', 'one-shadow', OBJECTS)).toThrow('No other light');
  });
  it('the stage without its hot spot: all else as it was', () => {
    const after = applyPatch(setup, reachWish(setup, 'key', 'no-stage', OBJECTS).patch);
    expect(lit(after, 'key')).toEqual(OBJECTS.slice(1));
    expect(lit(after, 'key', 'casts')).toEqual(OBJECTS);
    expect(reachWords(after, after.lights.items['key']!.reach)).toBe('Lights everything but the stage; casts the shadow of everything.');
  });
  it('a light of its own for the background reaches nothing else, and stands last', () => {
    const after = applyPatch(setup, reachWish(setup, 'key', 'own-background', OBJECTS).patch);
    const own = orderOf(after.lights).at(-1);
    expect(lit(after, own!)).toEqual(['stage/backdrop']);
    expect(lit(after, 'key')).not.toContain('stage/backdrop');
    expect(after.lights.items[own!]!.role).toBe('background');
  });
  it('the shadow back: only the stage and its things are lit, only figures cast', () => {
    const after = applyPatch(setup, reachWish(setup, 'key', 'shadow-back', OBJECTS).patch);
    const [, own] = orderOf(after.lights);
    expect(lit(after, own!)).toEqual(['stage/backdrop', 'props/drum']);
    expect(lit(after, own!, 'casts')).toEqual(OBJECTS.slice(2));
    expect(after.lights.items[own!]).toMatchObject({
      ...setup.lights.items['key'],
      name: 'Key, shadow',
      rank: expect.any(String),
      reach: {},
    });
    expect(reachWords(after, after.lights.items[own!]!.reach)).toBe(
      'Lights only the stage and the things; casts the shadow of only the characters.',
    );
  });
  it('only in the eyes: parts that are called after eyes, of whoever has them', () => {
    expect(eyeRules(OBJECTS)).toEqual(['subjects/*/iris L', 'subjects/*/Left Eye']);
    const after = applyPatch(setup, reachWish(setup, 'key', 'eyes', OBJECTS).patch);
    expect(lit(after, 'key')).toEqual(['subjects/a/iris L', 'subjects/b/Left Eye']);
    expect(() => reachWish(setup, 'key', 'eyes', OBJECTS.slice(0, 3))).toThrow('No part of anybody here');
    expect(() => reachWish(setup, 'gone', 'eyes', OBJECTS)).toThrow('not there any more');
  });
  it('a mark for a whole character reaches parts that are named for everyone too', () => {
    const eyes = applyPatch(setup, reachWish(setup, 'key', 'eyes', OBJECTS).patch);
    const a = OBJECTS.slice(2, 4);
    const without = applyPatch(eyes, reachPatch(eyes.lights, ['key'], 'lights', 'subjects/a', false, a));
    expect(lit(without, 'key')).toEqual(['subjects/b/Left Eye']);
    const again = applyPatch(without, reachPatch(without.lights, ['key'], 'lights', 'subjects/a', true, a));
    expect(lit(again, 'key')).toEqual([...a, 'subjects/b/Left Eye']);
  });
  it('says when a light lights nothing, and names no more than three of many', () => {
    expect(lightsNothing({ lights: { '*': false, 'props/gone': true }, casts: {} }, OBJECTS)).toBe(true);
    expect(lightsNothing(undefined, OBJECTS)).toBe(false);
    const many = { lights: Object.fromEntries(['a', 'b', 'c', 'd', 'e'].map((n) => [`subjects/*/${n}`, false])), casts: {} };
    expect(reachWords(setup, many)).toBe('Lights everything but everyone’s a, b, c and 2 more; casts the shadow of everything.');
    expect(reachWords(setup, { lights: { '*': false }, casts: { stage: false, 'stage/front': true } })).toBe(
      'Lights nothing; casts the shadow of everything but the stage, though the front.',
    );
  });
});
