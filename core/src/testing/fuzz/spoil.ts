// Spoils files, the same way each time from one seed.

/** Numbers that look random and repeat themselves from a seed (the generator mulberry32, from memory). */
export class Dice {
  private state: number;
  constructor(seed: number) {
    this.state = seed | 0;
  }
  /** From 0 to below 1. */
  next(): number {
    this.state = (this.state + 0x6d2b79f5) | 0;
    let t = Math.imul(this.state ^ (this.state >>> 15), 1 | this.state);
    t = (t + Math.imul(t ^ (t >>> 7), 61 | t)) ^ t;
    return ((t ^ (t >>> 14)) >>> 0) / 4294967296;
  }
  /** A whole number from 0 to below `n`. */
  below(n: number): number {
    return Math.floor(this.next() * n);
  }
  pick<T>(of: readonly T[]): T {
    return of[this.below(of.length)]!;
  }
}

const joined = (...parts: Uint8Array[]): Uint8Array => {
  const out = new Uint8Array(parts.reduce((n, p) => n + p.length, 0));
  parts.reduce((at, p) => (out.set(p, at), at + p.length), 0);
  return out;
};

/** Lengths and counts that break who believes them. */
const COUNTS = [0, 1, 2, 0x7f, 0x80, 0xff, 0x7fff, 0xffff, 0x10000, 0x7fffffff, 0x80000000, 0xfffffffe, 0xffffffff];
const WORDS = [
  '0',
  '-1',
  '1e999',
  '-1e38',
  '3.5e38',
  'NaN',
  'Infinity',
  '1e-320',
  '2147483648',
  '4294967297',
  '1e15',
  '-0',
  '',
  '""',
  'null',
  '[]',
  '{}',
];

type Spoil = (bytes: Uint8Array, dice: Dice, others: readonly Uint8Array[]) => Uint8Array;

const flips: Spoil = (bytes, dice) => {
  const out = bytes.slice();
  for (let n = 1 + dice.below(8); n > 0; n--) {
    const at = dice.below(out.length);
    out[at] = out[at]! ^ (1 << dice.below(8));
  }
  return out;
};
const cutOff: Spoil = (bytes, dice) => bytes.slice(0, dice.below(bytes.length));
const cutOut: Spoil = (bytes, dice) => {
  const from = dice.below(bytes.length);
  return joined(bytes.subarray(0, from), bytes.subarray(from + 1 + dice.below(64)));
};
const twice: Spoil = (bytes, dice) => {
  const from = dice.below(bytes.length),
    piece = bytes.subarray(from, from + 1 + dice.below(200));
  return joined(bytes.subarray(0, from), piece, bytes.subarray(from));
};
const spliced: Spoil = (bytes, dice, others) => {
  const other = dice.pick(others);
  return joined(bytes.subarray(0, dice.below(bytes.length)), other.subarray(dice.below(other.length)));
};
/** Puts a count where one may be: more often at the beginning, where headers are. */
const counted: Spoil = (bytes, dice) => {
  const out = bytes.slice(),
    size = dice.pick([1, 2, 4, 4, 4, 8]);
  if (out.length < size) return out;
  const view = new DataView(out.buffer),
    room = out.length - size + 1,
    at = dice.below(dice.next() < 0.7 ? Math.min(room, 400) : room),
    value = dice.pick(COUNTS),
    little = dice.next() < 0.7;
  if (size === 1) view.setUint8(at, value & 255);
  else if (size === 2) view.setUint16(at, value & 65535, little);
  else if (size === 4) view.setUint32(at, value, little);
  else view.setBigUint64(at, BigInt(value) << BigInt(dice.pick([0, 24])), little);
  return out;
};

const ofBytes = (bytes: Uint8Array): string => {
  let out = '';
  for (let i = 0; i < bytes.length; i += 8192) out += String.fromCharCode(...bytes.subarray(i, i + 8192));
  return out;
};
const toBytes = (text: string): Uint8Array => Uint8Array.from(text, (c) => c.charCodeAt(0));

/** Another number, or what is none, in place of one that is written out. */
const numbers: Spoil = (bytes, dice) => {
  const found = [...ofBytes(bytes).matchAll(/-?\d+(\.\d+)?(e[+-]?\d+)?/gi)];
  if (!found.length) return flips(bytes, dice, []);
  const { 0: number, index } = dice.pick(found);
  return joined(bytes.subarray(0, index), toBytes(dice.pick(WORDS)), bytes.subarray(index + number.length));
};
/** Other digits of the same length: what counts bytes goes on to fit. */
const digits: Spoil = (bytes, dice) => {
  const out = bytes.slice(),
    found = [...ofBytes(bytes).matchAll(/\d+/g)];
  if (!found.length) return out;
  const { 0: number, index } = dice.pick(found);
  for (let i = 0; i < number.length; i++) out[index + i] = 48 + dice.below(10);
  return out;
};
/** A word is another of the same file's. */
const words: Spoil = (bytes, dice) => {
  const found = [...ofBytes(bytes).matchAll(/[A-Za-z_]{2,}/g)];
  if (!found.length) return flips(bytes, dice, []);
  const { 0: word, index } = dice.pick(found);
  return joined(bytes.subarray(0, index), toBytes(dice.pick(found)[0]), bytes.subarray(index + word.length));
};

const BYTES = [flips, flips, cutOff, cutOut, twice, spliced, counted, counted, counted, digits],
  TEXT = [numbers, numbers, numbers, numbers, words, words, flips, cutOff, cutOut, twice, spliced, digits];

/** A file spoilt once, now and then up to three times, the same from one number. */
export function spoiled(samples: readonly Uint8Array[], text: boolean, number: number): Uint8Array {
  const dice = new Dice(number * 2654435761);
  let out = dice.pick(samples);
  for (let n = dice.next() < 0.6 ? 1 : 2 + dice.below(2); n > 0 && out.length > 0; n--)
    out = dice.pick(text ? TEXT : BYTES)(out, dice, samples);
  return out;
}
