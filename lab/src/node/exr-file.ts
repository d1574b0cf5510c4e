import { open } from 'node:fs/promises';
import { promisify } from 'node:util';
import { constants, deflate, inflate, type ZlibOptions } from 'node:zlib';
import { ExrLayout, type ExrChannel } from '@plinket/core';
import type { StoredMath } from '@plinket/kernel';

const deflated = promisify<Uint8Array, ZlibOptions, Buffer>(deflate),
  inflatedBy = promisify<Uint8Array, ZlibOptions, Buffer>(inflate);
/** Takes zlib's packing off, on the threads that Node keeps for it: in one piece, since for each piece a thread waits until this one has time. */
export const inflated = (bytes: Uint8Array, size: number): Promise<Uint8Array> =>
  inflatedBy(bytes, { chunkSize: Math.min(MOST, Math.max(LEAST, size)) });
/** Least and most bytes that zlib gives out at once. */
const LEAST = 64,
  MOST = 2 ** 27;
/** Differences of neighbours are mostly runs of one byte: nearly as small as with all of zlib's search, in two thirds of the time (bench `exr`). */
const HOW = { level: constants.Z_BEST_SPEED, strategy: constants.Z_RLE };
/** Blocks that are packed at once, on the threads that Node keeps for it. */
const AT_ONCE = 8;

/**
 * Writes an EXR to a disk block by block: what is packed is written, and never all of it held. Answers the bytes of the file.
 * @param stored makes the blocks; the kernel's is quicker than what is taken where nothing is said
 */
export async function writeExrFile(
  path: string,
  { width, height, channels, text }: { width: number; height: number; channels: ExrChannel[]; text: Record<string, string> },
  stored?: StoredMath,
): Promise<number> {
  const layout = new ExrLayout(width, height, channels, text, stored),
    file = await open(path, 'w');
  try {
    await file.write(layout.head);
    const tableAt = layout.head.length;
    let at = tableAt + layout.tableBytes;
    const sizes: number[] = [],
      waiting: Promise<Uint8Array>[] = [];
    const begin = (i: number): Promise<Uint8Array> => {
      const mixed = layout.mixed(i);
      // what does not get smaller is stored as it is
      return deflated(mixed, { ...HOW, chunkSize: Math.max(LEAST, mixed.length) }).then((p) =>
        p.length < mixed.length ? p : layout.raw(i),
      );
    };
    for (let next = 0, i = 0; i < layout.blocks; i++) {
      while (next < layout.blocks && waiting.length < AT_ONCE) waiting.push(begin(next++));
      const chunk = await waiting.shift()!;
      const { bytesWritten } = await file.writev([layout.chunkHead(i, chunk.length), chunk], at);
      at += bytesWritten;
      sizes.push(bytesWritten);
    }
    await file.write(layout.table(sizes), 0, layout.tableBytes, tableAt);
    return at;
  } finally {
    await file.close();
  }
}
