// Documents of older versions, brought up to date step by step. Nothing is lost: each step only adds what was not there.
import { EFFICACY, FLAT_DEFAULTS, LIGHT_DEFAULTS, PLACED_DEFAULTS } from './lights.ts';
import type { Role } from './light-schema.ts';
import { applyPatch } from './patch.ts';
import { nameOfRef, refOfName, type CalledObjects } from './object-ref.ts';
import { isRank, orderOf, type Collection } from './rank.ts';
import type { Camera, Plate, Setup, StageShape } from './schema.ts';
import { generateKeyBetween } from 'fractional-indexing';

type Bag = { [key: string]: unknown };

const isBag = (v: unknown): v is Bag => typeof v === 'object' && v !== null && !Array.isArray(v);

/** What version 2 added: materials, things on the stage, depth of field, haze, share of the haze, a richer look. */
export const LOOK_DEFAULTS = { white: 6500, contrast: 1, glare: 0, fringe: 0, vignette: 0, grain: 0, smooth: 1 } as const;
export const LENS_OFF = { fNumber: 0, focus: 2.5 } as const;
export const NO_HAZE = { density: 0, anisotropy: 0.3 } as const;

function eachItem(collection: unknown, add: Bag): unknown {
  if (!isBag(collection) || !isBag(collection['items'])) return collection;
  const items = Object.fromEntries(Object.entries(collection['items']).map(([k, v]) => [k, isBag(v) ? { ...add, ...v } : v]));
  return { ...collection, items };
}

const toVersion2 = (d: Bag): Bag => ({
  ...d,
  schemaVersion: 2,
  subjects: eachItem(d['subjects'], { materials: {} }),
  camera: isBag(d['camera']) ? { lens: { ...LENS_OFF }, ...d['camera'] } : d['camera'],
  props: d['props'] ?? { items: {} },
  haze: d['haze'] ?? { ...NO_HAZE },
  lights: eachItem(d['lights'], { volume: 1 }),
  look: isBag(d['look']) ? { ...LOOK_DEFAULTS, ...d['look'] } : d['look'],
});

/** Roles by the words that lights used to be named with. */
const ROLE_WORDS: [RegExp, Role][] = [
  [/key/i, 'key'],
  [/fill/i, 'fill'],
  [/rim|back ?light/i, 'rim'],
  [/hair/i, 'hair'],
  [/kick/i, 'kick'],
  [/eye/i, 'eye'],
  [/wall|background|backdrop/i, 'background'],
];

/** What version 3 added to every light: role, colour beyond the temperature, what shapes it; and flags. */
function lightToVersion3(light: unknown): unknown {
  if (!isBag(light)) return light;
  const { kind, name } = light;
  const role = kind === 'dome' ? 'dome' : (ROLE_WORDS.find(([word]) => word.test(String(name)))?.[1] ?? 'accent');
  const held = isBag(light['output']) ? light['output']['held'] : undefined;
  const unit = kind === 'glow' ? 'relative' : held === 'flux' ? 'lm' : 'cd/m²';
  const share = (key: string) => (typeof light[key] === 'number' ? Math.min(4, light[key]) : light[key]);
  return {
    ...LIGHT_DEFAULTS,
    ...(kind === 'rectangle' ? { ...PLACED_DEFAULTS, ...FLAT_DEFAULTS } : {}),
    ...(kind === 'dome' ? { fill: { kind: 'even' }, bearing: 0, tilt: 0 } : {}),
    ...(kind === 'glow' ? { seen: { camera: true, mirror: true } } : {}),
    role,
    ...light,
    diffuse: share('diffuse'),
    specular: share('specular'),
    volume: share('volume'),
    output: isBag(light['output']) ? { unit, efficacy: EFFICACY, ...light['output'] } : light['output'],
  };
}

function toVersion3(d: Bag): Bag {
  const lights = d['lights'];
  const items = isBag(lights) && isBag(lights['items']) ? lights['items'] : undefined;
  return {
    ...d,
    schemaVersion: 3,
    lights: items
      ? { ...(lights as Bag), items: Object.fromEntries(Object.entries(items).map(([k, v]) => [k, lightToVersion3(v)])) }
      : lights,
    flags: d['flags'] ?? { items: {} },
  };
}

/** What version 4 added: stages of more kinds, plates, what cameras are called, how large their sensors are, cameras that are kept. */
export const STAGE_DEFAULTS = {
  width: 9,
  front: 4,
  back: 1.9,
  height: 4.2,
  fillet: 0.9,
  floor: 0,
  colour: [0.11, 0.104, 0.098],
  frontColour: [0.7, 0.69, 0.67],
  roughness: 0.85,
} satisfies Omit<StageShape, 'kind'>;
export const NO_PLATE = { kind: 'none', from: [0.35, 0.35, 0.36], to: [0.08, 0.08, 0.09], centre: [0.5, 0.45], reach: 0.8 } satisfies Plate;
export const CAMERA_DEFAULTS = { name: 'Camera', sensor: 24, roll: 0, locked: false } satisfies Partial<Camera>;

const toVersion4 = (d: Bag): Bag => ({
  ...d,
  schemaVersion: 4,
  stage: isBag(d['stage']) ? { ...STAGE_DEFAULTS, ...d['stage'] } : d['stage'],
  camera: isBag(d['camera']) ? { ...CAMERA_DEFAULTS, ...d['camera'] } : d['camera'],
  cameras: d['cameras'] ?? { items: {} },
  plate: d['plate'] ?? { ...NO_PLATE },
});

/** Collections of a setup whose items have an order. */
const COLLECTIONS = ['subjects', 'cameras', 'props', 'lights', 'flags'] as const;

/** What version 5 changed: order is a rank in each item instead of a list beside them. Ranks that are there and fit the list stay. */
function ranked(collection: unknown): unknown {
  if (!isBag(collection) || !isBag(collection['items'])) return collection;
  const items = collection['items'];
  const listed = Array.isArray(collection['order'])
    ? (collection['order'] as unknown[]).map(String).filter((id) => Object.hasOwn(items, id))
    : [];
  const ids = [...new Set([...listed, ...Object.keys(items)])];
  const rankOf = (id: string): string | undefined => {
    const item = items[id];
    return isBag(item) && typeof item['rank'] === 'string' && isRank(item['rank']) ? item['rank'] : undefined;
  };
  const out: Bag = {};
  let last: string | null = null;
  ids.forEach((id, i) => {
    const own = rankOf(id);
    let rank: string = own !== undefined && (last === null || own > last) ? own : '';
    if (rank === '') {
      const before = last;
      const next =
        ids
          .slice(i + 1)
          .map(rankOf)
          .find((r) => r !== undefined && (before === null || r > before)) ?? null;
      rank = generateKeyBetween(before, next);
    }
    last = rank;
    const item = items[id];
    out[id] = isBag(item) ? { ...item, rank } : item;
  });
  const { order: _, ...rest } = collection;
  return { ...rest, items: out };
}

const toVersion5 = (d: Bag): Bag => ({
  ...d,
  schemaVersion: 5,
  ...Object.fromEntries(COLLECTIONS.flatMap((name) => (name in d ? [[name, ranked(d[name])]] : []))),
});

/** Names of what could be called by its name, as far as the document is in order. */
function calledObjects(d: Bag): CalledObjects {
  const of = (collection: unknown) => ({
    items: Object.fromEntries(
      Object.entries(isBag(collection) && isBag(collection['items']) ? collection['items'] : {}).flatMap(([id, item]) =>
        isBag(item) && typeof item['name'] === 'string' && typeof item['rank'] === 'string'
          ? [[id, { name: item['name'], rank: item['rank'] }]]
          : [],
      ),
    ),
  });
  return { subjects: of(d['subjects']), props: of(d['props']) };
}

/** The lights with what the glowing ones name put in other words. */
function renamed(lights: unknown, word: (object: string) => string): unknown {
  if (!isBag(lights) || !isBag(lights['items'])) return lights;
  const items = Object.entries(lights['items']).map(([id, light]) => [
    id,
    isBag(light) && light['kind'] === 'object' && typeof light['object'] === 'string' ? { ...light, object: word(light['object']) } : light,
  ]);
  return { ...lights, items: Object.fromEntries(items) };
}

/** What version 6 changed: objects are named by their ids. */
function toVersion6(d: Bag): Bag {
  const called = calledObjects(d);
  return { ...d, schemaVersion: 6, lights: renamed(d['lights'], (name) => refOfName(called, name)) };
}

const STEPS = [toVersion2, toVersion3, toVersion4, toVersion5, toVersion6];

/** The way back, as far as changes that were made for an older version may need it; the last step first. */
const BACK: { version: number; step: (d: Bag) => Bag }[] = [
  {
    version: 5,
    step: (d) => {
      const called = calledObjects(d);
      return { ...d, schemaVersion: 5, lights: renamed(d['lights'], (ref) => nameOfRef(called, ref)) };
    },
  },
  {
    version: 4,
    step: (d) => ({
      ...d,
      schemaVersion: 4,
      ...Object.fromEntries(COLLECTIONS.map((name) => [name, { order: orderOf(d[name] as Collection), ...(d[name] as Bag) }])),
    }),
  },
];

/** Brings a document of an older version up to date; anything else is answered as it is, for the schema to judge. */
export function migrateSetup(value: unknown): unknown {
  let document = value;
  for (const [i, step] of STEPS.entries()) if (isBag(document) && document['schemaVersion'] === i + 1) document = step(document);
  return document;
}

/**
 * What a change that was made for an older version means today: it is put into the document as that was then.
 * @returns a document of today with the change in it, for the schema to judge
 */
export function applyVersion(document: Setup, patch: unknown, version: number): unknown {
  const steps = BACK.filter((back) => back.version >= version);
  const older = steps.reduce((d, { step }) => step(d), document as unknown as Bag);
  return migrateSetup(applyPatch(older as Setup, patch));
}
