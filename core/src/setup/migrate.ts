// Documents of older versions, brought up to date step by step. Nothing is lost: each step only adds what was not there.
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
  props: d['props'] ?? { order: [], items: {} },
  haze: d['haze'] ?? { ...NO_HAZE },
  lights: eachItem(d['lights'], { volume: 1 }),
  look: isBag(d['look']) ? { ...LOOK_DEFAULTS, ...d['look'] } : d['look'],
});

/** Brings a document of an older version up to date; anything else is answered as it is, for the schema to judge. */
export function migrateSetup(value: unknown): unknown {
  return isBag(value) && value['schemaVersion'] === 1 ? toVersion2(value) : value;
}
