import { plainStored, type StoredMath, type StoredType } from '@plinket/kernel';
import { unzlibSync } from 'fflate';
import { checkSize, mended, RadianceError, type RadiancePicture } from '../radiance.ts';
import { ExrBytes, exrLayers, readExrHead, sizeOfWindow, type ExrHead } from './head.ts';
import { throughPackage } from './package.ts';

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
  const [width, height] = sizeOfWindow(head.window);
  checkSize(width, height);
  checkSize(...sizeOfWindow(head.display));
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
  const rgb = head.tiled || head.compression > 3 ? throughPackage(bytes, head, chosen) : scanLines(bytes, head, names, width, height);
  return displayed(rgb, head, notes);
}

/** The picture as it is displayed: of a data window that is another only what lies within, and black around it. */
function displayed(rgb: Float32Array, { window, display }: ExrHead, notes: string[]): RadiancePicture {
  const [width, height] = sizeOfWindow(display),
    [wide, high] = sizeOfWindow(window);
  if (window.x0 === display.x0 && window.y0 === display.y0 && wide === width && high === height) return mended(width, height, rgb, notes);
  const out = new Float32Array(width * height * 3);
  const left = Math.max(window.x0, display.x0),
    right = Math.min(window.x1, display.x1);
  for (let y = Math.max(window.y0, display.y0); y <= Math.min(window.y1, display.y1) && right >= left; y++) {
    const from = ((y - window.y0) * wide + left - window.x0) * 3;
    out.set(rgb.subarray(from, from + (right - left + 1) * 3), ((y - display.y0) * width + left - display.x0) * 3);
  }
  return mended(width, height, out, [
    ...notes,
    `Its pixels are ${wide} × ${high} from ${window.x0 - display.x0}, ${window.y0 - display.y0} on; around them it is black.`,
  ]);
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
type Inflate = (packed: Uint8Array, size: number) => Uint8Array;
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

/** A block of lines as it lies in the file. */
interface PackedBlock {
  y: number;
  rows: number;
  /** Bytes that it has unpacked. */
  size: number;
  packed: Uint8Array;
  /** It is stored as it is. */
  plain: boolean;
}

/** Reads channels of scan lines, plain, in run lengths or as ZIP, to where they are wanted, block by block. A channel may be wanted in several places. */
class LineReader {
  /** Where the blocks begin. */
  private readonly offsets: number[];
  private readonly bytes: ExrBytes;
  private readonly head: ExrHead;
  private readonly width: number;
  private readonly height: number;
  private readonly channels: { type: StoredType; wants: ExrTarget[] }[];
  private readonly stored: StoredMath;

  /** @throws RadianceError when the file is cut off */
  constructor(bytes: Uint8Array, head: ExrHead, targets: readonly ExrTarget[], stored: StoredMath) {
    const { x0, x1, y0, y1 } = head.window;
    this.head = head;
    this.width = x1 - x0 + 1;
    this.height = y1 - y0 + 1;
    // channels are kept in the order of the header
    this.channels = head.channels.map(({ name, type }) => ({ type, wants: targets.filter((t) => t.name === name) }));
    this.stored = stored;
    this.bytes = new ExrBytes(bytes);
    this.bytes.at = head.end;
    this.offsets = Array.from({ length: Math.ceil(this.height / this.linesOfBlock) }, () => {
      const { buffer, byteOffset } = this.bytes.take(8);
      const start = Number(new DataView(buffer, byteOffset).getBigUint64(0, true));
      if (!(start >= head.end && start < bytes.length)) throw new RadianceError('The file is cut off: rows lie beyond its end.');
      return start;
    });
  }

  get blocks(): number {
    return this.offsets.length;
  }
  private get linesOfBlock(): number {
    return this.head.compression === 3 ? 16 : 1;
  }

  /** @throws RadianceError */
  packed(block: number): PackedBlock {
    const { bytes, head, width, height } = this;
    bytes.at = this.offsets[block]!;
    const y = bytes.i32() - head.window.y0,
      packed = bytes.take(bytes.i32());
    const rows = Math.min(this.linesOfBlock, height - y);
    if (!(y >= 0 && rows > 0)) throw new RadianceError(`A block begins at row ${y}, which the picture does not have.`);
    const size = rows * head.channels.reduce((n, c) => n + sizeOf(c.type) * width, 0);
    // what did not get smaller is stored as it is
    const plain = head.compression === 0 || packed.length === size;
    if (plain && packed.length < size) throw new RadianceError(`Row ${y} is cut off.`);
    return { y, rows, size, packed, plain };
  }

  /** Puts a block's values to where they are wanted; `unpacked` is without its packing, its bytes still mixed. @throws RadianceError */
  place({ y, rows, size, plain }: PackedBlock, unpacked: Uint8Array): void {
    const { width, stored } = this;
    if (unpacked.length !== size && !plain) throw new RadianceError(`Row ${y} has ${unpacked.length} bytes instead of ${size}.`);
    stored.take(unpacked, !plain);
    for (let j = 0, at = 0; j < rows; j++)
      for (const { type, wants } of this.channels) {
        for (const { out, stride, first, factor = 1 } of wants)
          stored.row(at, type, width, out, (y + j) * width * stride + first, stride, factor);
        at += width * sizeOf(type);
      }
  }

  /** What is said where a block's packing cannot be taken off. */
  damaged({ y }: PackedBlock, error: unknown): RadianceError {
    return new RadianceError(`Row ${y} cannot be decompressed: ${error instanceof Error ? error.message : String(error)}`);
  }
}

/** @throws RadianceError with the reason */
function fillFromLines(bytes: Uint8Array, head: ExrHead, targets: readonly ExrTarget[]): void {
  const reader = new LineReader(bytes, head, targets, plainStored());
  for (let i = 0; i < reader.blocks; i++) {
    const block = reader.packed(i);
    let unpacked = block.packed;
    try {
      if (!block.plain) unpacked = head.compression === 1 ? runLengths(unpacked, block.size) : inflateHere(unpacked, block.size);
    } catch (error) {
      throw reader.damaged(block, error);
    }
    reader.place(block, unpacked);
  }
}

/** Blocks that are unpacked at once. */
const AT_ONCE = 8;

/**
 * The same where somebody else takes the packing off meanwhile: threads of Node, or the browser's own streams.
 * @param stored puts values where they are wanted; that of the films, where these are wanted
 * @throws RadianceError with the reason
 */
export async function fillFromLinesBy(
  bytes: Uint8Array,
  head: ExrHead,
  targets: readonly ExrTarget[],
  stored: StoredMath,
  inflate: (packed: Uint8Array, size: number) => Promise<Uint8Array> | Uint8Array = inflateHere,
): Promise<void> {
  const reader = new LineReader(bytes, head, targets, stored),
    waiting: { block: PackedBlock; unpacked: Promise<Uint8Array> }[] = [];
  const begin = (i: number): void => {
    const block = reader.packed(i);
    const unpack = async (): Promise<Uint8Array> => {
      if (block.plain) return block.packed;
      return head.compression === 1 ? runLengths(block.packed, block.size) : inflate(block.packed, block.size);
    };
    const unpacked = unpack();
    // heard of when its turn comes
    unpacked.catch(() => undefined);
    waiting.push({ block, unpacked });
  };
  for (let i = 0, next = 0; i < reader.blocks; i++) {
    while (next < reader.blocks && waiting.length < AT_ONCE) begin(next++);
    const { block, unpacked } = waiting.shift()!;
    reader.place(
      block,
      await unpacked.catch((error: unknown) => {
        throw reader.damaged(block, error);
      }),
    );
  }
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
