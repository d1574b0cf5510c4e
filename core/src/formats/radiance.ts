import { FILE_LIMITS } from '../math/index.ts';

/** A picture of light: linear r g b in rows from the top. */
export interface RadiancePicture {
  width: number;
  height: number;
  rgb: Float32Array;
  /** What the artist should know, in words: pixels that were mended, another shape than 2 : 1, layers that were not taken. */
  notes: string[];
}

/** A picture of light that cannot be read, with the reason in words. */
export class RadianceError extends Error {
  constructor(message: string) {
    super(message);
    this.name = 'RadianceError';
  }
}

/** Largest value that one pixel may keep; what is above is taken for infinite. */
const TOP = 1e9;

/**
 * Checks the size that a header tells.
 * @throws RadianceError
 */
export function checkSize(width: number, height: number): void {
  if (!(width >= 1 && height >= 1)) throw new RadianceError(`The picture is ${width} × ${height} pixels; nothing can be in it.`);
  if (width * height > FILE_LIMITS.radiancePixels)
    throw new RadianceError(
      `${width} × ${height} pixels are too many; ${Math.floor(FILE_LIMITS.radiancePixels / 1e6)} million can be read.`,
    );
  if (width * height > LARGE && Math.max(width, height) > LONGEST * Math.min(width, height))
    throw new RadianceError(`${width} × ${height} pixels are a stripe: one side may be ${LONGEST} times as long as the other.`);
}
/** Of pictures with more pixels than this the shape is asked for, and how long one side may be for the other. */
const LARGE = 1e6,
  LONGEST = 64;

/** Share of light in percent, with as many digits as say something. */
const percent = (share: number): string => `${Number((share * 100).toPrecision(2))} %`;

/**
 * Mends what cannot be light and says how much, and what else there is to say: what is infinite becomes as bright as the brightest pixel that is not, what is
 * below 0 or no number becomes 0.
 */
export function mended(width: number, height: number, rgb: Float32Array, notes: string[] = []): RadiancePicture {
  const shape = width !== height * 2 ? [`${width} × ${height} is not 2 : 1; it is stretched over the whole dome.`] : [];
  if (isLight(width * height * 3, rgb)) return { width, height, rgb, notes: [...notes, ...shape] };
  let negative = 0,
    infinite = 0,
    none = 0,
    brightest = 0,
    light = 0,
    added = 0;
  for (let i = 0; i < width * height * 3; i++) {
    const v = rgb[i]!;
    if (!(v <= TOP)) continue;
    if (v < 0) added -= Math.max(v, -TOP);
    else {
      light += v;
      if (v > brightest) brightest = v;
    }
  }
  for (let p = 0; p < width * height; p++) {
    let less = false,
      more = false,
      no = false;
    for (let i = p * 3; i < p * 3 + 3; i++) {
      const v = rgb[i]!;
      if (v >= 0 && v <= TOP) continue;
      if (v > TOP) {
        more = true;
        rgb[i] = brightest;
      } else {
        if (v < 0) less = true;
        else no = true;
        rgb[i] = 0;
      }
    }
    if (less) negative++;
    if (more) infinite++;
    if (no) none++;
  }
  const out = [...notes];
  const pixels = (n: number) => `${n} ${n === 1 ? 'pixel' : 'pixels'}`;
  if (negative) out.push(`${pixels(negative)} below 0 set to 0${light > 0 ? `: ${percent(added / light)} more light` : ''}.`);
  if (infinite) out.push(`${pixels(infinite)} infinite, as bright now as the brightest that is not.`);
  if (none) out.push(`${pixels(none)} no number, black now.`);
  return { width, height, rgb, notes: [...out, ...shape] };
}

/** Whether there is nothing to mend, as a rule. */
function isLight(count: number, rgb: Float32Array): boolean {
  for (let i = 0; i < count; i++) if (!(rgb[i]! >= 0 && rgb[i]! <= TOP)) return false;
  return true;
}

/** Averages a picture down until no side is longer than `most`. */
export function atMost(picture: RadiancePicture, most: number): RadiancePicture {
  const k = Math.ceil(Math.max(picture.width, picture.height) / most);
  if (k <= 1) return picture;
  const across = Math.min(k, picture.width),
    down = Math.min(k, picture.height),
    width = Math.floor(picture.width / across),
    height = Math.floor(picture.height / down);
  const rgb = new Float32Array(width * height * 3);
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++)
      for (let c = 0; c < 3; c++) {
        let sum = 0;
        for (let j = 0; j < down; j++)
          for (let i = 0; i < across; i++) sum += picture.rgb[((y * down + j) * picture.width + x * across + i) * 3 + c]!;
        rgb[(y * width + x) * 3 + c] = sum / (across * down);
      }
  return { width, height, rgb, notes: [...picture.notes, `Reduced to ${width} × ${height}.`] };
}
