// Photometric profiles (.ies): ANSI/IES LM-63-2002 and -2019, and their forerunners of 1986, 1991, 1995.
import type { Profile } from '../../light/index.ts';
import { FILE_LIMITS } from '../../math/index.ts';

/** A profile that cannot be read; the line (1 …) is where it was noticed. */
export class ProfileError extends Error {
  readonly line: number;
  constructor(line: number, reason: string) {
    super(`Line ${line}: ${reason}`);
    this.name = 'ProfileError';
    this.line = line;
  }
}

/** A profile with what its file says about the luminaire. */
export interface ProfileFile {
  profile: Profile;
  /** From the keyword LUMINAIRE or LUMCAT; '' when neither is there. */
  name: string;
  watts: number;
  notes: string[];
}

interface Token {
  value: number;
  line: number;
}

/** How numbers are written: decimal, no other base, no infinity. */
const NUMBER = /^[+-]?(\d+\.?\d*|\.\d+)([eEdD][+-]?\d+)?$/;

/** The words of a file after its head, one by one, as numbers, as far as they are asked for: what follows the last one may be anything. */
class Numbers {
  private readonly lines: readonly string[];
  private words: string[] = [];
  /** How many of the line's words were taken: a file may have all of them in one line. */
  private taken = 0;
  private line: number;

  /** @param line of the first one, 0 … */
  constructor(lines: readonly string[], line: number) {
    this.lines = lines;
    this.line = line - 1;
  }

  private word(): string | undefined {
    while (this.taken === this.words.length) {
      if (++this.line >= this.lines.length) return undefined;
      this.words = this.lines[this.line]!.split(/[\s,]+/).filter((w) => w !== '');
      this.taken = 0;
    }
    return this.words[this.taken++];
  }

  /** @throws ProfileError */
  next(what: string): Token {
    const word = this.word();
    if (word === undefined) throw new ProfileError(this.lines.length, `The file ends where ${what} should be.`);
    const value = NUMBER.test(word) ? Number(word.replace(/d/i, 'e')) : NaN;
    if (!Number.isFinite(value)) throw new ProfileError(this.line + 1, `“${word.slice(0, 20)}” is no number; ${what} should be there.`);
    return { value, line: this.line + 1 };
  }

  /** How many words nobody asked for. */
  get left(): number {
    let n = 0;
    while (this.word() !== undefined) n++;
    return n;
  }
}

/** Which edition a file says that it is of: its first line's mark. Without one it is of 1986. */
function editionOf(first: string): number {
  const found = /^\s*IES(?:NA)?\s*:?\s*(?:LM-63-)?(\d{2,4})/i.exec(first);
  if (!found) return 1986;
  const year = Number(found[1]);
  return year < 100 ? 1900 + year : year;
}

/**
 * Reads a photometric profile: type C, any of the formats since 1986, TILT=NONE or TILT=INCLUDE.
 * @throws ProfileError that names the line and the reason.
 */
export function readProfile(text: string): ProfileFile {
  const lines = text.split(/\r\n|\r|\n/);
  const notes: string[] = [];
  const keywords = new Map<string, string>();
  const tiltAt = lines.findIndex((l) => /^\s*TILT\s*=/i.test(l));
  if (tiltAt < 0) throw new ProfileError(Math.min(lines.length, 1), 'There is no line TILT=…; this is no photometric profile.');
  const edition = editionOf(lines[0]!);
  if (!/^\s*IES/i.test(lines[0]!)) notes.push('No IESNA mark in the first line: read as of 1986.');
  for (const l of lines.slice(0, tiltAt)) {
    const match = /^\s*\[(\w+)\]\s*(.*)$/.exec(l);
    if (match) keywords.set(match[1]!.toUpperCase(), match[2]!.trim());
  }
  const tilt = lines[tiltAt]!.split('=')[1]!.trim().toUpperCase();
  if (tilt !== 'NONE' && tilt !== 'INCLUDE')
    throw new ProfileError(tiltAt + 1, `TILT=${tilt} names another file; NONE and INCLUDE can be read.`);
  const numbers = new Numbers(lines, tiltAt + 1),
    next = (what: string): Token => numbers.next(what);
  const count = (what: string): number => {
    const { value, line } = next(what);
    if (!(Number.isInteger(value) && value >= 1 && value <= FILE_LIMITS.profileAngles))
      throw new ProfileError(line, `${what} is ${value}.`);
    return value;
  };
  if (tilt === 'INCLUDE') {
    next('the lamp geometry');
    const pairs = count('the number of tilt angles');
    for (let i = 0; i < pairs * 2; i++) next('a tilt angle or factor');
    notes.push('Tilt factors were left out: a tilted lamp would give other light.');
  }
  next('the number of lamps');
  next('lumens per lamp');
  const factor = (what: string, most: number): number => {
    const { value, line } = next(what);
    if (!(value > 0 && value <= most)) throw new ProfileError(line, `${what} is ${value}; it multiplies all light.`);
    return value;
  };
  const multiplier = factor('the candela multiplier', FILE_LIMITS.candela),
    nv = count('the number of vertical angles'),
    nh = count('the number of horizontal angles');
  const type = next('the photometric type');
  if (type.value !== 1)
    throw new ProfileError(
      type.line,
      `Photometric type ${type.value === 2 ? 'B' : type.value === 3 ? 'A' : type.value}; type C (1) can be read.`,
    );
  const unit = next('the unit of the dimensions');
  if (unit.value !== 1 && unit.value !== 2)
    throw new ProfileError(unit.line, `The unit of the dimensions is ${unit.value}; there are 1 (feet) and 2 (metres).`);
  // negative ones stand for round openings
  for (const what of ['width', 'length', 'height']) next(`the ${what}`);
  const ballast = factor('the ballast factor', 100);
  // of ballast and lamp together in 1986 and 1991; kept for later use since
  const together = edition < 1995 ? factor('the factor of ballast and lamp', 100) : (next('the factor for future use'), 1);
  const watts = next('the input watts').value;
  const angles = (n: number, what: string, most: number): number[] => {
    const out: number[] = [];
    for (let i = 0; i < n; i++) {
      const { value, line } = next(`${what} angle ${i + 1} of ${n}`);
      if (!(value >= 0 && value <= most)) throw new ProfileError(line, `A ${what} angle is ${value}; they run from 0 to ${most}.`);
      if (i && !(value > out[i - 1]!)) throw new ProfileError(line, `${what} angles must rise; ${value} follows ${out[i - 1]}.`);
      out.push(value);
    }
    return out;
  };
  const vertical = angles(nv, 'vertical', 180),
    horizontal = angles(nh, 'horizontal', 360);
  const candela: number[] = [];
  for (let i = 0; i < nv * nh; i++) {
    const { value, line } = next(`intensity ${i + 1} of ${nv * nh}`);
    if (value < 0) throw new ProfileError(line, `An intensity is ${value}; light cannot be below 0.`);
    const given = value * multiplier * ballast * together;
    if (given > FILE_LIMITS.candela)
      throw new ProfileError(line, `An intensity is ${given.toPrecision(3)} cd; no lamp has more than ${FILE_LIMITS.candela}.`);
    candela.push(given);
  }
  if (!candela.some((v) => v > 0)) throw new ProfileError(lines.length, 'All intensities are 0.');
  const { left } = numbers;
  if (left > 0) notes.push(`${left} ${left === 1 ? 'word' : 'words'} after the last intensity ${left === 1 ? 'was' : 'were'} left out.`);
  closeCircle(horizontal, candela, nv);
  if (vertical[0]! > 90 - 1e-9 && vertical.at(-1)! <= 180) notes.push('All light goes upwards.');
  return { profile: { vertical, horizontal, candela }, name: keywords.get('LUMINAIRE') ?? keywords.get('LUMCAT') ?? '', watts, notes };
}

/** A circle that is measured all round but for its end (0° … 315°) ends where it begins. */
function closeCircle(horizontal: number[], candela: number[], vertical: number): void {
  const first = horizontal[0]!,
    last = horizontal.at(-1)!;
  // halves, from 90° to 270°, and what stops at 90° or 180°, stand for all by symmetry
  if (first !== 0 || last <= 180 || last >= 360) return;
  horizontal.push(360);
  candela.push(...candela.slice(0, vertical));
}
