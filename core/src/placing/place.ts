// Wishes and what fulfils them: one way for all, whoever asks.
import type { Given } from '../face/index.ts';
import { clamp, round, type Vec3 } from '../math/index.ts';
import {
  headAround,
  headInWorld,
  isAbout,
  isPlaced,
  LIMITS,
  type Light,
  type Patch,
  type PlacedLight,
  type Setup,
  type Target,
  type Targets,
} from '../setup/index.ts';
import { lightPatch, placePatch } from '../staging/index.ts';
import {
  begunWords,
  catchlightWords,
  frameWords,
  mirrorWords,
  pairWords,
  patternName,
  placedWords,
  ratioWords,
  rimWords,
  shadowWords,
  targetsWords,
} from '../words/index.ts';
import { begin } from './begin.ts';
import { BRIEFS, type Brief } from './briefs.ts';
import { placeOutOfFrame } from './frame.ts';
import { irradianceAtHead, mirroredPlace, placeRim, placeShadow, type ShadowPair } from './geometry.ts';
import { mirrorPlace, placeCatchlight, type CatchlightWish } from './mirror.ts';
import { placePattern, type PatternWish } from './pattern.ts';
import { placeRatio } from './ratio.ts';
import { withLight, type Stand } from './stand.ts';
import { balanceTo } from './targets.ts';

/** What is wished of a light, or of all. */
export type PlaceWish =
  | ({ kind: 'pattern' } & PatternWish)
  | { kind: 'ratio'; value: number }
  | ({ kind: 'catchlight' } & CatchlightWish)
  /** The camera sees the light mirrored at a point of a surface. */
  | { kind: 'highlight'; point: Vec3; normal: Vec3 }
  | { kind: 'shadow'; pairs: ShadowPair[] }
  | { kind: 'rim'; normals: Vec3[] }
  | { kind: 'out of frame' }
  /** Another light is the pair of this one. */
  | { kind: 'pair'; other: string; across: 'sides' | 'heights' }
  | { kind: 'targets'; targets: Targets; given: readonly Given[] }
  /** One that ships, by its name, or one of one's own. */
  | { kind: 'brief'; brief: string | Brief };

/** What fulfils it, or comes nearest. */
export interface Placed {
  patch: Patch;
  reached: boolean;
  text: string;
}

/** A place so near the middle of the head is inside of it, in heights of the head; common practice, no source. */
const INSIDE = 0.75;

/** A light of the setup that may be changed. @throws Error that says why it may not */
function lightOf({ setup }: Stand, id: string): Light {
  const light = setup.lights.items[id];
  if (!light) throw new Error('That light is not there any more.');
  if (light.locked) throw new Error(`${light.name} is locked.`);
  return light;
}

/** … and that stands about the head that is read. */
function standing(stand: Stand, id: string): PlacedLight {
  const light = lightOf(stand, id);
  if (!isPlaced(light)) throw new Error(`${light.name} has no place about the head.`);
  if (!isAbout(stand.setup, light, stand.subject)) throw new Error(`${light.name} stands about another head than the one that is read.`);
  return light;
}

/**
 * A light to where, or to what level, a wish is fulfilled; for all lights where the wish is about all.
 * @throws Error that says why nothing can be placed
 */
export function place(stand: Stand, id: string, wish: PlaceWish): Placed {
  switch (wish.kind) {
    case 'pattern':
      return toPattern(stand, id, wish);
    case 'ratio':
      return toRatio(stand, id, wish.value);
    case 'catchlight':
      return toCatchlight(stand, id, wish);
    case 'highlight': {
      const light = standing(stand, id),
        head = headAround(stand.setup, light);
      const found = mirrorPlace(head, light.place.distance, wish.point, wish.normal, stand.camera.origin);
      if (!found)
        throw new Error('That place is turned away from the camera, or further from the head than the light: no mirror image there.');
      return { patch: placePatch(id, found), reached: true, text: mirrorWords(light.name, found) };
    }
    case 'shadow': {
      const light = standing(stand, id);
      const found = placeShadow(headAround(stand.setup, light), wish.pairs, light.place.distance);
      if (!found)
        throw new Error('These points tell no light: they fall together, or their lines do not meet before what casts the shadow.');
      const { azimuth, elevation, distance, miss } = found;
      const inside = INSIDE * headAround(stand.setup, light).headHeight;
      if (distance !== undefined && distance < inside)
        throw new Error(
          `These lines meet ${Math.round(distance * 100)} cm from the middle of the head, inside of it: point at edges that are further apart.`,
        );
      return {
        patch: placePatch(id, { azimuth, elevation, ...(distance === undefined ? {} : { distance }) }),
        reached: true,
        text: shadowWords(light.name, found, miss),
      };
    }
    case 'rim': {
      const light = standing(stand, id);
      const found = placeRim(stand.map, wish.normals, stand.camera.forward);
      if (!found) throw new Error('No silhouette was drawn along: the surface there faces the camera.');
      return { patch: placePatch(id, found), reached: found.edge > 0.3 && found.spill < 0.2, text: rimWords(light.name, found) };
    }
    case 'out of frame':
      return outOfFrame(stand, id);
    case 'pair':
      return pair(stand, id, wish.other, wish.across);
    case 'targets':
      return toTargets(stand, wish.targets, wish.given);
    case 'brief': {
      const asked = wish.brief;
      const brief = typeof asked === 'string' ? BRIEFS.find((b) => b.id === asked) : asked;
      if (!brief) throw new Error(`There is no intention of the name “${String(asked)}”.`);
      const begun = begin(stand, brief);
      return { patch: begun.patch, reached: begun.key.reached && begun.ratio?.reached !== false, text: begunWords(brief, begun) };
    }
  }
}

function toPattern(stand: Stand, id: string, wish: PatternWish): Placed {
  const light = standing(stand, id);
  const at = (azimuth: number, elevation: number) => {
    const found = stand.at(withLight(stand.setup, id, { ...light, place: { ...light.place, azimuth, elevation } }), id);
    if (!found) throw new Error(`${light.name} gives no light.`);
    return found;
  };
  const { azimuth, elevation, reached, score, instead, margin } = placePattern(stand.map, wish, at);
  const lacks = score.reasons.find((r) => !r.holds);
  const text = placedWords(light.name, patternName(wish.pattern), {
    azimuth,
    elevation,
    reached,
    ...(lacks ? { lacks } : {}),
    ...(instead ? { instead: patternName(instead.pattern) } : {}),
    ...(margin
      ? {
          margin: { degrees: margin.degrees, reached: margin.reached, ...(margin.becomes ? { becomes: patternName(margin.becomes) } : {}) },
        }
      : {}),
  });
  return { patch: placePatch(id, { azimuth, elevation }), reached: reached && margin?.reached !== false, text };
}

function toRatio(stand: Stand, id: string, wished: number): Placed {
  const light = lightOf(stand, id),
    features = stand.reading?.features;
  if (!features) throw new Error('No light reaches this face: there is no ratio.');
  if (!light.on) throw new Error(`${light.name} is off.`);
  const { stops, value, reached, between } = placeRatio(stand.map, features, stand.lights, id, wished);
  const level = round(clamp(light.stops + stops, LIMITS.stops), 2);
  return { patch: lightPatch(id, { stops: level }), reached, text: ratioWords(light.name, wished, stops, value, between) };
}

function toCatchlight(stand: Stand, id: string, wish: CatchlightWish): Placed {
  const light = standing(stand, id);
  const found = placeCatchlight(stand.map, light.place.distance, wish, stand.camera);
  if (!found) throw new Error('The camera sees no place of that eye where a light could be mirrored.');
  const { azimuth, elevation } = found;
  return { patch: placePatch(id, { azimuth, elevation }), reached: found.reached, text: catchlightWords(light.name, wish.clock, found) };
}

function outOfFrame(stand: Stand, id: string): Placed {
  const light = lightOf(stand, id);
  const found = placeOutOfFrame(stand.setup, id, stand.camera);
  if (!found) throw new Error(`${light.name} is not in the picture.`);
  if (found.factor === 1) return { patch: found.patch, reached: true, text: frameWords(light.name, 1, 1) };
  const head = headInWorld(stand.setup.subjects.items[stand.subject]!);
  const light_ = (setup: Setup) => stand.at(setup, id);
  const change = (found.patch as { lights: { items: Record<string, Partial<PlacedLight>> } }).lights.items[id]!;
  const moved = { ...light, ...change, place: { ...(light as PlacedLight).place, ...change.place } } as Light;
  const before = light_(stand.setup),
    after = light_(withLight(stand.setup, id, moved));
  // where it does not aim at the head, its level makes up for what is left
  const k = before && after ? irradianceAtHead(head, after) / irradianceAtHead(head, before) : 1;
  const stops = round(clamp(light.stops - Math.log2(k > 0 ? k : 1), LIMITS.stops), 3);
  const patch = { lights: { items: { [id]: { ...change, stops } } } } as unknown as Patch;
  return { patch, reached: true, text: frameWords(light.name, found.factor, k) };
}

function pair(stand: Stand, id: string, other: string, across: 'sides' | 'heights'): Placed {
  const { setup } = stand,
    first = setup.lights.items[id];
  if (!first || !isPlaced(first)) throw new Error('A pair needs a light that stands about the head.');
  const second = lightOf(stand, other);
  if (!isPlaced(second)) throw new Error(`${second.name} has no place about the head.`);
  const { azimuth, elevation, distance, aim } = first.place;
  const alike = first.kind === second.kind;
  const size = Object.fromEntries(
    ['width', 'height', 'diameter', 'length'].flatMap((k) =>
      alike && k in first ? [[k, (first as unknown as Record<string, number>)[k]!]] : [],
    ),
  );
  const mirroredAim = across === 'sides' ? [-aim[0], aim[1], aim[2]] : [aim[0], -aim[1], aim[2]];
  const patch = lightPatch(other, {
    place: { ...mirroredPlace({ azimuth, elevation }, across), distance, aim: mirroredAim },
    stops: first.stops,
    ...size,
    ...(alike ? { output: first.output } : {}),
  });
  return { patch, reached: alike, text: pairWords(first.name, second.name, across, alike) };
}

function toTargets(stand: Stand, targets: Targets, given: readonly Given[]): Placed {
  const { setup } = stand,
    { items } = setup.lights;
  const on = given.filter((g) => items[g.id]?.on),
    fixed = new Set(on.filter((g) => items[g.id]!.locked).map((g) => g.id));
  if (!on.some((g) => !fixed.has(g.id))) throw new Error('No light is on that may be changed.');
  const lacking = (Object.keys(targets) as Target[]).find((t) => on.every((g) => !g.gives[t]));
  if (lacking) throw new Error(`Nothing of the ${lacking} is lit in the picture: it cannot be aimed at.`);
  const { stops, there, reached } = balanceTo(targets, on, fixed);
  const changes: Patch = {};
  for (const [id, by] of Object.entries(stops))
    changes[id] = Number.isFinite(by) ? { stops: round(clamp(items[id]!.stops + by, LIMITS.stops), 2) } : { on: false };
  return { patch: { lights: { items: changes } }, reached, text: targetsWords((id) => items[id]!.name, stops, there, reached) };
}
