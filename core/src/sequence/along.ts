import { isPlaced, LIMITS, orderOf, valueAt, type Patch, type Setup } from '../setup/index.ts';

/** A value that may be planned along a sequence. */
export interface AlongValue {
  /** Where it stands in a setup, joined by “/”. */
  path: string;
  words: string;
  unit: string;
  least: number;
  most: number;
  /** What a step of the hand changes, and what values are rounded to. */
  step: number;
  /** How it goes evenly from one value to another: by the value itself, by its reciprocal (colour temperature), or round a circle. */
  goes: 'evenly' | 'by mired' | 'round';
}

const OF_LIGHTS = [
  { field: 'stops', words: 'level', unit: 'stops', limits: LIMITS.stops, step: 0.1, goes: 'evenly' },
  { field: 'kelvin', words: 'colour', unit: 'K', limits: LIMITS.kelvin, step: 50, goes: 'by mired' },
] as const;
const OF_PLACED = [
  { field: 'place/azimuth', words: 'round', unit: '°', limits: LIMITS.turn, step: 1, goes: 'round' },
  { field: 'place/elevation', words: 'up', unit: '°', limits: LIMITS.elevation, step: 1, goes: 'evenly' },
  { field: 'place/distance', words: 'away', unit: 'm', limits: LIMITS.distance, step: 0.01, goes: 'evenly' },
] as const;

/** What of a sequence's light may be planned along it: levels, colours and places of its lights, and the exposure. */
export function alongValues(setup: Setup): AlongValue[] {
  const lights = orderOf(setup.lights).flatMap((id) => {
    const light = setup.lights.items[id]!;
    const fields = isPlaced(light) ? [...OF_LIGHTS, ...OF_PLACED] : OF_LIGHTS;
    return fields.map(({ field, words, limits: [least, most], ...more }) => ({
      path: `lights/items/${id}/${field}`,
      words: `${light.name}: ${words}`,
      least,
      most,
      ...more,
    }));
  });
  const [least, most] = LIMITS.ev;
  return [...lights, { path: 'camera/ev', words: 'Exposure', unit: 'EV', least, most, step: 0.1, goes: 'evenly' }];
}

/** The number at a place of a setup; nothing where there is none, as in a shot whose light is gone. */
export function numberAt(setup: Setup, path: string): number | undefined {
  const value = valueAt(setup, path.split('/'));
  return typeof value === 'number' ? value : undefined;
}

/** The patch that gives the place another number. */
export const numberPatch = (path: string, value: number): Patch =>
  path.split('/').reduceRight<Patch | number>((inner, key) => ({ [key]: inner }), value) as Patch;

/** A value within its limits, rounded to its step. */
export function alongRounded({ least, most, step }: Pick<AlongValue, 'least' | 'most' | 'step'>, value: number): number {
  const steps = Math.round(value / step) * step;
  return Number(Math.min(most, Math.max(least, steps)).toFixed(4));
}

/** How a change is spread: the same each time, or slowly at both ends (Hermite's cubic 3t² − 2t³). */
export const EASES = ['even', 'soft'] as const;
export type Ease = (typeof EASES)[number];
const eased = (t: number, ease: Ease): number => (ease === 'even' ? t : t * t * (3 - 2 * t));

const MIRED = 1e6;

/**
 * The values of a row of shots from the first one's to the last one's.
 * Colour temperatures go evenly in mired, as filters that shift them do: equal steps look about alike (common practice, no source). Angles go the shorter way round.
 * @param count of shots, the first and the last among them; 1: only the first
 * @example ramp({ goes: 'evenly', least: 0, most: 9, step: 1 }, 0, 4, 3) // [0, 2, 4]
 */
export function ramp(
  value: Pick<AlongValue, 'goes' | 'least' | 'most' | 'step'>,
  from: number,
  to: number,
  count: number,
  ease: Ease = 'even',
): number[] {
  const round = (v: number) => alongRounded(value, v);
  return Array.from({ length: count }, (_, i) => {
    const t = count < 2 ? 0 : eased(i / (count - 1), ease);
    if (value.goes === 'by mired') return round(MIRED / (MIRED / from + t * (MIRED / to - MIRED / from)));
    if (value.goes === 'evenly') return round(from + t * (to - from));
    const way = ((((to - from + 180) % 360) + 360) % 360) - 180,
      at = from + t * way;
    return round(((((at + 180) % 360) + 360) % 360) - 180);
  });
}
