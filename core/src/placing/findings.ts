// What an experienced eye would point at. Limits are common practice of the trade, no source, except where they say what they are.
import { featuresOf, directionOfLight, named, NOSE_CAST, type Features, type Finding, type Seen } from '../face/index.ts';
import { clamp, round } from '../math/index.ts';
import { colourDifference, luminance } from '../photometry/index.ts';
import { LIMITS, lightColour, orderOf, type Light, type Patch } from '../setup/index.ts';
import { lightPatch } from '../staging/index.ts';
import { isInFrame, placeOutOfFrame } from './frame.ts';
import { placeRatio } from './ratio.ts';
import type { Stand } from './stand.ts';

/** Limits, one for each. */
const LEAST_ADDED = 0.1,
  SECOND_SHADOW = 25,
  HOT_SHARE = 1.5,
  CLIPPED_SHARE = 0.5,
  FLAT_RATIO = 1.25,
  STRONG = 32,
  FRONT = 15;

/** Share, in percent, that a light has of the key's on the face from which on its own shadow is seen. */
const shareOf = (given: number, key: number): number => (100 * given) / Math.max(key, 1e-9);

/** What is to be said about light and face as they are; the gravest first. */
export function findingsOf(stand: Stand, seen: Seen): Finding[] {
  return [
    ...clipped(stand, seen),
    ...front(stand),
    ...doubled(stand),
    ...hot(stand, seen),
    ...flat(stand),
    ...colours(stand),
    ...idle(stand, seen),
    ...inFrame(stand),
  ];
}

/** Lights that are on, in their order. */
const on = ({ setup }: Stand): [string, Light][] =>
  orderOf(setup.lights).flatMap((id) => (setup.lights.items[id]!.on ? [[id, setup.lights.items[id]!]] : []));

function idle(stand: Stand, seen: Seen): Finding[] {
  return on(stand).flatMap(([id, { locked }]) => {
    const given = seen.lights.find((l) => l.id === id);
    if (!given || given.most >= LEAST_ADDED) return [];
    const measure = given.most;
    return [
      {
        id: `idle ${id}`,
        kind: 'idle',
        light: id,
        measure,
        unit: 'stops',
        limit: { at: 'least', value: LEAST_ADDED },
        ...(locked ? {} : { mend: lightPatch(id, { on: false }) }),
      },
    ];
  });
}

/** What a light gives to the front of the face. */
function givenTo({ map }: Stand, lit: Float32Array): number {
  let sum = 0;
  for (let c = 0; c < lit.length; c++) if (map.front[c]) sum += lit[c]! * map.area[c]!;
  return sum;
}

function doubled(stand: Stand): Finding[] {
  const { reading, lights, map, setup } = stand;
  const key = lights.find((l) => l.light.id === reading?.key?.id);
  if (!key || !reading?.features?.nose) return [];
  const whole = key.level * givenTo(stand, key.cells.lit);
  return lights.flatMap((l): Finding[] => {
    if (l === key || l.light.around || l.level <= 0) return [];
    const share = shareOf(l.level * givenTo(stand, l.cells.lit), whole);
    if (share < SECOND_SHADOW) return [];
    const features: Features = featuresOf(map, l.cells, directionOfLight(map, l.light));
    const cells = features.nose?.cells;
    // a second shadow of the nose that falls elsewhere than the first
    const apart = cells?.filter((c) => reading.features!.shades[c] !== NOSE_CAST);
    if (!cells || !apart || apart.length < 0.5 * cells.length) return [];
    const { id } = l.light,
      light = setup.lights.items[id]!;
    const stops = round(clamp(light.stops - Math.log2(share / (0.8 * SECOND_SHADOW)), LIMITS.stops), 2);
    return [
      {
        id: `doubled ${id}`,
        kind: 'doubled',
        light: id,
        other: key.light.id,
        measure: share,
        unit: '%',
        limit: { at: 'most', value: SECOND_SHADOW },
        cells: apart,
        ...(light.locked ? {} : { mend: lightPatch(id, { stops }) }),
      },
    ];
  });
}

function hot({ reading, setup }: Stand, seen: Seen): Finding[] {
  const share = 100 * seen.hot.share,
    id = seen.hot.light ?? reading?.key?.id;
  if (!(share > HOT_SHARE)) return [];
  const key = id === undefined ? undefined : setup.lights.items[id];
  return [
    {
      id: 'hot',
      kind: 'hot',
      measure: share,
      unit: '%',
      limit: { at: 'most', value: HOT_SHARE },
      stops: seen.hot.stops,
      cells: seen.hot.cells,
      ...(id !== undefined && key ? { light: id } : {}),
      ...(id !== undefined && key && !key.locked ? { mend: lightPatch(id, { specular: round(key.specular / 2, 3) }) } : {}),
    },
  ];
}

function inFrame(stand: Stand): Finding[] {
  const { setup, camera } = stand;
  return on(stand).flatMap(([id, light]): Finding[] => {
    if (!light.seen.camera || !isInFrame(setup, light, camera)) return [];
    const placed = light.locked ? undefined : placeOutOfFrame(setup, id, camera);
    return [
      {
        id: `in frame ${id}`,
        kind: 'in frame',
        light: id,
        measure: 100,
        unit: '%',
        limit: { at: 'most', value: 0 },
        ...(placed ? { mend: placed.patch } : {}),
      },
    ];
  });
}

function clipped({ setup }: Stand, seen: Seen): Finding[] {
  const share = 100 * seen.clipped;
  if (!(share > CLIPPED_SHARE)) return [];
  // two thirds of a stop bring back what is a little over
  const ev = round(clamp(setup.camera.ev + 2 / 3, LIMITS.ev), 2);
  return [
    {
      id: 'clipped',
      kind: 'clipped',
      measure: share,
      unit: '%',
      limit: { at: 'most', value: CLIPPED_SHARE },
      cells: seen.clippedCells,
      ...(setup.camera.locked ? {} : { mend: { camera: { ev } } }),
    },
  ];
}

function flat({ reading, lights, map, setup }: Stand): Finding[] {
  const ratio = reading?.ratio?.value;
  if (ratio === undefined || !(ratio < FLAT_RATIO) || !reading?.features) return [];
  // who gives the shadow side most, but for the key, comes down
  const most = reading
    .ratio!.lights.filter((l) => l.id !== reading.key?.id && !setup.lights.items[l.id]?.locked)
    .sort((a, b) => b.shadow - a.shadow)[0];
  const found = most && placeRatio(map, reading.features, lights, most.id, 2);
  const light = most && setup.lights.items[most.id];
  return [
    {
      id: 'flat ratio',
      kind: 'flat ratio',
      measure: Math.log2(ratio),
      unit: 'stops',
      limit: { at: 'least', value: Math.log2(FLAT_RATIO) },
      ...(found?.reached && light
        ? { light: most.id, mend: lightPatch(most.id, { stops: round(clamp(light.stops + found.stops, LIMITS.stops), 2) }) }
        : {}),
    },
  ];
}

function colours(stand: Stand): Finding[] {
  const ratio = stand.reading?.ratio;
  if (!ratio) return [];
  const sum = { lit: 0, shadow: 0 };
  for (const l of ratio.lights) {
    sum.lit += l.lit;
    sum.shadow += l.shadow;
  }
  return on(stand).flatMap(([id, light]): Finding[] => {
    const own = ratio.lights.find((l) => l.id === id);
    // only who does much to one side of the face colours it
    if (!own || Math.max(own.lit / Math.max(sum.lit, 1e-9), own.shadow / Math.max(sum.shadow, 1e-9)) < 0.3) return [];
    if (light.picked.strength === 0 && light.gel === '') return [];
    const colour = lightColour(light),
      plain = lightColour({ ...light, picked: { ...light.picked, strength: 0 }, gel: '' });
    const level = (c: readonly number[]) =>
      c.map((v) => (0.4 * v) / Math.max(luminance(c[0]!, c[1]!, c[2]!), 1e-9)) as [number, number, number];
    const measure = colourDifference(level(colour), level(plain));
    if (measure <= STRONG) return [];
    const change: Patch = light.gel === '' ? { picked: { strength: round(light.picked.strength / 2, 3) } } : { gel: '' };
    return [
      {
        id: `strong colour ${id}`,
        kind: 'strong colour',
        light: id,
        measure,
        unit: 'ΔE',
        limit: { at: 'most', value: STRONG },
        ...(light.locked ? {} : { mend: lightPatch(id, change) }),
      },
    ];
  });
}

function front({ reading, setup, cameraAzimuth }: Stand): Finding[] {
  const key = reading?.key;
  if (!key || named(reading.byKey)?.pattern !== 'flat') return [];
  const measure = Math.abs(key.azimuth - cameraAzimuth);
  if (measure > FRONT) return [];
  const light = setup.lights.items[key.id];
  const can = light && 'place' in light && !light.locked;
  return [
    {
      id: 'front',
      kind: 'front',
      light: key.id,
      measure,
      unit: '°',
      limit: { at: 'least', value: FRONT },
      ...(can ? { ask: { pattern: 'loop', from: cameraAzimuth > 0 ? 'right' : 'left' } } : {}),
    },
  ];
}
