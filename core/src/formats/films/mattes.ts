// Mattes of objects and materials, by the published Cryptomatte specification (1.2): names are hashed with MurmurHash3, the hashes are floats of pixels,
// beside the share of the pixel that has each, largest first.
import murmurhash from 'murmurhash';
import type { Guides } from '../../film/index.ts';
import { MATTE_RANKS } from '../../trace/index.ts';
import { asciiJson } from '../text.ts';
import type { ExrChannel } from '../exr/index.ts';

/** What the numbers in `Guides.mattes` stand for. */
export interface MatteNames {
  objects: readonly string[];
  materials: readonly string[];
}

/** Bits of the float that a name becomes: its hash (MurmurHash3, 32 bits, over UTF-8), kept from zero, denormals, infinity and NaN. */
export function matteBits(name: string): number {
  const hash = murmurhash.v3(name, 0),
    exponent = Math.min(254, Math.max(1, (hash >>> 23) & 255));
  return ((hash & 0x807fffff) | (exponent << 23)) >>> 0;
}

const hex = (bits: number): string => bits.toString(16).padStart(8, '0');
const KINDS = [
  ['objects', 'CryptoObject'],
  ['materials', 'CryptoMaterial'],
] as const;
const PLACES = ['R', 'G', 'B', 'A'] as const;

/** Identities and shares of one kind, rank by rank. Different things of one name are one. */
function ranks(slots: Uint16Array, counts: Uint16Array, bits: readonly number[]): Float32Array[] {
  const planes = Array.from({ length: MATTE_RANKS * 2 }, () => new Float32Array(counts.length)),
    ids = planes.filter((_, i) => i % 2 === 0).map((p) => new Uint32Array(p.buffer));
  for (let p = 0; p < counts.length; p++) {
    const found: { id: number; samples: number }[] = [];
    for (let i = 0, at = p * MATTE_RANKS * 2; i < MATTE_RANKS && slots[at] !== 0; i++, at += 2) {
      const id = bits[slots[at]! - 1]!,
        same = found.find((f) => f.id === id);
      if (same) same.samples += slots[at + 1]!;
      else found.push({ id, samples: slots[at + 1]! });
    }
    found.sort((a, b) => b.samples - a.samples);
    found.forEach(({ id, samples }, r) => {
      ids[r]![p] = id;
      planes[2 * r + 1]![p] = samples / counts[p]!;
    });
  }
  return planes;
}

/**
 * Channels and attributes of the mattes: for each kind three layers of two ranks. Nothing where the samples were not asked what they met.
 */
export function matteChannels({ mattes, counts }: Guides, names: MatteNames): { channels: ExrChannel[]; text: Record<string, string> } {
  const channels: ExrChannel[] = [],
    text: Record<string, string> = {};
  if (!mattes) return { channels, text };
  for (const [kind, layer] of KINDS) {
    const bits = names[kind].map(matteBits);
    ranks(mattes[kind], counts, bits).forEach((data, i) =>
      channels.push({ name: `${layer}${String(i >> 2).padStart(2, '0')}.${PLACES[i & 3]}`, data, type: 'float' }),
    );
    const key = `cryptomatte/${hex(matteBits(layer)).slice(0, 7)}`;
    text[`${key}/name`] = layer;
    text[`${key}/hash`] = 'MurmurHash3_32';
    text[`${key}/conversion`] = 'uint32_to_float32';
    text[`${key}/manifest`] = asciiJson(Object.fromEntries(names[kind].map((name, i) => [name, hex(bits[i]!)])));
  }
  return { channels, text };
}
