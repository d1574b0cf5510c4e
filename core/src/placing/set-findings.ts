// What an experienced eye would point at on the set: the stage, its shadows, what light reaches. Limits are common practice of the trade, no source.
import type { Finding, PictureSpot, StageShadow, StageSpot } from '../face/index.ts';
import { dot, round, sub, type Vec3 } from '../math/index.ts';
import type { Scene } from '../scene/index.ts';
import { axesInWorld, groundAt, hasCatcher, headAround, isPlaced, isReached, orderOf, type Setup } from '../setup/index.ts';
import { coverPatch, lightPatch, reachWish } from '../staging/index.ts';

/** Share of the stage that a hot spot has at least, percent, and from which on it is no spot any more. */
const SPOT_AREA = [0.4, 40] as const;
/** So many shadows of others than the deepest are too many; a figure floats that is so far from the ground, m. */
const MOST_SHADOWS = 1,
  FLOATS = 0.02;
/** A panel's plane is seen where so much of what is seen of the stage lies before and behind it. */
const HALF = 0.1,
  SHOWS = 0.25;

/** What is known of the set in the picture. */
export interface SetStand {
  setup: Setup;
  scene: Scene;
  spots: readonly StageSpot[];
  shadows: readonly StageShadow[];
  /** The most that each light gives of all light anywhere on the stage, 0…1. */
  shares: Readonly<Record<string, number>>;
  /** Places of the stage that are seen, x y z each, and where in the picture. */
  places: Float32Array;
  dots: readonly PictureSpot[];
}

/** What is to be said of the set as it is; the gravest first. */
export function setFindings(stand: SetStand): Finding[] {
  return [...nothing(stand), ...hotSpots(stand), ...manyShadows(stand), ...edges(stand), ...floating(stand), ...halves(stand)];
}

const lightsOn = ({ setup }: SetStand): string[] => orderOf(setup.lights).filter((id) => setup.lights.items[id]!.on);

function nothing(stand: SetStand): Finding[] {
  const { setup, scene } = stand;
  const { objects } = scene.geometry;
  if (objects.length === 0) return [];
  return lightsOn(stand).flatMap((id): Finding[] => {
    const { reach, locked } = setup.lights.items[id]!;
    if (!reach || objects.some((o) => isReached(reach.lights, o))) return [];
    const none = Object.fromEntries(Object.keys(reach.lights).map((r) => [r, null]));
    return [
      {
        id: `reaches nothing ${id}`,
        kind: 'reaches nothing',
        light: id,
        measure: 0,
        unit: '%',
        limit: { at: 'least', value: 1 },
        ...(locked ? {} : { mend: lightPatch(id, { reach: { lights: none } }) }),
      },
    ];
  });
}

function hotSpots({ setup, scene, spots }: SetStand): Finding[] {
  return spots.flatMap(({ light: id, area, stops, dots }): Finding[] => {
    const light = setup.lights.items[id]!;
    const percent = 100 * area;
    // who is there for the background may brighten it
    if (light.role === 'background' || percent < SPOT_AREA[0] || percent > SPOT_AREA[1]) return [];
    return [
      {
        id: `stage spot ${id}`,
        kind: 'stage spot',
        light: id,
        measure: stops,
        unit: 'stops',
        limit: { at: 'most', value: 2 },
        area: percent,
        dots,
        ...(light.locked ? {} : { mend: reachWish(setup, id, 'no-stage', scene.geometry.objects).patch }),
      },
    ];
  });
}

function manyShadows({ setup, scene, shadows }: SetStand): Finding[] {
  if (shadows.length <= MOST_SHADOWS) return [];
  const [first, ...others] = shadows;
  const wish = () => {
    try {
      return reachWish(setup, first!.light, 'one-shadow', scene.geometry.objects).patch;
    } catch {
      return undefined;
    }
  };
  const caught = hasCatcher(setup);
  // of a catcher's shadows the others are left out by balance
  const mend = caught ? { catcher: { without: Object.fromEntries(others.map((s) => [s.light, true as const])) } } : wish();
  return [
    {
      id: `shadows ${first!.light}`.slice(0, 60),
      kind: 'shadows',
      light: first!.light,
      others: others.map((s) => s.light),
      measure: shadows.length,
      unit: 'shadows',
      limit: { at: 'most', value: MOST_SHADOWS },
      dots: others.flatMap((s) => s.dots),
      ...(mend ? { mend } : {}),
    },
  ];
}

function edges({ setup }: SetStand): Finding[] {
  const cover = hasCatcher(setup) || setup.plate.kind !== 'none' ? undefined : coverPatch(setup);
  return cover ? [{ id: 'stage edge', kind: 'stage edge', measure: 100, unit: '%', limit: { at: 'most', value: 0 }, mend: cover }] : [];
}

/** Whether a point is in the frame, and where. */
function inFrame({ camera }: Scene, point: Vec3): PictureSpot | undefined {
  const d = sub(point, camera.origin),
    z = dot(d, camera.forward);
  if (z <= 1e-3) return undefined;
  const x = dot(d, camera.right) / z / (camera.halfHeight * camera.aspect),
    y = dot(d, camera.up) / z / camera.halfHeight;
  return Math.abs(x) < 1 && Math.abs(y) < 1 ? [(x + 1) / 2, (1 - y) / 2] : undefined;
}

/** Figures whose lowest point is in the picture and stands on nothing. */
function floating({ setup, scene }: SetStand): Finding[] {
  if (setup.stage.kind === 'none') return [];
  const { mesh, objects, triangleObject } = scene.geometry;
  const lowest = new Map<string, number>();
  for (let t = 0; t < triangleObject.length; t++) {
    const object = objects[triangleObject[t]!]!;
    if (!object.startsWith('subjects/')) continue;
    const subject = object.split('/')[1]!;
    for (let k = t * 3; k < t * 3 + 3; k++) {
      const v = mesh.indices[k]!,
        low = lowest.get(subject);
      if (low === undefined || mesh.positions[v * 3 + 1]! < mesh.positions[low * 3 + 1]!) lowest.set(subject, v);
    }
  }
  return [...lowest].flatMap(([id, v]): Finding[] => {
    const foot: Vec3 = [mesh.positions[v * 3]!, mesh.positions[v * 3 + 1]!, mesh.positions[v * 3 + 2]!];
    const gap = foot[1] - groundAt(setup, foot[0], foot[2]).height,
      spot = inFrame(scene, foot);
    if (!(gap > FLOATS) || !spot) return [];
    const [x, y, z] = setup.subjects.items[id]!.position;
    return [
      {
        id: `floating ${id}`,
        kind: 'floating',
        subject: id,
        measure: gap * 100,
        unit: 'cm',
        limit: { at: 'most', value: FLOATS * 100 },
        dots: [spot],
        mend: { subjects: { items: { [id]: { position: [x, round(y - gap, 4), z] } } } },
      },
    ];
  });
}

/** Flat sources that shine to one side, whose plane cuts what is seen of the stage: the angle by which they would have to turn from it. */
function halves(stand: SetStand): Finding[] {
  const { setup, places, dots, scene } = stand;
  const stage = scene.geometry.objects.filter((o) => o.startsWith('stage'));
  return lightsOn(stand).flatMap((id): Finding[] => {
    const light = setup.lights.items[id]!;
    if (!isPlaced(light) || !('twoSided' in light) || light.twoSided || light.beam.angle < 180) return [];
    if (!stage.some((o) => isReached(light.reach?.lights, o)) || !((stand.shares[id] ?? 0) > SHOWS)) return [];
    const { centre, z } = axesInWorld(headAround(setup, light), light);
    const angles = dots.map((_, i) => {
      const d = sub([places[i * 3]!, places[i * 3 + 1]!, places[i * 3 + 2]!], centre);
      return Math.asin(Math.max(-1, Math.min(1, dot(d, z) / Math.max(1e-9, Math.hypot(...d))))) * (180 / Math.PI);
    });
    const before = angles.filter((a) => a > 0).length / Math.max(1, angles.length);
    if (before < HALF || before > 1 - HALF) return [];
    // it falls off to nothing at its plane: seen where it is near
    const near = angles.flatMap((a, i) => (Math.abs(a) < 4 ? [dots[i]!] : []));
    const turn = Math.max(...angles);
    if (near.length === 0 || turn > 30) return [];
    return [
      { id: `half space ${id}`, kind: 'half space', light: id, measure: turn, unit: '°', limit: { at: 'most', value: 0 }, dots: near },
    ];
  });
}
