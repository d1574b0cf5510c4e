// Takes the packing of blocks off. What zlib and run lengths packed stays mixed as the layout mixes it; PIZ, PXR24, B44 and DWA by the package hdrify.
import { unzlibSync } from 'fflate';
import { decompressB44 } from 'hdrify/dist/exr/decompressB44.js';
import { decompressDwa } from 'hdrify/dist/exr/decompressDwa.js';
import { decompressPiz } from 'hdrify/dist/exr/decompressPiz.js';
import { decompressPxr24 } from 'hdrify/dist/exr/decompressPxr24.js';
import { COMPRESSIONS, type ExrHead, type ExrHeadChannel } from './head.ts';

/** A block as it lies in the file. */
export interface PackedBlock {
  /** Its first pixel in the data window. */
  x: number;
  y: number;
  columns: number;
  rows: number;
  /** Bytes that it has unpacked. */
  size: number;
  packed: Uint8Array;
  /** It is stored as it is. */
  plain: boolean;
}

/** Takes zlib's packing (RFC 1950) off; by fflate where nothing else is said. @throws what the unpacker throws */
export type Inflate = (packed: Uint8Array, size: number) => Promise<Uint8Array> | Uint8Array;
export const inflateHere = (packed: Uint8Array, size: number): Uint8Array => unzlibSync(packed, { out: new Uint8Array(size) });

/** By their numbers in the layout. */
const RUN_LENGTHS = 1,
  ZIP = 3,
  PIZ = 4,
  PXR24 = 5,
  DWAA = 8;

/** Whether a block's bytes are mixed once its packing is off. */
export const isMixed = (compression: number): boolean => compression >= RUN_LENGTHS && compression <= ZIP;
/** Whether zlib packed it, and somebody else may take that off. */
export const isZip = (compression: number): boolean => compression > RUN_LENGTHS && compression <= ZIP;

/** A block without its packing. @throws Error with the reason */
export function unpackBlock({ compression, channels }: Pick<ExrHead, 'compression' | 'channels'>, block: PackedBlock): Uint8Array {
  const { packed, size, columns, rows, plain } = block;
  if (plain) return packed;
  if (compression === RUN_LENGTHS) return runLengths(packed, size);
  if (compression <= ZIP) return inflateHere(packed, size);
  // who packs leaves as it is what does not get smaller
  if (packed.length > size) throw new Error('it is larger than what is in it');
  checkKinds(compression, channels, columns);
  const theirs = channels.map(({ name, type, linear, xSampling, ySampling }) => ({
    name,
    pixelType: type,
    pLinear: linear ? 1 : 0,
    reserved: 0,
    xSampling,
    ySampling,
  }));
  if (compression === PIZ) return decompressPiz(packed, columns, theirs, packed.length, rows);
  if (compression === PXR24) return decompressPxr24(packed, columns, theirs, packed.length, rows);
  if (compression < DWAA) return decompressB44(packed, columns, theirs, packed.length, rows);
  checkDwa(block, channels.length);
  return decompressDwa(packed, columns, theirs, packed.length, rows);
}

/** What the package takes for one kind is refused where it is several. */
function checkKinds(compression: number, channels: readonly ExrHeadChannel[], columns: number): void {
  const kinds = new Set(channels.map((c) => c.type));
  if ((compression === PIZ && (kinds.size > 1 || kinds.has(0))) || (compression === PXR24 && kinds.size > 1 && columns % 2 === 1))
    throw new Error(`${COMPRESSIONS[compression]!} of channels that are stored in different ways; save them all as halves`);
}

/** Counts that a DWA block begins with may not be more than can be in it: asked before memory is taken. */
function checkDwa({ packed, size, columns, rows }: PackedBlock, channels: number): void {
  const view = new DataView(packed.buffer, packed.byteOffset, packed.byteLength);
  if (packed.length < 88) throw new Error('it is shorter than its head');
  const cells = Math.ceil(columns / 8) * Math.ceil(rows / 8) * channels;
  // by their place: bytes of other channels, of run lengths packed once and unpacked, values of the cosines, and their means
  const most: [field: number, limit: number][] = [
    [1, size],
    [6, size * 2 + 64],
    [7, size],
    [8, cells * 64],
    [9, cells],
  ];
  for (const [field, limit] of most)
    if (view.getBigUint64(field * 8, true) > BigInt(limit)) throw new Error('it announces more than can be in it');
}

/** Run lengths of the layout: below 0 so many bytes as they are, else one byte so many times and once more. */
function runLengths(packed: Uint8Array, size: number): Uint8Array {
  const out = new Uint8Array(size);
  let to = 0;
  for (let at = 0; at < packed.length;) {
    const n = (packed[at++]! << 24) >> 24;
    if (n < 0) {
      if (at - n > packed.length || to - n > size) throw new Error('a run is too long');
      out.set(packed.subarray(at, at - n), to);
      at -= n;
      to -= n;
    } else {
      if (to + n + 1 > size) throw new Error('a run is too long');
      out.fill(packed[at++]!, to, to + n + 1);
      to += n + 1;
    }
  }
  return out.subarray(0, to);
}
