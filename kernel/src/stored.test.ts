// Values as they are stored. Halves are checked against three's DataUtils; the kernel's twin gives the same bytes as the plain one. That other readers
// understand whole files is tested with the formats (three's loader) and the render node (exrheader, oiiotool).
import { readFileSync } from 'node:fs';
import { describe, expect, it } from '@jest/globals';
import fc from 'fast-check';
import { DataUtils } from 'three';
import { halfOfBits, halfToFloat, plainFilmMath, simdFilmMath, type StoredRow, type StoredType } from './index.ts';

describe('halves', () => {
  it('are those of three’s DataUtils where it rounds, and the nearest half everywhere', () => {
    const bits = (v: number) => new Uint32Array(Float32Array.of(v).buffer)[0]!;
    const wrong = Array.from({ length: 0x7c00 }, (_, h) => h).filter((h) => halfOfBits(bits(DataUtils.fromHalfFloat(h))) !== h);
    expect(wrong).toEqual([]);
    fc.assert(
      fc.property(fc.float({ min: -65504, max: 65504, noNaN: true }), (v) => {
        const h = halfToFloat(halfOfBits(bits(v)));
        for (const by of [-1, 1]) {
          const next = halfOfBits(bits(v)) + by;
          if ((next & 0x7fff) > 0x7bff || next < 0) continue;
          expect(Math.abs(h - v)).toBeLessThanOrEqual(Math.abs(halfToFloat(next) - v));
        }
      }),
    );
    expect([Infinity, 1e9, 70000].map((v) => halfToFloat(halfOfBits(bits(v))))).toEqual([65504, 65504, 65504]);
    expect(halfToFloat(halfOfBits(bits(NaN)))).toBeNaN();
    // a tie goes to the even one: 1 + 2⁻¹¹ lies between 1 and 1 + 2⁻¹⁰
    expect([1 + 2 ** -11, 1 + 3 * 2 ** -11].map((v) => halfToFloat(halfOfBits(bits(v))))).toEqual([1, 1 + 2 ** -9]);
  });
});

const plain = plainFilmMath(),
  simd = simdFilmMath(new WebAssembly.Module(readFileSync(new URL('../build/film.wasm', import.meta.url))));

/** Floats of every kind: any bits, ordinary ones, ties between two halves, what is too small or too large for one. */
const anyFloat = fc.oneof(
  fc.integer().map((b) => new Float32Array(Int32Array.of(b).buffer)[0]!),
  fc.float({ min: -4, max: 4, noNaN: true }),
  fc.integer({ min: 0, max: 0x7bff }).map((h) => (halfToFloat(h) + halfToFloat(Math.min(0x7bff, h + 1))) / 2),
  fc.constantFrom(0, -0, Infinity, -Infinity, NaN, 65504, 65519, 65520, 2 ** -24, 2 ** -25, 2 ** -26, 2 ** -14),
);
const rows = fc.array(
  fc.tuple(fc.array(anyFloat, { minLength: 1, maxLength: 37 }), fc.boolean(), fc.nat(2)).map(([values, half, from]): StoredRow => ({
    data: Float32Array.from([...Array<number>(from).fill(9), ...values]),
    from,
    count: values.length,
    half,
  })),
  { minLength: 1, maxLength: 5 },
);

describe('a block of a file', () => {
  it('is the same from the kernel, byte for byte, as it is and mixed', () => {
    fc.assert(
      fc.property(rows, fc.boolean(), (of, mixed) => {
        expect([...simd.stored.block(of, mixed)]).toEqual([...plain.stored.block(of, mixed)]);
      }),
      { numRuns: 300 },
    );
  });

  it('mixes as the layout says: even bytes, then odd ones, as differences plus 128', () => {
    // a float whose bytes are 1, 2, 3, 4: even 1, 3, then odd 2, 4
    const row = { data: new Float32Array(Uint8Array.of(1, 2, 3, 4).buffer), from: 0, count: 1, half: false };
    for (const { stored } of [plain, simd]) {
      expect([...stored.block([row], false)]).toEqual([1, 2, 3, 4]);
      expect([...stored.block([row], true)]).toEqual([1, 3 - 1 + 128, 2 - 3 + 128, 4 - 2 + 128]);
    }
  });

  it('is read again, into films and elsewhere, every third value or all of them, alike', () => {
    fc.assert(
      fc.property(rows, fc.boolean(), fc.constantFrom(1, 3), fc.constantFrom(1, 0.25), (of, mixed, stride, factor) => {
        const bytes = plain.stored.block(of, mixed);
        const read = [plain, simd, simd].map((math, m) => {
          math.stored.take(bytes, mixed);
          let at = 0;
          return of.map(({ count, half }) => {
            const out = m === 1 ? math.floats(count * stride) : new Float32Array(count * stride);
            math.stored.row(at, half ? 1 : 2, count, out, stride - 1, stride, factor);
            at += count * (half ? 2 : 4);
            const values = [...out];
            math.free(out);
            return values;
          });
        });
        expect(read[1]).toEqual(read[0]);
        expect(read[2]).toEqual(read[0]);
        of.forEach(({ data, from, count, half }, r) => {
          for (let i = 0; i < count; i++) {
            const v = data[from + i]!;
            const kept = half ? halfToFloat(halfOfBits(new Uint32Array(Float32Array.of(v).buffer)[0]!)) : v;
            expect(read[0]![r]![i * stride + stride - 1]).toBe(Math.fround(kept * factor));
          }
        });
      }),
      { numRuns: 200 },
    );
  });

  it('holds whole numbers too', () => {
    const bytes = new Uint8Array(Uint32Array.of(0, 1, 7, 4294967040, 90, 65537).buffer);
    for (const { stored } of [plain, simd]) {
      const out = new Float32Array(6);
      stored.take(bytes, false);
      stored.row(0, 0 as StoredType, 6, out, 0, 1, 1);
      expect([...out]).toEqual([0, 1, 7, 4294967040, 90, 65537]);
    }
  });
});
