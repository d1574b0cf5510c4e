// A light to the level at which the face shows a wished ratio of lit to shadow side.
import { ratioOf, type FaceMap, type Features, type ReadLight } from '../face/index.ts';

export interface RatioPlaced {
  /** By how many stops the light must change. */
  stops: number;
  /** The ratio that is there then. */
  value: number;
  reached: boolean;
  /** Where it was not reached: the ratios with the light off, and as bright as it may become. */
  between?: [low: number, high: number];
}

/** Furthest that a level is changed, stops, and how near to the wish is near enough, stops. */
const FURTHEST = 10,
  NEAR = 0.02;

/** Looks for the level of one light by halving: no ray is followed, since a face's light is linear in the levels. */
export function placeRatio(map: FaceMap, features: Features, lights: readonly ReadLight[], id: string, wished: number): RatioPlaced {
  const at = (factor: number): number =>
    ratioOf(
      map,
      features,
      lights.map((l) => (l.light.id === id ? { ...l, level: l.level * factor } : l)),
    )?.value ?? Infinity;
  const value = (stops: number) => at(2 ** stops);
  let low = -FURTHEST,
    high = FURTHEST;
  const ends = [value(low), value(high)] as const;
  // a fill lowers the ratio as it grows, a key raises it
  const falls = ends[0] > ends[1];
  if (wished > Math.max(...ends) || wished < Math.min(...ends)) {
    const stops = wished > Math.max(...ends) === falls ? low : high;
    return { stops, value: value(stops), reached: false, between: [Math.min(...ends), Math.max(...ends)] };
  }
  for (let i = 0; i < 40; i++) {
    const middle = (low + high) / 2;
    if (value(middle) > wished === falls) low = middle;
    else high = middle;
  }
  const stops = (low + high) / 2,
    there = value(stops);
  return { stops, value: there, reached: Math.abs(Math.log2(there / wished)) < NEAR };
}
