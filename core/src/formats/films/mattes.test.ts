// Mattes against the published Cryptomatte specification: its hashes (values of its reference tests, from memory) and the package imurmurhash.
import { createRequire } from 'node:module';
import { describe, expect, it } from '@jest/globals';
import fc from 'fast-check';
import { Guides } from '../../film/index.ts';
import { MATTE_RANKS } from '../../trace/index.ts';
import { matteBits, matteChannels } from './index.ts';

const hash = createRequire(import.meta.url)('imurmurhash') as (text: string) => { result(): number };
const floatOf = (bits: number): number => new Float32Array(Uint32Array.of(bits).buffer)[0]!;

describe('the identity of a name', () => {
  it('is the float that the specification’s reference gives', () => {
    for (const [name, value] of [
      ['hello', 6.0705627102400005616e-17],
      ['cube', -4.08461912519e15],
      ['sphere', 2.79018604383e15],
      ['plane', 3.66557617593e-11],
    ] as const)
      expect(floatOf(matteBits(name)) / value).toBeCloseTo(1, 10);
  });

  it('is another implementation’s hash, kept from what is no ordinary float', () => {
    fc.assert(
      fc.property(fc.string({ unit: 'binary-ascii' }), (name) => {
        const bits = matteBits(name),
          other = hash(name).result(),
          exponent = (other >>> 23) & 255;
        if (exponent > 0 && exponent < 255) expect(bits).toBe(other);
        else expect((bits ^ other) >>> 0).toBe(1 << 23);
        expect(floatOf(bits)).not.toBe(0);
        expect(Number.isFinite(floatOf(bits))).toBe(true);
      }),
    );
  });
});

/** Two pixels: one with three things, two of which have one name; one with nothing. */
function guides(): Guides {
  const made = new Guides(2, 1, true);
  made.counts.fill(8);
  for (const slots of [made.mattes!.objects, made.mattes!.materials]) slots.set([1, 1, 2, 4, 3, 2]);
  return made;
}

describe('the channels of a picture’s mattes', () => {
  const names = { objects: ['subjects/keeper/coat', 'props/plinth', 'stage/floor'], materials: ['Wöol', 'stone', 'Wöol'] };
  const { channels, text } = matteChannels(guides(), names);
  const at = (name: string, pixel = 0): number => channels.find((c) => c.name === name)!.data[pixel]!;

  it('hold what is in a pixel by its share, largest first, and nothing where nothing is', () => {
    expect(channels.map((c) => c.name)).toEqual(
      ['CryptoObject', 'CryptoMaterial'].flatMap((layer) =>
        ['00', '01', '02'].flatMap((n) => ['R', 'G', 'B', 'A'].map((c) => `${layer}${n}.${c}`)),
      ),
    );
    expect(channels.every((c) => c.type === 'float')).toBe(true);
    expect(['R', 'G', 'B', 'A'].map((c) => at(`CryptoObject00.${c}`))).toEqual([
      floatOf(matteBits('props/plinth')),
      4 / 8,
      floatOf(matteBits('stage/floor')),
      2 / 8,
    ]);
    expect([at('CryptoObject01.R'), at('CryptoObject01.G')]).toEqual([floatOf(matteBits('subjects/keeper/coat')), 1 / 8]);
    expect(channels.every((c) => c.data[1] === 0)).toBe(true);
  });

  it('join what has one name', () => {
    expect(['R', 'G', 'B', 'A'].map((c) => at(`CryptoMaterial00.${c}`))).toEqual([
      floatOf(matteBits('stone')),
      4 / 8,
      floatOf(matteBits('Wöol')),
      3 / 8,
    ]);
    expect(at('CryptoMaterial01.G')).toBe(0);
  });

  it('say in attributes what they are, each under its layer’s key, names with their hashes', () => {
    const key = `cryptomatte/${matteBits('CryptoObject').toString(16).padStart(8, '0').slice(0, 7)}`;
    expect(text[`${key}/name`]).toBe('CryptoObject');
    expect(text[`${key}/hash`]).toBe('MurmurHash3_32');
    expect(text[`${key}/conversion`]).toBe('uint32_to_float32');
    expect(JSON.parse(text[`${key}/manifest`]!)).toEqual(
      Object.fromEntries(names.objects.map((name) => [name, matteBits(name).toString(16).padStart(8, '0')])),
    );
    expect(Object.values(text).every((value) => /^[ -~]*$/.test(value))).toBe(true);
  });

  it('are none where nobody asked what the samples met', () => {
    expect(matteChannels(new Guides(2, 1), names)).toEqual({ channels: [], text: {} });
    expect(MATTE_RANKS % 2).toBe(0);
  });
});
