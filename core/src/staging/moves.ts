import { clamp, round, type Vec3 } from '../math/index.ts';
import { snapThird } from '../photometry/index.ts';
import {
  withRanks,
  freeId,
  orderOf,
  isPlaced,
  headAround,
  LIMITS,
  toHead,
  wrapDegrees,
  type FlagItem,
  type Light,
  type Patch,
  type Place,
  type PlacedLight,
  type Setup,
} from '../setup/index.ts';

/** Patches for what the artist does to lights and flags; each is plain data. */
export const lightPatch = (id: string, change: Patch): Patch => ({ lights: { items: { [id]: change } } });
export const flagPatch = (id: string, change: Patch): Patch => ({ flags: { items: { [id]: change } } });

/** The same change of several lights, as far as they have what is changed. */
export function lightsPatch(setup: Setup, ids: readonly string[], change: Patch): Patch {
  const items: Patch = {};
  for (const id of ids) {
    const light = setup.lights.items[id];
    if (!light) continue;
    const fitting = Object.entries(change).filter(([key]) => key in light || (key === 'where' && light.kind === 'sun'));
    if (fitting.length) items[id] = Object.fromEntries(fitting);
  }
  return { lights: { items } };
}

/** What a move makes of a place: azimuth is wrapped, elevation and distance kept in range. */
export function placeChange(place: Partial<Place>): Patch {
  const out: Patch = {};
  if (place.azimuth !== undefined) out['azimuth'] = round(wrapDegrees(place.azimuth), 2);
  if (place.elevation !== undefined) out['elevation'] = round(clamp(place.elevation, LIMITS.elevation), 2);
  if (place.distance !== undefined) out['distance'] = round(clamp(place.distance, LIMITS.distance), 4);
  if (place.aim !== undefined) out['aim'] = place.aim.map((v) => round(v, 4)) as Vec3;
  return out;
}

/** Moves a light to a place. */
export const placePatch = (id: string, place: Partial<Place>): Patch => lightPatch(id, { place: placeChange(place) });

export const stopsPatch = (id: string, light: Light, by: number): Patch =>
  lightPatch(id, { stops: round(clamp(snapThird(light.stops + by), LIMITS.stops), 4) });

const size = (v: number, factor: number) => round(clamp(v * factor, LIMITS.size), 4);

/** Makes a light's source larger or smaller; nothing for lights without a size. */
export function sizeChange(light: Light, factor: number): Patch | undefined {
  switch (light.kind) {
    case 'rectangle':
    case 'disk':
      return { width: size(light.width, factor), height: size(light.height, factor) };
    case 'ball':
    case 'spot':
    case 'profile':
      return { diameter: size(light.diameter, factor) };
    case 'tube':
      return { length: size(light.length, factor) };
    case 'sun':
      return { angle: round(clamp(light.angle * factor, LIMITS.sunDisk), 3) };
    default:
      return undefined;
  }
}

/** Walks a light round the head, or a sun round the sky; nothing for lights that are everywhere. */
export function walkChange(light: Light, azimuth: number, elevation: number): Patch | undefined {
  if (isPlaced(light))
    return { place: placeChange({ azimuth: light.place.azimuth + azimuth, elevation: light.place.elevation + elevation }) };
  if (light.kind === 'sun' || light.kind === 'sky')
    return {
      bearing: round(wrapDegrees(light.bearing + azimuth), 2),
      elevation: round(clamp(light.elevation + elevation, LIMITS.sunHeight), 2),
    };
  if (light.kind === 'dome')
    return { bearing: round(wrapDegrees(light.bearing + azimuth), 2), tilt: round(clamp(light.tilt + elevation, LIMITS.elevation), 2) };
  return undefined;
}

/** Moves a sun or sky, and with it the suns and skies of its group: they are one day. */
export function skyPatch(setup: Setup, id: string, change: Patch): Patch {
  const light = setup.lights.items[id]!;
  const together = orderOf(setup.lights).filter((other) => {
    const l = setup.lights.items[other]!;
    return other === id || (light.group !== '' && l.group === light.group && (l.kind === 'sun' || l.kind === 'sky'));
  });
  return lightsPatch(setup, together, change);
}

/** Adds lights at the end. `letters` end their ids: no other window chooses the same ones at the same moment. */
export function addLightsPatch(setup: Setup, lights: Light[], letters = ''): { patch: Patch; ids: string[] } {
  const items: Record<string, Light> = {};
  const ids = lights.map((light) => {
    const id = freeId({ ...setup.lights.items, ...items }, light.role, letters);
    items[id] = light;
    return id;
  });
  return { ids, patch: { lights: { items: withRanks(setup.lights, items) as unknown as Patch } } };
}

export const removeLightsPatch = (setup: Setup, ids: readonly string[]): Patch => ({
  lights: { items: Object.fromEntries(ids.map((id) => [id, null])) },
  // a flag that stood before these lights only must not stand before all
  flags: { items: flagsWithout(setup, ids) },
});

function flagsWithout(setup: Setup, ids: readonly string[]): Patch {
  const out: Patch = {};
  for (const id of orderOf(setup.flags)) {
    const flag = setup.flags.items[id]!;
    if (!flag.lights.some((l) => ids.includes(l))) continue;
    const left = flag.lights.filter((l) => !ids.includes(l));
    out[id] = left.length ? { lights: left } : { lights: left, on: false };
  }
  return out;
}

const mirrored = (place: Place, below: boolean): Place =>
  below
    ? { ...place, elevation: -place.elevation, aim: [place.aim[0], -place.aim[1], place.aim[2]] }
    : { ...place, azimuth: round(wrapDegrees(-place.azimuth), 2), aim: [-place.aim[0], place.aim[1], place.aim[2]] };

/** Takes a light to the other side of the face. */
export const mirrorPatch = (id: string, light: PlacedLight): Patch =>
  lightPatch(id, { place: mirrored(light.place, false), roll: light.roll === 0 ? 0 : -light.roll });

/** A second light like the first: free beside it or where it stands, or a twin opposite or below that shares everything but its place. */
export function copyPatch(
  setup: Setup,
  id: string,
  how: 'copy' | 'here' | 'opposite' | 'below',
  letters = '',
): { patch: Patch; id: string } {
  const light = setup.lights.items[id]!;
  const copyId = freeId(setup.lights.items, light.role, letters);
  const { twin: _, ...plain } = light;
  const name = `${light.name} ${how === 'copy' ? 'copy' : how}`.slice(0, 60);
  let copy: Light = { ...plain, name, locked: false } as Light;
  const items: Patch = {};
  if ((how === 'opposite' || how === 'below') && isPlaced(copy)) {
    const pair = light.twin?.pair ?? freeId({}, `pair-${copyId}`);
    copy = { ...copy, place: mirrored(copy.place, how === 'below'), twin: { pair, own: [] } };
    if (!light.twin) items[id] = { twin: { pair, own: [] } };
  } else if (how === 'copy' && isPlaced(copy))
    copy = { ...copy, place: { ...copy.place, azimuth: round(wrapDegrees(copy.place.azimuth + 20), 2) } };
  // right after the one that it is made of
  Object.assign(items, withRanks(setup.lights, { [copyId]: copy }, orderOf(setup.lights).indexOf(id) + 1));
  const patch: Patch = { lights: { items } };
  // where it stands what was in its way is in the copy's way too
  const flagged = Object.entries(setup.flags.items).filter(([, flag]) => flag.lights.includes(id));
  if (how === 'here' && flagged.length)
    patch['flags'] = { items: Object.fromEntries(flagged.map(([flag, { lights }]) => [flag, { lights: [...lights, copyId] }])) };
  return { id: copyId, patch };
}

/** A flag halfway between a light and what it looks at, as wide as the light. */
export function addFlagPatch(setup: Setup, lightId: string | undefined, letters = ''): { patch: Patch; id: string } {
  const light = lightId === undefined ? undefined : setup.lights.items[lightId];
  const placed = light && isPlaced(light) ? light : undefined;
  const id = freeId(setup.flags.items, 'flag', letters);
  const around = placed?.around === undefined ? {} : { around: placed.around };
  const k = headAround(setup, around).headHeight / 0.23;
  const flag: Omit<FlagItem, 'rank'> = {
    kind: 'panel',
    name: `Flag ${orderOf(setup.flags).length + 1}`,
    on: true,
    place: placed
      ? { ...placed.place, distance: round(placed.place.distance / 2, 3) }
      : { azimuth: 0, elevation: 20, distance: 0.8, aim: [0, 0, 0] },
    ...around,
    roll: 0,
    width: round(0.4 * k, 3),
    height: round(0.3 * k, 3),
    depth: round(0.1 * k, 3),
    density: 1,
    soft: 0.1,
    lights: lightId === undefined ? [] : [lightId],
  };
  return { id, patch: { flags: { items: withRanks(setup.flags, { [id]: flag }) as unknown as Patch } } };
}

export const removeFlagPatch = (id: string): Patch => ({ flags: { items: { [id]: null } } });

/** What lights are aimed at by name, in the head's frame. */
export function aimsOf(setup: Setup, light: PlacedLight): [string, Vec3][] {
  const h = headAround(setup, light).headHeight;
  const at = (x: number, y: number, z: number): Vec3 => [round(x * h, 4), round(y * h, 4), round(z * h, 4)];
  return [
    ['eyes', [0, 0, 0]],
    ['head', at(0, -0.05, -0.4)],
    ['chest', at(0, -1.7, -0.35)],
  ];
}

/** Aims a light at a point of the world. */
export const aimAtPatch = (setup: Setup, id: string, point: Vec3): Patch =>
  placePatch(id, { aim: toHead(headAround(setup, setup.lights.items[id] as PlacedLight), point) });

/** The same place around another's head; without a subject, around the first in sight. */
export const aroundPatch = (id: string, subject: string | undefined): Patch => lightPatch(id, { around: subject ?? null });
