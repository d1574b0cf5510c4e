// What jumps between two pictures that follow each other, by what was read of their faces.
import type { Pattern } from '../face/index.ts';
import { atOneLevel, colourDifference, formatStops, luminance } from '../photometry/index.ts';
import { wrapDegrees, type KeptReading, type Tolerance } from '../setup/index.ts';
import { patternName } from '../words/index.ts';

export type JumpKind = 'direction' | 'pattern' | 'ratio' | 'exposure' | 'colour' | 'edge' | 'ground';

/** Something that differs by more than it may. */
export interface Jump {
  kind: JumpKind;
  words: string;
  /** By how much it differs over what is allowed: 1 is just at it. */
  over: number;
}

const stops = (a: number, b: number): number => Math.log2(b / a);
const named = (pattern: string | undefined): string =>
  pattern === undefined ? 'nothing' : (patternName(pattern as Pattern) ?? pattern).toLowerCase();

/**
 * Jumps from one reading to the next, the largest first. What only one of them has read is no jump but for the pattern: a face that loses it jumps.
 * The angle between two directions is that of the vectors; colour is CIEDE2000 at one luminance (Sharma, Wu, Dalal 2005), the edge the share of the
 * silhouette that stands off the ground. Which differences are too many is common practice and set by the sequence.
 */
export function jumpsBetween(a: KeptReading, b: KeptReading, may: Tolerance): Jump[] {
  const jumps: Jump[] = [];
  const say = (kind: JumpKind, by: number, most: number, words: string) => {
    if (Math.abs(by) > most) jumps.push({ kind, words, over: Math.abs(by) / most });
  };
  if (a.key && b.key) {
    const by = angleBetween(a.key, b.key);
    const across = wrapDegrees(b.key.azimuth - a.key.azimuth),
      up = b.key.elevation - a.key.elevation;
    const where = [
      ...(Math.abs(across) >= 1 ? [`${Math.abs(Math.round(across))}° to the ${across > 0 ? 'left' : 'right'}`] : []),
      ...(Math.abs(up) >= 1 ? [`${Math.abs(Math.round(up))}° ${up > 0 ? 'higher' : 'lower'}`] : []),
    ];
    say('direction', by, may.direction, `the key comes from ${where.join(', ') || 'elsewhere'}`);
  }
  if (a.pattern !== b.pattern) jumps.push({ kind: 'pattern', words: `${named(a.pattern)} becomes ${named(b.pattern)}`, over: 2 });
  if (a.ratio !== undefined && b.ratio !== undefined) {
    const [from, to] = [a.ratio, b.ratio].map((r) => Math.min(r, MOST_RATIO)) as [number, number];
    say('ratio', stops(from, to), may.stops, `ratio ${ratioSaid(from)} becomes ${ratioSaid(to)}`);
  }
  if (a.face && b.face) {
    const by = stops(Math.max(luminance(...a.face), 1e-6), Math.max(luminance(...b.face), 1e-6));
    say('exposure', by, may.stops, `the face is ${formatStops(Math.abs(by)).replace('+', '')} stop ${by > 0 ? 'brighter' : 'darker'}`);
    const colour = colourDifference(atOneLevel(a.face), atOneLevel(b.face)),
      warmer =
        Math.log2(Math.max(b.face[0], 1e-9) / Math.max(b.face[2], 1e-9)) - Math.log2(Math.max(a.face[0], 1e-9) / Math.max(a.face[2], 1e-9));
    say('colour', colour, may.colour, `the face is ${warmer > 0 ? 'warmer' : 'cooler'} (ΔE ${colour.toFixed(1)})`);
  }
  for (const side of ['left', 'right'] as const) {
    const from = a.edges?.[side],
      to = b.edges?.[side];
    if (from !== undefined && to !== undefined)
      say('edge', to - from, EDGE, `the edge at the ${side} is ${to > from ? 'there' : 'gone'} (${percent(from)} to ${percent(to)})`);
  }
  if (a.separation !== undefined && b.separation !== undefined)
    say(
      'ground',
      b.separation - a.separation,
      may.stops * 2,
      `against the ground ${formatStops(a.separation)} becomes ${formatStops(b.separation)} stop`,
    );
  return jumps.sort((x, y) => y.over - x.over);
}

/** Share of a silhouette's side by which an edge comes or goes. Common practice, no source. */
const EDGE = 0.35;
/** Ratios beyond are of a face that is lit from one side alone, and all the same. Common practice, no source. */
export const MOST_RATIO = 20;
const ratioSaid = (r: number): string => (r < MOST_RATIO ? `${r.toFixed(1)} : 1` : `over ${MOST_RATIO} : 1`);
const percent = (v: number): string => `${Math.round(v * 100)} %`;

/** Angle between two directions, degrees. */
function angleBetween(a: { azimuth: number; elevation: number }, b: { azimuth: number; elevation: number }): number {
  const [p, q] = [a, b].map(({ azimuth, elevation }) => {
    const [az, el] = [azimuth, elevation].map((v) => (v * Math.PI) / 180) as [number, number];
    return [Math.cos(el) * Math.sin(az), Math.sin(el), Math.cos(el) * Math.cos(az)];
  }) as [number[], number[]];
  const dot = p.reduce((sum, v, i) => sum + v * q[i]!, 0);
  return (Math.acos(Math.min(1, Math.max(-1, dot))) * 180) / Math.PI;
}
