// Timecode of SMPTE ST 12-1: frames as hours, minutes, seconds and frames; with drop frame two frame numbers a minute are left out, but in every tenth.

/** Whole frames that a second of timecode counts. */
export const countOf = (fps: number): number => Math.round(fps);
/** Numbers that drop frame leaves out of a minute. */
const dropped = (count: number): number => Math.round(count * 0.0666);

/** Whether drop frame is a way to count a rate: those of 30 000/1001 and 60 000/1001. */
export const canDrop = (fps: number): boolean => !Number.isInteger(fps) && countOf(fps) % 30 === 0;

const PATTERN = /^(\d{1,2})[:;.](\d{2})[:;.](\d{2})([:;.,])(\d{2})$/;

/**
 * Frames from the beginning of the day.
 * @param drop counts as drop frame; a semicolon or comma before the frames says so, too
 * @throws RangeError that says what is wrong with it
 */
export function framesAt(timecode: string, fps: number, drop = false): number {
  const found = PATTERN.exec(timecode.trim());
  if (!found) throw new RangeError(`“${timecode}” is no timecode such as 01:00:10:12`);
  const [h, m, s, f] = [found[1], found[2], found[3], found[5]].map(Number) as [number, number, number, number];
  const count = countOf(fps);
  if (h > 23 || m > 59 || s > 59 || f >= count) throw new RangeError(`“${timecode}” is no time at ${fps} frames a second`);
  const drops = (drop || /[;,]/.test(found[4]!)) && canDrop(fps);
  const minutes = h * 60 + m,
    whole = (minutes * 60 + s) * count + f;
  if (!drops) return whole;
  const d = dropped(count);
  if (m % 10 !== 0 && s === 0 && f < d) throw new RangeError(`“${timecode}” is a number that drop frame leaves out`);
  return whole - d * (minutes - Math.floor(minutes / 10));
}

/** The timecode of a frame; a day has 24 hours, after which it begins anew. With a semicolon before the frames where it is drop frame. */
export function timecodeOf(frames: number, fps: number, drop = false): string {
  const count = countOf(fps),
    drops = drop && canDrop(fps),
    d = drops ? dropped(count) : 0;
  const day = 24 * 3600 * count - d * 24 * 54;
  let n = ((Math.round(frames) % day) + day) % day;
  if (drops) {
    const inMinute = count * 60 - d,
      inTen = inMinute * 10 + d;
    const tens = Math.floor(n / inTen),
      rest = n % inTen;
    n += d * 9 * tens + (rest > d ? d * Math.floor((rest - d) / inMinute) : 0);
  }
  const two = (v: number) => String(v).padStart(2, '0');
  const seconds = Math.floor(n / count);
  return `${two(Math.floor(seconds / 3600))}:${two(Math.floor(seconds / 60) % 60)}:${two(seconds % 60)}${drops ? ';' : ':'}${two(n % count)}`;
}
