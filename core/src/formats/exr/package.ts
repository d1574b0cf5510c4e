// Compressions and tiles that the package parse-exr reads.
import parseExr from 'parse-exr';
import { RadianceError } from '../radiance.ts';
import { COMPRESSIONS, ExrBytes, sizeOfWindow, type ExrHead } from './head.ts';

const FLOAT_TYPE = 1015;

/** Lines of a block, by compression. */
const BLOCK_LINES = [1, 1, 1, 16, 32, 16, 32, 32, 32, 256] as const;

/**
 * A file of its own memory whose blocks lie from the top, and that says so: the package takes them as they come.
 * @throws RadianceError where they are cut off
 */
function fromTheTop(bytes: Uint8Array, head: ExrHead): Uint8Array<ArrayBuffer> {
  if (head.tiled || head.orderAt === 0 || bytes[head.orderAt] !== 1) return Uint8Array.from(bytes);
  const file = new ExrBytes(bytes),
    [, height] = sizeOfWindow(head.window);
  file.at = head.end;
  const starts = Array.from({ length: Math.ceil(height / BLOCK_LINES[head.compression]!) }, () => {
    const { buffer, byteOffset } = file.take(8);
    return Number(new DataView(buffer, byteOffset).getBigUint64(0, true));
  });
  const blocks = starts.map((start) => {
    file.at = Math.min(start, bytes.length);
    const y = file.i32();
    file.take(file.i32());
    return { y, bytes: bytes.subarray(start, file.at) };
  });
  const size = blocks.reduce((n, b) => n + b.bytes.length, 0);
  if (size > bytes.length) throw new RadianceError('Its blocks lie over each other.');
  blocks.sort((a, b) => a.y - b.y);
  const begin = head.end + starts.length * 8,
    out = new Uint8Array(begin + size),
    table = new DataView(out.buffer);
  out.set(bytes.subarray(0, head.end));
  out[head.orderAt] = 0;
  blocks.reduce((at, block, i) => {
    table.setBigUint64(head.end + i * 8, BigInt(at), true);
    out.set(block.bytes, at);
    return at + block.bytes.length;
  }, begin);
  return out;
}

/** The layer without a name of what only the package reads: tiles, and other compressions than ZIP and run lengths. @throws RadianceError */
export function throughPackage(bytes: Uint8Array, head: ExrHead, layer: string): Float32Array {
  if (layer !== '')
    throw new RadianceError(
      `Layers can be chosen in ZIP-compressed files; this one is ${COMPRESSIONS[head.compression]!}${head.tiled ? ', tiled' : ''}.`,
    );
  try {
    const { width, height, data } = parseExr(fromTheTop(bytes, head).buffer, FLOAT_TYPE);
    const channels = data.length / (width * height);
    const rgb = new Float32Array(width * height * 3);
    for (let y = 0; y < height; y++)
      for (let x = 0; x < width; x++)
        // the package puts the last row first
        for (let c = 0; c < 3; c++)
          rgb[(y * width + x) * 3 + c] = data[((height - 1 - y) * width + x) * channels + (channels < 3 ? 0 : c)]!;
    return rgb;
  } catch (error) {
    if (error instanceof RadianceError) throw error;
    throw new RadianceError(`${COMPRESSIONS[head.compression]!}: ${error instanceof Error ? error.message : String(error)}`);
  }
}
