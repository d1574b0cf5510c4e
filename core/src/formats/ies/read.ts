// Photometric profiles (.ies): ANSI/IES LM-63-2002, and its forerunners of 1986, 1991, 1995.
import type { Profile } from '../../light/index.ts';

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

/** Largest number of angles one way. */
const MOST_ANGLES = 2000;

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
  if (!/^IESNA/i.test(lines[0]!.trim())) notes.push('No IESNA mark in the first line: read as of 1986.');
  for (const l of lines.slice(0, tiltAt)) {
    const match = /^\s*\[(\w+)\]\s*(.*)$/.exec(l);
    if (match) keywords.set(match[1]!.toUpperCase(), match[2]!.trim());
  }
  const tilt = lines[tiltAt]!.split('=')[1]!.trim().toUpperCase();
  if (tilt !== 'NONE' && tilt !== 'INCLUDE')
    throw new ProfileError(tiltAt + 1, `TILT=${tilt} names another file; NONE and INCLUDE can be read.`);
  const tokens: Token[] = [];
  for (let i = tiltAt + 1; i < lines.length; i++)
    for (const word of lines[i]!.split(/[\s,]+/)) {
      if (word === '') continue;
      const value = Number(word);
      if (!Number.isFinite(value)) throw new ProfileError(i + 1, `“${word.slice(0, 20)}” is no number.`);
      tokens.push({ value, line: i + 1 });
    }
  let at = 0;
  const next = (what: string): Token => {
    const token = tokens[at++];
    if (!token) throw new ProfileError(lines.length, `The file ends where ${what} should be.`);
    return token;
  };
  const count = (what: string): number => {
    const { value, line } = next(what);
    if (!(Number.isInteger(value) && value >= 1 && value <= MOST_ANGLES)) throw new ProfileError(line, `${what} is ${value}.`);
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
  const multiplier = next('the candela multiplier').value;
  const nv = count('the number of vertical angles'),
    nh = count('the number of horizontal angles');
  const type = next('the photometric type');
  if (type.value !== 1)
    throw new ProfileError(
      type.line,
      `Photometric type ${type.value === 2 ? 'B' : type.value === 3 ? 'A' : type.value}; type C (1) can be read.`,
    );
  next('the unit of the dimensions');
  for (const what of ['width', 'length', 'height']) next(`the ${what}`);
  const ballast = next('the ballast factor').value;
  next('the factor for future use');
  const watts = next('the input watts').value;
  const angles = (n: number, what: string): number[] => {
    const out: number[] = [];
    for (let i = 0; i < n; i++) {
      const { value, line } = next(`${what} angle ${i + 1} of ${n}`);
      if (i && !(value > out[i - 1]!)) throw new ProfileError(line, `${what} angles must rise; ${value} follows ${out[i - 1]}.`);
      out.push(value);
    }
    return out;
  };
  const vertical = angles(nv, 'vertical'),
    horizontal = angles(nh, 'horizontal');
  const candela: number[] = [];
  for (let i = 0; i < nv * nh; i++) {
    const { value, line } = next(`intensity ${i + 1} of ${nv * nh}`);
    if (value < 0) throw new ProfileError(line, `An intensity is ${value}; light cannot be below 0.`);
    candela.push(value * multiplier * ballast);
  }
  if (!candela.some((v) => v > 0)) throw new ProfileError(lines.length, 'All intensities are 0.');
  if (at < tokens.length) notes.push(`${tokens.length - at} numbers after the last intensity were left out.`);
  if (vertical[0]! > 90 - 1e-9 && vertical.at(-1)! <= 180) notes.push('All light goes upwards.');
  return { profile: { vertical, horizontal, candela }, name: keywords.get('LUMINAIRE') ?? keywords.get('LUMCAT') ?? '', watts, notes };
}
