// A face at one moment of a motion: by rays alone, without a map of all directions.
import {
  CELLS,
  FaceMeter,
  isWhole,
  knownFace,
  makeBareMap,
  missingOf,
  whatShades,
  type CellLight,
  type Eyes,
  type FaceLight,
  type Reading,
  type ReadLight,
} from '../face/index.ts';
import type { Vec3 } from '../math/index.ts';
import { exposureFactor } from '../photometry/index.ts';
import { headAt, type CharacterAsset, type Scene } from '../scene/index.ts';
import type { Frame, Setup } from '../setup/index.ts';
import { cellsOfJob, faceJob, faceLightOf, readLightOf } from './face-light.ts';
import type { ReadJob, ReadResult } from './read.ts';

/** Who follows rays: of faces, and of readings. */
export interface MomentEyes extends Eyes {
  read(job: ReadJob): ReadResult | Promise<ReadResult>;
}

/** What a reading of one moment comes to. */
export interface Moment {
  reading: Reading;
  /** Share of the face's front that direct light would clip on skin of albedo 0.4. */
  over: number;
  /** Share of the head that each light reaches. */
  meets: Record<string, number>;
}

/** Rays to a light from each place. */
const SAMPLES = 4;
/** A place is reached by a light of which so much arrives. */
const REACHED = 0.25;
/** Albedo of skin by which exposure is judged, as the shelf of lights does. */
const SKIN = 0.4;

/** A setup at another time of its subject's clip; lights that follow the head go along. */
export function atTime(setup: Setup, subject: string, asset: CharacterAsset, time: number): Setup {
  const item = setup.subjects.items[subject]!;
  if (!item.pose) return setup;
  const { head, ...pose } = { ...item.pose, time };
  const posed = head ? { ...pose, head: headAt(asset, item.head, pose) } : pose;
  return { ...setup, subjects: { items: { ...setup.subjects.items, [subject]: { ...item, pose: posed } } } };
}

/** Directions from a head to the parts of a light. */
function directionsOf(light: FaceLight, { origin }: Frame): Vec3[] {
  const out: Vec3[] = [];
  for (const u of PARTS)
    for (const v of PARTS) if (light.sample(origin[0], origin[1], origin[2], u, v)) out.push([light.ray.x, light.ray.y, light.ray.z]);
  return out;
}
/** Parts of a light along its sides. */
const PARTS = [0.17, 0.5, 0.83];

/**
 * Reads a face as it is in a compiled setup, of which `eyes` hold the geometry. @throws Error that names the landmarks that are missing
 */
export async function readMoment(eyes: MomentEyes, setup: Setup, scene: Scene, subject: string, asset: CharacterAsset): Promise<Moment> {
  const face = knownFace(setup, subject, asset);
  if (!isWhole(face)) throw new Error(`Landmarks are missing: ${missingOf(face).join(', ')}.`);
  const map = await makeBareMap(eyes, scene.geometry, face);
  const asked = scene.lights.flatMap((light) => {
    const of = setup.lights.items[light.id]?.on ? faceLightOf(light, scene.geometry) : undefined;
    return of ? [{ light, of }] : [];
  });
  const lights = asked.map((a) => a.light);
  const found = await eyes.read(faceJob(map, lights, SAMPLES, scene.haze?.density));
  const read: ReadLight[] = [];
  const meets: Moment['meets'] = {};
  for (const [l, { of }] of asked.entries()) {
    const shadedBy = of.around ? new Uint8Array(CELLS) : await whatShades(eyes, scene.geometry, map, directionsOf(of, face.frame));
    const cells: CellLight = cellsOfJob(map, found, l, { shadedBy });
    read.push(readLightOf(setup, of, cells));
    let reached = 0,
      all = 0;
    for (let c = 0; c < CELLS; c++) {
      if (!map.there[c]) continue;
      all += map.area[c]!;
      if (cells.open[c]! > 0 && cells.lit[c]! > REACHED * cells.open[c]!) reached += map.area[c]!;
    }
    meets[of.id] = all > 0 ? reached / all : 0;
  }
  const white = Math.PI / SKIN / exposureFactor(setup.camera.ev);
  let over = 0,
    front = 0;
  for (let c = 0; c < CELLS; c++) {
    if (!map.front[c]) continue;
    front += map.area[c]!;
    if (read.reduce((sum, r) => sum + r.level * r.cells.lit[c]!, 0) > white) over += map.area[c]!;
  }
  return { reading: new FaceMeter(map).read(read, scene.camera), over: front > 0 ? over / front : 0, meets };
}

/** A light that reaches less than this share of the head does not meet it; one that meets it in less than half of the moments is for one pose. */
const MEETS = 0.02;

/** Lights that meet their subject in less than half of some moments, though in one of them they do. */
export function lightsForOnePose(moments: readonly Pick<Moment, 'meets'>[]): string[] {
  const ids = new Set(moments.flatMap((m) => Object.keys(m.meets)));
  return [...ids].filter((id) => {
    const met = moments.filter((m) => (m.meets[id] ?? 0) >= MEETS).length;
    return met > 0 && met < moments.length / 2;
  });
}
