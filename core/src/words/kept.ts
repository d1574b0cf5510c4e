// A reading for keeping: what it says of this moment, in words and numbers that need no map.
import type { KeptReading, Setup } from '../setup/index.ts';
import { named, type Reading, type Seen } from '../face/index.ts';
import { hourOf } from './reading.ts';

/** What is kept of a reading, and of what the picture shows of the face where that was measured. Lights get the names that they have in the setup. */
export function keptReading({ lights }: Pick<Setup, 'lights'>, reading: Reading, seen?: Seen): KeptReading {
  const nameOf = (id: string): string => lights.items[id]?.name ?? id;
  const { key, ratio, features, side } = reading;
  const pattern = named(reading.byKey)?.pattern,
    all = named(reading.byAll)?.pattern;
  const hours = new Map<string, { light: string; hour: number }>();
  for (const c of reading.catchlights)
    if (c.seen) hours.set(`${c.light} ${hourOf(c.clock)}`, { light: nameOf(c.light), hour: hourOf(c.clock) });
  return {
    ...(pattern ? { pattern } : {}),
    ...(all ? { all } : {}),
    ...(key ? { key: { name: nameOf(key.id), azimuth: key.azimuth, elevation: key.elevation } } : {}),
    ...(ratio && Number.isFinite(ratio.value) && ratio.value > 0 ? { ratio: ratio.value } : {}),
    ...(features ? { lit: Math.min(1, Math.max(0, features.lit)) } : {}),
    ...(side ? { side } : {}),
    catchlights: [...hours.values()],
    ...(seen ? { clipped: seen.clipped, crushed: seen.crushed } : {}),
    ...(seen?.face ? { face: seen.face.map((v) => Math.max(0, v)) as typeof seen.face } : {}),
    ...(seen && Object.keys(seen.coverage).length ? { edges: seen.coverage } : {}),
    ...(seen?.separation !== undefined ? { separation: seen.separation } : {}),
  };
}
