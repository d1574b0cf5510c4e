// Known wishes about what light reaches, each a patch and what it does in words.
import {
  joinPatches,
  reachPatch,
  withRanks,
  freeId,
  orderOf,
  eyePart,
  type ObjectRef,
  type Patch,
  type ReachCollection,
  type ReachRule,
  type Setup,
} from '../setup/index.ts';
import { spotOnBackdrop } from './recipes.ts';

export const REACH_WISHES = ['no-stage', 'own-background', 'shadow-back', 'eyes'] as const;
export type ReachWish = (typeof REACH_WISHES)[number];

/** A change, and what it does. */
export interface ReachDeed {
  patch: Patch;
  text: string;
}

const only = (...includes: ReachRule[]): ReachCollection => ({ includes, excludes: [] });

/** Parts of anybody's eyes among objects, as rules that hold for every character. */
export function eyeRules(objects: readonly ObjectRef[]): ReachRule[] {
  const parts = objects.flatMap((o) => eyePart(o) ?? []);
  return [...new Set(parts)].map((part) => `subjects/*/${part}`);
}

/**
 * What a wish does to a light: the stage without its hot spot or spill, a light of its own for the background, the figure's shadow given back,
 * its light in the eyes only.
 * @param objects everything that stands there
 * @throws Error where the light, or what the wish is about, is not there
 */
export function reachWish(setup: Setup, id: string, wish: ReachWish, objects: readonly ObjectRef[], letters = ''): ReachDeed {
  const light = setup.lights.items[id];
  if (!light) throw new Error('That light is not there any more.');
  const name = light.name;
  const beside = (item: Patch, stem: string): Patch => ({
    lights: {
      items: withRanks(
        setup.lights,
        { [freeId(setup.lights.items, stem, letters)]: item } as never,
        orderOf(setup.lights).indexOf(id) + 1,
      ) as unknown as Patch,
    },
  });
  switch (wish) {
    case 'no-stage':
      return {
        patch: reachPatch(setup.lights, [id], 'lights', 'stage', false),
        text: `${name} leaves the stage alone: no hot spot and no spill of it there. What else it lights is as it was.`,
      };
    case 'own-background': {
      const spot = { ...spotOnBackdrop(setup), reach: { lights: only('stage') } };
      return {
        patch: joinPatches(reachPatch(setup.lights, [id], 'lights', 'stage', false), beside(spot as unknown as Patch, 'background')),
        text: `${name} leaves the stage to a light of its own, which reaches nothing else.`,
      };
    }
    case 'shadow-back': {
      const { twin: _, ...plain } = light;
      const copy = { ...plain, name: `${name}, shadow`.slice(0, 60), reach: { lights: only('stage', 'props'), casts: only('subjects') } };
      return {
        patch: beside(copy as unknown as Patch, 'shadow'),
        text: `A light where ${name} stands lights only the stage and the things on it, and casts only the characters’ shadows there. Its level is its own.`,
      };
    }
    case 'eyes': {
      const eyes = eyeRules(objects);
      if (eyes.length === 0) throw new Error('No part of anybody here is called after an eye.');
      return {
        patch: { lights: { items: { [id]: { reach: { lights: { ...only(...eyes) } } } } } },
        text: `${name} is seen in the eyes and lights nothing else.`,
      };
    }
  }
}
