import { mix, textKey } from '../math/index.ts';

// Every random decision of a path has a dimension pair of its own, by what it is for and at which step. Lights have keys
// of their own, so that no light's points depend on which others are traced.

export const CAMERA = 1;
export const LENS = 2;
const STEPS = 64;

/** What a path decides at a surface point. */
export const LOBE = 0;
export const DIRECTION = 1;
export const HOLE = 2;
export const INSIDE = 3;
export const DEPTH = 4;
export const LAYER = 5;

/** Key of a decision at a step. */
export const stepKey = (seed: number, step: number, what: number): number => mix(STEPS + step * 8 + what, seed);
/** Id of a light as it is at one of several moments that are traced together. */
export const atMoment = (id: string, moment: number): string => `${id}~${moment}`;
/** A light's own key: at every moment the same, so that a moment's film does not depend on which others are traced along. */
export const ownKey = (id: string): number => textKey(id.replace(/~\d+$/, ''));
/** Key of a light's sample at a step; `volume` is its sample in the haze. */
export const lightKey = (seed: number, light: number, step: number): number => mix(mix(light, step), seed);
