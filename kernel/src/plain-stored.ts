// Values as OpenEXR stores them, in plain TypeScript: what assembly/film/stored.ts is tested against, and where no films are.
import type { StoredMath } from './stored.ts';

/** Value of a half float (IEEE 754-2008 binary16). */
export function halfToFloat(h: number): number {
  const sign = h & 0x8000 ? -1 : 1,
    e = (h >> 10) & 31,
    m = h & 1023;
  if (e === 0) return sign * m * 2 ** -24;
  if (e === 31) return m ? NaN : sign * Infinity;
  return sign * (1 + m / 1024) * 2 ** (e - 15);
}

/**
 * The half nearest to a float that is given by its bits (binary32), ties to even. What is too large becomes the largest half, 65504: light that is
 * brighter than a file can hold is no infinity. NaN stays NaN.
 */
export function halfOfBits(x: number): number {
  const sign = (x >>> 16) & 0x8000,
    e = (x >>> 23) & 255,
    m = x & 0x7fffff;
  if (e >= 143) return e === 255 && m ? sign | 0x7e00 : sign | 0x7bff;
  if (e > 112) {
    const h = sign | ((e - 112) << 10) | (m >>> 13),
      rest = m & 0x1fff;
    const up = rest > 0x1000 || (rest === 0x1000 && (h & 1) === 1);
    return up && (h & 0x7fff) < 0x7bff ? h + 1 : h;
  }
  if (e < 102) return sign;
  // too small for a leading one: shifted down to steps of 2⁻²⁴
  const whole = m | 0x800000,
    shift = 126 - e,
    h = whole >>> shift,
    rest = whole & ((1 << shift) - 1),
    tie = 1 << (shift - 1);
  return sign | (rest > tie || (rest === tie && (h & 1) === 1) ? h + 1 : h);
}

/** First all even bytes, then all odd ones, each as its difference from the one before plus 128. */
function mixed(bytes: Uint8Array): Uint8Array {
  const out = new Uint8Array(bytes.length),
    half = bytes.length >> 1;
  let before = 128;
  for (let i = 0; i < bytes.length; i++) {
    const b = bytes[i < half ? 2 * i : 2 * (i - half) + 1]!;
    out[i] = b - before + 128;
    before = b;
  }
  return out;
}

function unmixed(bytes: Uint8Array): Uint8Array {
  const out = new Uint8Array(bytes.length),
    half = bytes.length >> 1;
  let sum = 128;
  for (let i = 0; i < bytes.length; i++) {
    sum += bytes[i]! - 128;
    out[i < half ? 2 * i : 2 * (i - half) + 1] = sum;
  }
  return out;
}

/** Whether this machine puts the lower byte first, as the layout does. */
const LITTLE = new Uint8Array(Uint16Array.of(1).buffer)[0] === 1;

/** See `StoredMath`. */
export function plainStored(): StoredMath {
  // every half's value, by its bits
  let halves: Float32Array | undefined;
  let view: DataView = new DataView(new ArrayBuffer(0));
  return {
    block(rows, mix) {
      const out = new Uint8Array(rows.reduce((n, r) => n + r.count * (r.half ? 2 : 4), 0)),
        to = new DataView(out.buffer);
      let at = 0;
      for (const { data, from, count, half } of rows) {
        const bits = new Uint32Array(data.buffer, data.byteOffset + from * 4, count);
        for (let i = 0; i < count; i++, at += half ? 2 : 4)
          if (half) to.setUint16(at, halfOfBits(bits[i]!), true);
          else to.setUint32(at, bits[i]!, true);
      }
      return mix ? mixed(out) : out;
    },
    take(bytes, mix) {
      const plain = mix ? unmixed(bytes) : bytes;
      view = new DataView(plain.buffer, plain.byteOffset, plain.byteLength);
    },
    row(at, type, count, out, first, stride, factor) {
      halves ??= Float32Array.from({ length: 65536 }, (_, h) => halfToFloat(h));
      const begin = view.byteOffset + at;
      // words of two bytes lie as this machine reads them, unless the block begins in the middle of one
      if (type === 1 && begin % 2 === 0 && LITTLE) {
        const words = new Uint16Array(view.buffer, begin, count);
        for (let i = 0, to = first; i < count; i++, to += stride) out[to] = halves[words[i]!]! * factor;
        return;
      }
      for (let i = 0, to = first; i < count; i++, to += stride) {
        const from = at + i * (type === 1 ? 2 : 4);
        const v = type === 1 ? halves[view.getUint16(from, true)]! : type === 2 ? view.getFloat32(from, true) : view.getUint32(from, true);
        out[to] = v * factor;
      }
    },
  };
}
