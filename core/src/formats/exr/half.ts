// Half floats (IEEE 754-2008 binary16), as OpenEXR stores them.

/** Value of a half float. */
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

/** Every half's value, by its bits: a look-up where many are read. */
export const halfValues = (): Float32Array => Float32Array.from({ length: 65536 }, (_, h) => halfToFloat(h));
