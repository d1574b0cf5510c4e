// What a picture shows of the set: hot spots of the stage, and places of it where shadows are asked for.
import type { PictureSpot, StageShadow, StageSpot } from '../face/index.ts';
import { luminance } from '../photometry/index.ts';
import type { Scene } from '../scene/index.ts';
import { orderOf, refCovers, setupGains, type Setup } from '../setup/index.ts';
import type { ReadResult } from '../trace/index.ts';
import { luminanceOf } from './seen.ts';
import type { FilmSource } from './source.ts';

/** Places of the stage that are seen, evenly over the picture. */
export interface StagePlaces {
  points: Float32Array;
  normals: Float32Array;
  dots: PictureSpot[];
  /** Number of the object that they lie on: the stage's largest. */
  object: number;
}

/** A spot is hot from so many stops over the middle of the stage on. */
const HOT_STOPS = 2;
/** A light makes a spot that gives so much of it. */
const MAKES = 0.5;
/** Places where shadows are asked for, at most. */
const PLACES = 240;
/** A shadow counts that takes so much of the light there, from so many of the places. */
const DEEP = 0.15,
  LEAST_PLACES = 3;

const onStage = (scene: Scene): boolean[] => scene.geometry.objects.map((o) => refCovers('stage', o));

/** Pixels that show the stage. */
export function stagePixels({ guides, width, height }: FilmSource, scene: Scene): number[] {
  const stage = onStage(scene),
    out: number[] = [];
  for (let p = 0; p < width * height; p++) if (guides.mean(p, 10) > 0 && stage[guides.ids[p * 2]!]) out.push(p);
  return out;
}

const spotOf = ({ width, height }: FilmSource, p: number): PictureSpot => [
  ((p % width) + 0.5) / width,
  (Math.floor(p / width) + 0.5) / height,
];
/** So many of them at most, evenly, and not in step with the picture's rows. */
const some = <T>(of: readonly T[], most: number): T[] =>
  of.length <= most ? [...of] : Array.from({ length: most }, (_, i) => of[Math.floor(((i + 0.5) * of.length) / (most + 0.381))]!);

/** Hot spots of the stage, whose pixels these are, by light. `linear` is the picture's light before look and plate, r g b by pixel. */
export function stageSpots(source: FilmSource, pixels: readonly number[], linear: Float32Array, setup: Setup): StageSpot[] {
  if (pixels.length < 50) return [];
  const light = (p: number) => luminance(linear[p * 3]!, linear[p * 3 + 1]!, linear[p * 3 + 2]!);
  const middle = Float32Array.from(pixels, light).sort()[pixels.length >> 1]!;
  const hot = pixels.filter((p) => light(p) > middle * 2 ** HOT_STOPS && light(p) > 1e-3);
  const gains = setupGains(setup);
  return orderOf(setup.lights).flatMap((id): StageSpot[] => {
    const film = source.shown(id)?.film,
      gain = gains[id];
    if (!film || !gain || !setup.lights.items[id]!.on || film.width !== source.width) return [];
    const own = luminanceOf(film, gain);
    const made = hot.filter((p) => own(p) > MAKES * light(p));
    if (made.length === 0) return [];
    const mean = made.reduce((sum, p) => sum + light(p), 0) / made.length;
    const stops = Math.log2(mean / Math.max(middle, 1e-6));
    return [{ light: id, area: made.length / pixels.length, stops, dots: some(made, 60).map((p) => spotOf(source, p)) }];
  });
}

/** Where on the stage, whose pixels these are, its shadows are to be asked for; nothing where too little of it is seen. */
export function stagePlaces(source: FilmSource, all: readonly number[]): StagePlaces | undefined {
  const counts = new Map<number, number>();
  for (const p of all) counts.set(source.guides.ids[p * 2]!, (counts.get(source.guides.ids[p * 2]!) ?? 0) + 1);
  const object = [...counts].sort((a, b) => b[1] - a[1])[0]?.[0];
  if (object === undefined || all.length < 50) return undefined;
  const pixels = some(
    all.filter((p) => source.guides.ids[p * 2] === object),
    PLACES,
  );
  const mean = (first: number) => Float32Array.from(pixels.flatMap((p) => [0, 1, 2].map((k) => source.guides.mean(p, first + k))));
  return { points: mean(4), normals: mean(1), dots: pixels.map((p) => spotOf(source, p)), object };
}

/** What lights send to places of the stage: luminance at their levels, light by light. */
function givenBy(setup: Setup, count: number, ids: readonly string[]): (of: Float32Array, light: number, place: number) => number {
  const all = setupGains(setup),
    gains = ids.map((id) => all[id]?.diffuse ?? [0, 0, 0]);
  return (of, l, p) => {
    const [r, g, b] = gains[l]!,
      at = (l * count + p) * 3;
    return luminance(of[at]! * r!, of[at + 1]! * g!, of[at + 2]! * b!);
  };
}

/** The most that each light gives of all light anywhere on the stage, 0…1. */
export function stageShares(setup: Setup, places: StagePlaces, read: ReadResult, ids: readonly string[]): Record<string, number> {
  const count = places.dots.length,
    given = givenBy(setup, count, ids);
  const most = ids.map(() => 0);
  for (let p = 0; p < count; p++) {
    const all = ids.reduce((sum, _, l) => sum + given(read.lit, l, p), 0);
    if (all > 0) ids.forEach((_, l) => (most[l] = Math.max(most[l]!, given(read.lit, l, p) / all)));
  }
  return Object.fromEntries(ids.map((id, l) => [id, most[l]!]));
}

/** The shadows of what stands on the stage, light by light, the deepest first; `ids` names the lights that were read. */
export function stageShadows(setup: Setup, scene: Scene, places: StagePlaces, read: ReadResult, ids: readonly string[]): StageShadow[] {
  const stage = onStage(scene),
    count = places.dots.length;
  const given = givenBy(setup, count, ids);
  const all = Array.from({ length: count }, (_, p) => ids.reduce((sum, _, l) => sum + given(read.open, l, p), 0));
  return ids
    .flatMap((light, l): StageShadow[] => {
      const dark: number[] = [],
        by = new Set<string>();
      let depth = 0;
      for (let p = 0; p < count; p++) {
        const blocker = read.blockers[l * count + p]!;
        if (blocker < 0 || stage[blocker]) continue;
        const taken = (given(read.open, l, p) - given(read.lit, l, p)) / Math.max(all[p]!, 1e-12);
        if (taken < DEEP) continue;
        dark.push(p);
        depth += taken;
        by.add(scene.geometry.objects[blocker]!.split('/').slice(0, 2).join('/'));
      }
      if (dark.length < LEAST_PLACES) return [];
      return [{ light, area: dark.length / count, depth: depth / dark.length, by: [...by], dots: dark.map((p) => places.dots[p]!) }];
    })
    .sort((a, b) => b.depth * b.area - a.depth * a.area);
}
