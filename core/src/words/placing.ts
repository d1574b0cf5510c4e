// What a placing did, in sentences.
import type { Catchlight, Pattern, Reason } from '../face/index.ts';
import type { Target } from '../setup/index.ts';
import { blockerWords, hourOf, patternName, reasonWords } from './reading.ts';

const degrees = (v: number): string => `${Math.round(Math.abs(v))}°`;

/** Where a light was put, and what it draws there; or what keeps it from that. */
export function placedWords(
  name: string,
  wished: string,
  placed: {
    azimuth: number;
    elevation: number;
    reached: boolean;
    lacks?: Reason;
    instead?: string;
    margin?: { degrees: number; reached: boolean; becomes?: string };
  },
): string {
  const { azimuth, elevation, reached, lacks, instead, margin } = placed;
  const round = Math.abs(azimuth) < 1 ? 'straight in front' : `${degrees(azimuth)} to the figure’s ${azimuth > 0 ? 'left' : 'right'}`;
  const where = `${name} stands ${round}, ${degrees(elevation)} ${elevation < 0 ? 'down' : 'up'}`;
  if (reached && margin)
    return margin.reached
      ? `${wished}: ${where}. It holds ${margin.degrees}° any way.`
      : `${wished}: ${where}. It does not hold ${margin.degrees}° any way: nearer than that ${margin.becomes ? `it becomes ${margin.becomes.toLowerCase()}` : 'it is lost'}.`;
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

const signed = (v: number, digits = 1): string => `${v < 0 ? '−' : '+'}${Math.abs(v).toFixed(digits)}`;

interface At {
  azimuth: number;
  elevation: number;
}

/** Where a light stands about the head. */
function whereWords(name: string, { azimuth, elevation }: At): string {
  const round = Math.abs(azimuth) < 1 ? 'straight in front' : `${degrees(azimuth)} to the figure’s ${azimuth > 0 ? 'left' : 'right'}`;
  return `${name} stands ${round}, ${degrees(elevation)} ${elevation < 0 ? 'down' : 'up'}`;
}

const hiddenWords = ({ eye, hidden }: Catchlight): string =>
  `the ${eye} eye does not show it${hidden ? `, hidden by ${blockerWords(hidden)}` : ''}`;

/** What placing a catchlight did. */
export function catchlightWords(name: string, clock: number, placed: At & { found: readonly Catchlight[]; reached: boolean }): string {
  const { found, reached } = placed;
  const said = found.map((c) => (c.seen ? `${c.eye} eye ${hourOf(c.clock)} o’clock` : hiddenWords(c))).join(', ');
  return `${reached ? `Catchlight at ${hourOf(clock)} o’clock` : `${hourOf(clock)} o’clock is not to be had in full`}: ${said}. ${whereWords(name, placed)}.`;
}

/** Where a light is mirrored at a place. */
export const mirrorWords = (name: string, at: At): string => `The camera sees ${name} mirrored there. ${whereWords(name, at)}.`;

/** What the light of a shadow is. */
export const shadowWords = (name: string, at: At & { distance?: number }, miss?: number): string =>
  `${whereWords(name, at)}${at.distance === undefined ? '' : `, ${at.distance.toFixed(2)} m away`}, where that shadow comes from.${
    miss === undefined
      ? ' A second pair of points tells its distance too.'
      : miss > 0.02
        ? ` The two lines pass each other by ${(miss * 100).toFixed(0)} cm.`
        : ''
  }`;

/** What a rim does. */
export const rimWords = (name: string, rim: At & { edge: number; spill: number }): string =>
  `${whereWords(name, rim)}: the edge gets ${Math.round(rim.edge * 100)} % of what it could, ${Math.round(rim.spill * 100)} % of the face’s front is lit by it.`;

/** What took a source out of the picture. */
export const frameWords = (name: string, factor: number, was: number): string =>
  factor === 1
    ? `No distance takes ${name} out of the picture: the camera does not see its source any more. Its light stays.`
    : `${name} stands ${factor.toFixed(2)} times as far and is as much larger: out of the picture. At the head it was ${((was - 1) * 100).toFixed(1).replace('-', '−')} % off, and is made up for.`;

export const pairWords = (first: string, second: string, across: 'sides' | 'heights', alike: boolean): string =>
  `${second} is the pair of ${first} on the other ${across === 'sides' ? 'side' : 'height'}, as far and as bright.${alike ? '' : ' They are of different kinds: size and output stay as they are.'}`;

/** What balancing to targets did. */
export function targetsWords(
  nameOf: (id: string) => string,
  stops: Record<string, number>,
  there: Partial<Record<Target, { stops: number; off: number }>>,
  reached: boolean,
): string {
  const changed = Object.entries(stops).filter(([, s]) => Math.abs(s) >= 0.05);
  const levels = changed.map(([id, s]) => (Number.isFinite(s) ? `${nameOf(id)} ${signed(s)}` : `${nameOf(id)} off`)).join(', ');
  const off = Object.entries(there).filter(([, t]) => Math.abs(t.off) >= 0.2);
  return `${levels || 'All levels stay'}.${
    reached
      ? ' All targets are met.'
      : ` Not met: ${off.map(([t, { off: by }]) => `${t} ${signed(by)} st`).join(', ')}: these lights cannot do both.`
  }`;
}

/** How an intention begins on this face. */
export function begunWords(
  brief: { name: string; words: string },
  begun: {
    key: At & { reached: boolean };
    ratio?: { wished: number; value: number; reached: boolean };
    catchlight?: { wished: number; hours: readonly number[] };
    lights: number;
    kept: number;
  },
): string {
  const { key, ratio, catchlight, lights, kept } = begun;
  const said = [
    `${brief.name}: ${brief.words}.`,
    `${whereWords('The key', key)}${key.reached ? '' : ', as near to that as this face lets it'}.`,
  ];
  if (ratio) said.push(`${ratio.value.toFixed(1)} : 1${ratio.reached ? '' : `, ${ratio.wished} : 1 is out of reach of the fill`}.`);
  if (catchlight)
    said.push(
      catchlight.hours.length
        ? `Catchlight at ${[...new Set(catchlight.hours.map(hourOf))].join(' and ')} o’clock.`
        : 'The eyes show no catchlight there.',
    );
  said.push(`${lights} lights${kept ? `; ${kept} that ${kept === 1 ? 'is' : 'are'} locked stay` : ''}.`);
  return said.join(' ');
}

/** By which move a light would come from one direction to another. */
export function moveWords(name: string, from: At, to: At): string {
  const round = Math.round(Math.abs(to.azimuth) - Math.abs(from.azimuth)),
    up = Math.round(to.elevation - from.elevation);
  const crosses = to.azimuth * from.azimuth < 0 && Math.abs(to.azimuth) > 3;
  const said = [
    ...(crosses
      ? ['to the other side of the nose']
      : round === 0
        ? []
        : [`${Math.abs(round)}° ${round > 0 ? 'further round' : 'nearer the nose'}`]),
    ...(up === 0 ? [] : [`${Math.abs(up)}° ${up > 0 ? 'higher' : 'lower'}`]),
  ];
  return said.length ? `${name} ${said.join(' and ')} would do it` : `${name} is all but there`;
}

const metresWords = (v: number): string => (v < 1 ? `${Math.round(v * 100)} cm` : `${Number(v.toFixed(2))} m`);

/** An intention of one's own in a line. */
export function recipeWords(light: {
  key: { pattern: Pattern; width: number; height: number; kelvin: number };
  ratio?: number;
  fill?: unknown;
  rim?: unknown;
  kick?: unknown;
  eye?: { clock: number };
  backdrop?: unknown;
}): string {
  const { key, ratio, fill, rim, kick, eye, backdrop } = light;
  const said = [
    `${patternName(key.pattern).toLowerCase()} by ${metresWords(key.width)} × ${metresWords(key.height)} at ${Math.round(key.kelvin)} K`,
    ...(ratio ? [`${Number(ratio.toFixed(1))} : 1`] : fill ? ['filled'] : ['no fill']),
    ...(rim && kick ? ['an edge on both sides'] : rim ? ['a rim'] : kick ? ['a kick'] : []),
    ...(eye ? [`catchlight at ${hourOf(eye.clock)} o’clock`] : []),
    ...(backdrop ? ['light on the backdrop'] : []),
  ];
  return said.join(', ');
}
