// Known wishes about what light reaches, each a patch and what it does in words.
import {
  ALL,
  applyPatch,
  collectionPatch,
  eyePart,
  isReached,
  joinPatches,
  only,
  orderOf,
  reachPatch,
  refCovers,
  type ObjectRef,
  type Patch,
  type ReachRule,
  type Setup,
} from '../setup/index.ts';
import { addLightsPatch, copyPatch, lightPatch } from './moves.ts';
import { spotOnBackdrop } from './recipes.ts';

export const REACH_WISHES = ['no-stage', 'own-background', 'shadow-back', 'eyes', 'one-shadow'] as const;
export type ReachWish = (typeof REACH_WISHES)[number];

/** A change, and what it does. */
export interface ReachDeed {
  patch: Patch;
  text: string;
}

/** Parts of anybody's eyes among objects, as rules that hold for every character. */
export const eyeRules = (objects: readonly ObjectRef[]): ReachRule[] => [
  ...new Set(objects.flatMap((o) => eyePart(o) ?? []).map((part) => `subjects/*/${part}`)),
];

/**
 * What a wish does to a light: the stage without its hot spot or spill, a light of its own for the background, the figure's shadow given back,
 * its light in the eyes only, no other light's shadows on the stage.
 * @param objects everything that stands there
 * @throws Error where the light, or what the wish is about, is not there
 */
export function reachWish(setup: Setup, id: string, wish: ReachWish, objects: readonly ObjectRef[], letters = ''): ReachDeed {
  const light = setup.lights.items[id];
  if (!light) throw new Error('That light is not there any more.');
  const { name } = light;
  const offStage = reachPatch(setup.lights, [id], 'lights', 'stage', false);
  switch (wish) {
    case 'no-stage':
      return {
        patch: offStage,
        text: `${name} leaves the stage alone: no hot spot and no spill of it there. What else it lights is as it was.`,
      };
    case 'own-background': {
      const own = { ...spotOnBackdrop(setup), reach: { lights: only('stage'), casts: {} } };
      return {
        patch: joinPatches(offStage, addLightsPatch(setup, [own], letters).patch),
        text: `${name} leaves the stage to a light of its own, which reaches nothing else.`,
      };
    }
    case 'shadow-back': {
      // its own reach does not come along
      const copy = copyPatch(applyPatch(setup, lightPatch(id, { reach: null })), id, 'here', letters);
      const reach = { lights: only('stage', 'props'), casts: only('subjects') };
      return {
        patch: joinPatches(copy.patch, lightPatch(copy.id, { name: `${name}, shadow`.slice(0, 60), reach })),
        text: `A light where ${name} stands lights only the stage and the things on it, and casts only the characters’ shadows there. Its level is its own.`,
      };
    }
    case 'eyes': {
      const eyes = eyeRules(objects);
      if (eyes.length === 0) throw new Error('No part of anybody here is called after an eye.');
      return {
        patch: lightPatch(id, collectionPatch(light.reach, 'lights', only(...eyes))),
        text: `${name} is seen in the eyes and lights nothing else.`,
      };
    }
    case 'one-shadow':
      return oneShadow(setup, id, objects, letters);
  }
}

/**
 * Every other light that lights the stage leaves it to a second light in its place, whose way to the stage nothing stops but the stage
 * itself. So much light as before, and the shadows of one.
 */
function oneShadow(setup: Setup, id: string, objects: readonly ObjectRef[], letters: string): ReachDeed {
  const stage = objects.filter((o) => refCovers('stage', o));
  const others = orderOf(setup.lights).filter((other) => {
    const { on, kind, reach, shadow } = setup.lights.items[other]!;
    const casts = objects.some((o) => !refCovers('stage', o) && isReached(reach?.casts, o));
    // what glows cannot be there twice
    return (
      other !== id && on && kind !== 'glow' && kind !== 'object' && shadow.cast && casts && stage.some((o) => isReached(reach?.lights, o))
    );
  });
  if (others.length === 0) throw new Error('No other light casts a shadow on the stage.');
  let patch: Patch = {},
    now = setup;
  for (const other of others) {
    const { name, reach } = setup.lights.items[other]!;
    const copy = copyPatch(applyPatch(now, lightPatch(other, { reach: null })), other, 'here', letters);
    const lights = { [ALL]: false, ...Object.fromEntries(stage.map((o) => [o, isReached(reach?.lights, o)])) };
    const made = [
      reachPatch(setup.lights, [other], 'lights', 'stage', false, stage),
      copy.patch,
      lightPatch(copy.id, { name: `${name}, stage`.slice(0, 60), reach: { lights, casts: only('stage') } }),
    ];
    patch = made.reduce(joinPatches, patch);
    now = applyPatch(setup, patch);
  }
  const names = others.map((o) => setup.lights.items[o]!.name).join(', ');
  return {
    patch,
    text: `Only ${setup.lights.items[id]!.name} casts shadows on the stage: ${names} light${others.length === 1 ? 's' : ''} it through a light in the same place that nothing stops.`,
  };
}
