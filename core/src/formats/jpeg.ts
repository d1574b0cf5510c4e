// @ts-expect-error the package ships no types; what it exports is told below
import createModule from '@cornerstonejs/codec-libjpeg-turbo-8bit/decodewasmjs';
import { decode as decodeSlowly } from 'jpeg-js';
import { FILE_LIMITS, sharedInts } from '../math/index.ts';

interface Decoder {
  getEncodedBuffer(size: number): Uint8Array;
  decode(): void;
  getFrameInfo(): { width: number; height: number; componentCount: number };
  getDecodedBuffer(): Uint8Array;
  delete(): void;
}
/** Makes the decoder from the bytes of its WebAssembly. */
const makeModule = createModule as (options: { wasmBinary: Uint8Array }) => Promise<{ JPEGDecoder: new () => Decoder }>;

/** RGBA, row by row from the top. */
export interface Pixels {
  width: number;
  height: number;
  data: Uint8Array;
}
export type JpegDecoder = (bytes: Uint8Array) => Pixels;

/** Width and height that a JPEG says in its frame header (ITU-T T.81, B.2.2), before anything is unpacked; nothing where there is none. */
export function jpegSize(bytes: Uint8Array): { width: number; height: number; components: number } | undefined {
  const two = (i: number): number => (bytes[i]! << 8) | bytes[i + 1]!;
  for (let i = 2; i + 9 < bytes.length;) {
    if (bytes[i] !== 0xff) return undefined;
    const marker = bytes[i + 1]!;
    // fill bytes before a marker, and markers that stand alone
    if (marker === 0xff) i++;
    else if (marker === 0x01 || (marker >= 0xd0 && marker <= 0xd7)) i += 2;
    // frames C0…CF, but for the tables of Huffman and arithmetic codes and the reserved one
    else if (marker >= 0xc0 && marker <= 0xcf && marker !== 0xc4 && marker !== 0xc8 && marker !== 0xcc)
      return { height: two(i + 5), width: two(i + 7), components: bytes[i + 9]! };
    else i += 2 + two(i + 2);
  }
  return undefined;
}

/** A JPEG by jpeg-js: slow, and reads nearly everything. @throws Error naming the reason */
export const slowJpeg: JpegDecoder = (bytes) =>
  decodeSlowly(bytes, { useTArray: true, maxResolutionInMP: FILE_LIMITS.picturePixels / 1e6, maxMemoryUsageInMB: 1024 });

/**
 * A decoder of JPEG by libjpeg-turbo, some fifteen times as fast as jpeg-js. What it does not read, jpeg-js is asked for.
 * @param wasm the bytes of the package's libjpegturbowasm_decode.wasm
 */
export async function fastJpeg(wasm: Uint8Array): Promise<JpegDecoder> {
  const module = await makeModule({ wasmBinary: wasm });
  return (bytes) => {
    const size = jpegSize(bytes);
    if (!size || size.components !== 3 || size.width * size.height > FILE_LIMITS.picturePixels) return slowJpeg(bytes);
    const decoder = new module.JPEGDecoder();
    try {
      decoder.getEncodedBuffer(bytes.length).set(bytes);
      decoder.decode();
      const { width, height, componentCount } = decoder.getFrameInfo(),
        from = decoder.getDecodedBuffer();
      if (componentCount !== 3 || from.length !== width * height * 3) return slowJpeg(bytes);
      // shared, so that the threads that trace need no copy; four bytes at once: all machines that run WebAssembly here have the lowest first
      const words = sharedInts(width * height);
      for (let i = 0, j = 0; i < words.length; i++, j += 3) words[i] = 0xff000000 | (from[j + 2]! << 16) | (from[j + 1]! << 8) | from[j]!;
      return { width, height, data: new Uint8Array(words.buffer) };
    } catch {
      return slowJpeg(bytes);
    } finally {
      decoder.delete();
    }
  };
}
