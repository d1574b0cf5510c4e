// Several lights in hand: what is done to one is done to all, each from where it stands, so that ratios stay.
import { clamp, round } from '../math/index.ts';
import { LIMITS, wrapDegrees, type Light, type Limits, type Patch, type Setup } from '../setup/index.ts';

/** How a number of a light goes along when another's changes: by a difference, or by a factor. */
type Going = { by: 'sum' | 'factor'; limits: Limits };

const GOING: Record<string, Going> = {
  stops: { by: 'sum', limits: LIMITS.stops },
  tint: { by: 'sum', limits: LIMITS.tint },
  scrims: { by: 'sum', limits: LIMITS.scrims },
  kelvin: { by: 'factor', limits: LIMITS.kelvin },
  diffuse: { by: 'factor', limits: LIMITS.share },
  specular: { by: 'factor', limits: LIMITS.share },
  volume: { by: 'factor', limits: LIMITS.share },
  width: { by: 'factor', limits: LIMITS.size },
  height: { by: 'factor', limits: LIMITS.size },
  length: { by: 'factor', limits: LIMITS.size },
  diameter: { by: 'factor', limits: LIMITS.size },
  roll: { by: 'sum', limits: LIMITS.turn },
  angle: { by: 'factor', limits: LIMITS.beam },
  'sun angle': { by: 'factor', limits: LIMITS.sunDisk },
  'output.value': { by: 'factor', limits: LIMITS.output },
  'place.azimuth': { by: 'sum', limits: LIMITS.turn },
  'place.elevation': { by: 'sum', limits: LIMITS.elevation },
  'place.distance': { by: 'factor', limits: LIMITS.distance },
  'beam.angle': { by: 'factor', limits: LIMITS.grid },
  'picked.strength': { by: 'sum', limits: LIMITS.unit },
  'shadow.density': { by: 'sum', limits: LIMITS.unit },
  bearing: { by: 'sum', limits: LIMITS.turn },
  tilt: { by: 'sum', limits: LIMITS.elevation },
};

/** Around a circle there is no end. */
const ROUND = new Set(['place.azimuth', 'bearing', 'roll']);

const isBag = (v: unknown): v is { [key: string]: unknown } => typeof v === 'object' && v !== null && !Array.isArray(v);

/** What another light's number becomes when the first's goes from one value to another. */
function gone(path: string, kind: unknown, from: number, to: number, own: number): number {
  const going = GOING[`${String(kind)} ${path}`] ?? GOING[path];
  if (!going) return to;
  // nothing cannot be multiplied: what the first has is set
  const next = going.by === 'sum' ? own + (to - from) : from === 0 ? to : own * (to / from);
  const kept = ROUND.has(path) ? wrapDegrees(next) : clamp(next, going.limits);
  return path === 'scrims' ? Math.round(kept) : round(kept, 5);
}

/** A change that was meant for one light, as another goes along with it; what it does not have is left out. */
function along(change: Patch, first: unknown, other: unknown, path = ''): Patch {
  const out: Patch = {};
  for (const [key, value] of Object.entries(change)) {
    const at = path ? `${path}.${key}` : key;
    if (!isBag(other) || (!(key in other) && at !== 'where')) continue;
    const from = isBag(first) ? first[key] : undefined,
      own = other[key];
    if (isBag(value) && isBag(own)) {
      const inner = along(value as Patch, from, own, at);
      if (Object.keys(inner).length) out[key] = inner;
    } else if (typeof value === 'number' && typeof from === 'number' && typeof own === 'number')
      out[key] = gone(at, other['kind'], from, value, own);
    else out[key] = value;
  }
  return out;
}

/** A light that is locked stays where it is. */
const unmoved = (light: Light, change: Patch): Patch => {
  if (!light.locked) return change;
  const { place: _, roll: _roll, ...rest } = change;
  return rest;
};

/**
 * A change of the first of several lights, and of the others along with it: levels by as many stops, sizes and distances by the same factor,
 * places by the same turn; what is not a number (a gel, a colour) is set alike.
 * @example togetherPatch(setup, ['key', 'rim'], { stops: 1 }) // the rim a stop up as well, if the key went from 0 to 1
 */
export function togetherPatch(setup: Setup, ids: readonly string[], change: Patch): Patch {
  const [first] = ids;
  const leader = first === undefined ? undefined : setup.lights.items[first];
  if (first === undefined || !leader) return {};
  const items: Patch = {};
  for (const id of ids) {
    const light = setup.lights.items[id];
    const patch = light && (id === first ? along(change, undefined, light) : unmoved(light, along(change, leader, light)));
    if (patch && Object.keys(patch).length) items[id] = patch;
  }
  return Object.keys(items).length ? { lights: { items } } : {};
}
