// What fitting a kit to another face asks for: what it drew on its own, brought back by placing.
import { isPlaced, orderOf, type Kit, type KitIds, type Setup } from '../setup/index.ts';
import { KEY_PATTERNS } from './briefs.ts';
import type { PlaceWish } from './place.ts';

/** Ratios beyond are of a face that is lit from one side alone: no level makes them. */
const MOST_RATIO = 20;

/** The pattern that fitting a kit brings back; nothing where it has none that one placed light draws. */
export function fitPattern({ shows, parts }: Kit) {
  const key = shows?.key === undefined ? undefined : parts.rig?.lights.items[shows.key];
  return key && isPlaced(key) ? KEY_PATTERNS.find((p) => p === shows!.pattern) : undefined;
}

/** The light by which the ratio is brought back: the fill, which leaves the key where its pattern wants it. */
export function fitFill({ shows, parts: { rig } }: Kit): string | undefined {
  if (!rig || shows?.ratio === undefined || shows.ratio > MOST_RATIO) return undefined;
  return orderOf(rig.lights).find((id) => rig.lights.items[id]!.role === 'fill' && rig.lights.items[id]!.on);
}

/** What is wished of a light of this setup. */
export interface FitWish {
  id: string;
  wish: Extract<PlaceWish, { kind: 'pattern' | 'ratio' }>;
}

/** Wishes in their order, each for a light of this setup, that bring back pattern and ratio of a kit that was put on under `ids`. */
export function fitWishes(setup: Setup, kit: Kit, ids: KitIds): FitWish[] {
  const out: FitWish[] = [];
  const pattern = fitPattern(kit),
    key = pattern && ids.lights[kit.shows!.key!],
    light = key === undefined ? undefined : setup.lights.items[key];
  if (key !== undefined && pattern && light)
    out.push({ id: key, wish: { kind: 'pattern', pattern, from: isPlaced(light) && light.place.azimuth < 0 ? 'right' : 'left' } });
  const fill = fitFill(kit),
    own = fill === undefined ? undefined : ids.lights[fill];
  if (own !== undefined && setup.lights.items[own]) out.push({ id: own, wish: { kind: 'ratio', value: kit.shows!.ratio! } });
  return out;
}
