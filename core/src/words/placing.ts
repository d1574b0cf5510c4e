// What a placing did, in sentences.
import type { Reason } from '../face/index.ts';
import { reasonWords } from './reading.ts';

const degrees = (v: number): string => `${Math.round(Math.abs(v))}°`;

/** Where a light was put, and what it draws there; or what keeps it from that. */
export function placedWords(
  name: string,
  wished: string,
  placed: { azimuth: number; elevation: number; reached: boolean; lacks?: Reason; instead?: string },
): string {
  const { azimuth, elevation, reached, lacks, instead } = placed;
  const round = Math.abs(azimuth) < 1 ? 'straight in front' : `${degrees(azimuth)} to the figure’s ${azimuth > 0 ? 'left' : 'right'}`;
  const where = `${name} stands ${round}, ${degrees(elevation)} ${elevation < 0 ? 'down' : 'up'}`;
  if (reached) return `${wished}: ${where}.`;
  return `${wished} is not to be had on this face by ${name}${instead ? `: it draws ${instead.toLowerCase()} at the best place` : ''}${lacks ? `; ${reasonWords(lacks)}` : ''}. ${where}.`;
}

/** What a change of level did to the ratio. */
export function ratioWords(name: string, wished: number, stops: number, value: number, between?: readonly [number, number]): string {
  const said = `${name} ${stops < 0 ? '−' : '+'}${Math.abs(stops).toFixed(1)} stops: ${value.toFixed(1)} : 1.`;
  return between
    ? `${wished} : 1 is out of reach of ${name}, which can do ${between[0].toFixed(1)} to ${between[1].toFixed(1)} : 1. ${said}`
    : said;
}
