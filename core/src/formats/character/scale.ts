import type { Vec3 } from '../../math/index.ts';
import type { ImportWarning } from '../../scene/index.ts';

/**
 * A unit that a file may have been made in, what its numbers must be multiplied by to be metres, and how much less usual it is than centimetres; common
 * practice, no source.
 */
const UNITS: [unit: string, factor: number, rare: number][] = [
  ['centimetres', 0.01, 0],
  ['millimetres', 0.001, 0.1],
  ['inches', 0.0254, 1],
  ['feet', 0.3048, 1.2],
  ['decimetres', 0.1, 1.5],
];

/** Heights that figures and busts have, metres; common practice, no source: a bust is a hand to a metre, a figure up to 2.6 m. */
const LEAST = 0.35,
  MOST = 2.6;

export interface ScaleGuess {
  unit: string;
  factor: number;
  /** Height that it would stand, metres. */
  height: number;
}

/** Heights that heads have, metres, and the least width and depth of one for its height; common practice, no source. */
const HEAD = [0.12, LEAST] as const,
  HEAD_WIDTH = 0.5,
  HEAD_DEPTH = 0.25;
/** Heights of heads and busts that are nothing out of the ordinary, and of who stands. */
const CHUNKY = [0.18, 0.8] as const,
  PERSON = 1.7;

/** Whether something is as large as a head and shaped like one: a body of that height would be far narrower. */
const isHead = (height: number, width: number): boolean => height >= HEAD[0] && height < HEAD[1] && width >= HEAD_WIDTH * height;

/**
 * What scale a figure of a height in file units may want, the likeliest first; nothing when it is as tall as people are, or as a head
 * alone when it is as wide as one.
 * @param width, depth in file units, where they are known: a head, a mask or a bust is wide and deep for its height, a figure is not
 */
export function guessScale(height: number, width = 0, depth = 0): ScaleGuess[] {
  const most = Math.max(width, depth),
    chunky = most >= HEAD_WIDTH * height && Math.min(width, depth) >= HEAD_DEPTH * height;
  if (!(height > 0) || (height >= LEAST && height <= MOST) || isHead(height, most)) return [];
  const fits = UNITS.map(([unit, factor, rare]) => ({ unit, factor, rare, height: height * factor })).filter(
    (g) => (g.height >= LEAST && g.height <= MOST) || isHead(g.height, most * g.factor),
  );
  const off = ({ height: tall, rare }: (typeof fits)[0]): number =>
    rare + (chunky ? Math.abs(Math.log(tall / Math.min(CHUNKY[1], Math.max(CHUNKY[0], tall)))) : 1.5 * Math.abs(Math.log(tall / PERSON)));
  if (fits.length) return fits.sort((a, b) => off(a) - off(b)).map(({ unit, factor, height: tall }) => ({ unit, factor, height: tall }));
  const factor = Number((PERSON / height).toPrecision(3));
  return [{ unit: 'no usual unit', factor, height: height * factor }];
}

/** What is worth saying about a file's size and where it stands. */
export function scaleWarnings({ min, max }: { min: Vec3; max: Vec3 }): ImportWarning[] {
  const height = max[1] - min[1];
  const out: ImportWarning[] = [];
  const [guess] = guessScale(height, max[0] - min[0], max[2] - min[2]);
  if (guess && (height > 10 || height < 0.1)) {
    const tall = height >= 1 ? `${height.toFixed(1)} m tall` : `only ${(height * 1000).toFixed(1)} mm tall`;
    out.push({
      code: 'scale',
      message: `It stands ${tall}. This looks like ${guess.unit}: scaled by ${guess.factor} it would be ${guess.height.toFixed(2)} m.`,
    });
  }
  if (Math.abs(min[1]) > 0.02)
    out.push({
      code: 'floating',
      message: `Its lowest point is ${Math.abs(min[1]).toFixed(2)} m ${min[1] > 0 ? 'above' : 'below'} the floor.`,
    });
  return out;
}
