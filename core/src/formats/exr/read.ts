import { unzlibSync } from 'fflate';
import parseExr from 'parse-exr';
import { checkSize, mended, RadianceError, type RadiancePicture } from '../radiance.ts';
import { halfValues } from './half.ts';
import { COMPRESSIONS, ExrBytes, exrLayers, readExrHead, type ExrHead } from './head.ts';

/** Names of the layers that hold a picture; '' is the one without a name. @throws RadianceError */
export const layersOf = (bytes: Uint8Array): string[] => [...exrLayers(readExrHead(bytes).channels).keys()];

/**
 * Reads one layer of an OpenEXR picture of scan lines. Every layer when nothing, run lengths or ZIP compress it; other
 * compressions and tiles through the package parse-exr, the layer without a name only.
 * @param layer of `layersOf`; the first when it is not said
 * @throws RadianceError with the reason.
 */
export function readExr(bytes: Uint8Array, layer?: string): RadiancePicture {
  const head = readExrHead(bytes);
  const { x0, y0, x1, y1 } = head.window;
  const width = x1 - x0 + 1,
    height = y1 - y0 + 1;
  checkSize(width, height);
  const layers = exrLayers(head.channels);
  const chosen = layer ?? (layers.has('') ? '' : layers.keys().next().value);
  const names = chosen === undefined ? undefined : layers.get(chosen);
  if (chosen === undefined || !names)
    throw new RadianceError(
      layers.size ? `There is no layer “${layer}”; there are ${list(layers)}.` : 'No layer has red, green and blue, or grey.',
    );
  if (head.channels.some((c) => c.xSampling !== 1 || c.ySampling !== 1))
    throw new RadianceError('Some channels are stored at a lower resolution; save them at full.');
  const notes =
    layers.size > 1
      ? [`Of its layers (${list(layers)}) the one ${chosen === '' ? 'without a name' : `named ${nameOf(chosen)}`} is used.`]
      : [];
  if (head.tiled || head.compression > 3) return throughPackage(bytes, head, chosen, notes);
  return mended(width, height, scanLines(bytes, head, names, width, height), notes);
}

const nameOf = (layer: string): string => (layer === '' ? 'without a name' : `“${layer}”`);
const list = (layers: Map<string, unknown>): string => [...layers.keys()].map(nameOf).join(', ');

/** Bytes of one value. */
const sizeOf = (type: number): number => (type === 1 ? 2 : 4);

/** Where a channel's values go: every `stride`-th of `out` from `first` on. */
export interface ExrTarget {
  name: string;
  out: Float32Array;
  stride: number;
  first: number;
  /** What they are multiplied with. */
  factor?: number;
}
/** Takes zlib's packing (RFC 1950) off; by fflate where nothing else is said. @throws what the unpacker throws */
export type Inflate = (packed: Uint8Array, size: number) => Uint8Array;
const inflateHere: Inflate = (packed, size) => unzlibSync(packed, { out: new Uint8Array(size) });

function scanLines(bytes: Uint8Array, head: ExrHead, names: string[], width: number, height: number): Float32Array {
  const rgb = new Float32Array(width * height * 3);
  fillFromLines(
    bytes,
    head,
    names.map((name, first) => ({ name, out: rgb, stride: 3, first })),
  );
  return rgb;
}

/** The places in a file where chunks begin. @throws RadianceError */
function offsetsOf(bytes: Uint8Array, head: ExrHead, blocks: number): number[] {
  const b = new ExrBytes(bytes);
  b.at = head.end;
  return Array.from({ length: blocks }, () => {
    const { buffer, byteOffset } = b.take(8);
    const start = Number(new DataView(buffer, byteOffset).getBigUint64(0, true));
    if (!(start >= head.end && start < bytes.length)) throw new RadianceError('The file is cut off: rows lie beyond its end.');
    return start;
  });
}

/**
 * Reads channels of scan lines, plain, in run lengths or as ZIP, to where they are wanted. A channel may be wanted in several places.
 * @throws RadianceError with the reason
 */
export function fillFromLines(bytes: Uint8Array, head: ExrHead, targets: readonly ExrTarget[], inflate = inflateHere): void {
  const width = head.window.x1 - head.window.x0 + 1,
    height = head.window.y1 - head.window.y0 + 1;
  const block = head.compression === 3 ? 16 : 1,
    b = new ExrBytes(bytes);
  const rowBytes = head.channels.reduce((n, c) => n + sizeOf(c.type) * width, 0);
  // where each wanted channel begins within a row; channels are kept in the order of the header
  let offset = 0;
  const wanted = head.channels.flatMap((c) => {
    const from = offset;
    offset += sizeOf(c.type) * width;
    return targets.filter((t) => t.name === c.name).map((target) => ({ from, type: c.type, factor: 1, ...target }));
  });
  const halves = wanted.some((w) => w.type === 1) ? halfValues() : undefined;
  for (const start of offsetsOf(bytes, head, Math.ceil(height / block))) {
    b.at = start;
    const y = b.i32() - head.window.y0,
      packed = b.take(b.i32());
    const rows = Math.min(block, height - y);
    if (!(y >= 0 && rows > 0)) throw new RadianceError(`A block begins at row ${y}, which the picture does not have.`);
    const raw = unpacked(packed, head.compression, rowBytes * rows, y, inflate);
    const view = new DataView(raw.buffer, raw.byteOffset, raw.byteLength);
    for (let j = 0; j < rows; j++)
      for (const { from, type, out, stride, first, factor } of wanted) {
        let at = j * rowBytes + from,
          to = (y + j) * width * stride + first;
        if (type === 1) for (let i = 0; i < width; i++, at += 2, to += stride) out[to] = halves![view.getUint16(at, true)]! * factor;
        else if (type === 2) for (let i = 0; i < width; i++, at += 4, to += stride) out[to] = view.getFloat32(at, true) * factor;
        else for (let i = 0; i < width; i++, at += 4, to += stride) out[to] = view.getUint32(at, true) * factor;
      }
  }
}

/** Takes the compression off a block of `size` bytes. */
function unpacked(packed: Uint8Array, compression: number, size: number, row: number, inflate: Inflate): Uint8Array {
  // what did not get smaller is stored as it is
  if (compression === 0 || packed.length === size) {
    if (packed.length < size) throw new RadianceError(`Row ${row} is cut off.`);
    return packed;
  }
  let mixed: Uint8Array;
  try {
    mixed = compression === 1 ? runLengths(packed, size) : inflate(packed, size);
  } catch (error) {
    throw new RadianceError(`Row ${row} cannot be decompressed: ${error instanceof Error ? error.message : String(error)}`);
  }
  if (mixed.length !== size) throw new RadianceError(`Row ${row} has ${mixed.length} bytes instead of ${size}.`);
  // differences back to values, the two halves back between each other
  const out = new Uint8Array(size),
    half = (size + 1) >> 1;
  let value = 128;
  for (let i = 0, to = 0; i < half; i++, to += 2) out[to] = value = (value + mixed[i]! - 128) & 255;
  for (let i = half, to = 1; i < size; i++, to += 2) out[to] = value = (value + mixed[i]! - 128) & 255;
  return out;
}

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

const FLOAT_TYPE = 1015;

function throughPackage(bytes: Uint8Array, head: ExrHead, layer: string, notes: string[]): RadiancePicture {
  if (layer !== '')
    throw new RadianceError(
      `Layers can be chosen in ZIP-compressed files; this one is ${COMPRESSIONS[head.compression]!}${head.tiled ? ', tiled' : ''}.`,
    );
  try {
    // a Buffer's own slice would not copy
    const copy = Uint8Array.from(bytes).buffer;
    const { width, height, data } = parseExr(copy, FLOAT_TYPE);
    const channels = data.length / (width * height);
    const rgb = new Float32Array(width * height * 3);
    for (let y = 0; y < height; y++)
      for (let x = 0; x < width; x++)
        // the package puts the last row first
        for (let c = 0; c < 3; c++)
          rgb[(y * width + x) * 3 + c] = data[((height - 1 - y) * width + x) * channels + (channels < 3 ? 0 : c)]!;
    return mended(width, height, rgb, notes);
  } catch (error) {
    throw new RadianceError(`${COMPRESSIONS[head.compression]!}: ${error instanceof Error ? error.message : String(error)}`);
  }
}
