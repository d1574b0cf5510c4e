// Blocks of a picture: so many lines, or tiles (OpenEXR file layout, openexr.com, public specification).
import type { StoredMath, StoredType } from '@plinket/kernel';
import { RadianceError } from '../radiance.ts';
import { ExrBytes, sizeOfWindow, type ExrHead } from './head.ts';
import { isMixed, type PackedBlock } from './unpack.ts';

/** Lines of a block, by compression. */
const BLOCK_LINES = [1, 1, 1, 16, 32, 16, 32, 32, 32, 256] as const;

/** Bytes of one value. */
const sizeOf = (type: StoredType): number => (type === 1 ? 2 : 4);

/** Where a channel's values go: every `stride`-th of `out` from `first` on. */
export interface ExrTarget {
  name: string;
  out: Float32Array;
  stride: number;
  first: number;
  /** What they are multiplied with. */
  factor?: number;
}

/** Finds a picture's blocks, and puts the values of channels to where they are wanted. A channel may be wanted in several places. */
export class BlockReader {
  /** Where the blocks begin; of tiles in several sizes those of the first. */
  private readonly offsets: number[];
  private readonly bytes: ExrBytes;
  private readonly head: ExrHead;
  private readonly width: number;
  private readonly height: number;
  private readonly channels: { type: StoredType; wants: ExrTarget[] }[];
  private readonly stored: StoredMath;

  /** @throws RadianceError when the file is cut off */
  constructor(bytes: Uint8Array, head: ExrHead, targets: readonly ExrTarget[], stored: StoredMath) {
    this.head = head;
    [this.width, this.height] = sizeOfWindow(head.window);
    // channels are kept in the order of the header
    this.channels = head.channels.map(({ name, type }) => ({ type, wants: targets.filter((t) => t.name === name) }));
    this.stored = stored;
    this.bytes = new ExrBytes(bytes);
    this.bytes.at = head.end;
    const { tile } = head;
    const count = tile ? this.tilesAcross * Math.ceil(this.height / tile[1]) : Math.ceil(this.height / this.linesOfBlock);
    // asked before so many are read
    if (head.end + count * 8 > bytes.length) throw new RadianceError('The file is cut off: its table of blocks is not complete.');
    this.offsets = Array.from({ length: count }, () => {
      const start = this.bytes.u64();
      if (!(start >= head.end && start < bytes.length)) throw new RadianceError('The file is cut off: rows lie beyond its end.');
      return start;
    });
  }

  get blocks(): number {
    return this.offsets.length;
  }
  private get linesOfBlock(): number {
    return BLOCK_LINES[this.head.compression]!;
  }
  private get tilesAcross(): number {
    return Math.ceil(this.width / (this.head.tile?.[0] ?? this.width));
  }

  /** @throws RadianceError */
  packed(block: number): PackedBlock {
    const { bytes, head, width, height } = this;
    bytes.at = this.offsets[block]!;
    if (head.part && bytes.i32() !== head.part.number) throw new RadianceError(`A block of “${head.part.name}” is another part’s.`);
    const [x, y] = head.tile ? this.tileAt(head.tile) : [0, bytes.i32() - head.window.y0];
    const packed = bytes.take(bytes.i32());
    const columns = head.tile ? Math.min(head.tile[0], width - x) : width,
      rows = Math.min(head.tile?.[1] ?? this.linesOfBlock, height - y);
    if (!(y >= 0 && x >= 0 && rows > 0 && columns > 0))
      throw new RadianceError(`A block begins at row ${y}, which the picture does not have.`);
    const size = rows * head.channels.reduce((n, c) => n + sizeOf(c.type) * columns, 0);
    // what did not get smaller is stored as it is
    const plain = head.compression === 0 || packed.length === size;
    if (plain && packed.length < size) throw new RadianceError(`Row ${y} is cut off.`);
    return { x, y, columns, rows, size, packed, plain };
  }

  /** The first pixel of the tile that is being read. @throws RadianceError where it is one of a smaller picture */
  private tileAt([wide, high]: [number, number]): [number, number] {
    const { bytes } = this;
    const [column, row, across, down] = [bytes.i32(), bytes.i32(), bytes.i32(), bytes.i32()] as const;
    if (across !== 0 || down !== 0) throw new RadianceError('A tile of the picture belongs to one of its smaller copies.');
    return [column * wide, row * high];
  }

  /** Puts a block's values to where they are wanted; `unpacked` is without its packing, its bytes still mixed. @throws RadianceError */
  place({ x, y, rows, columns, size, plain }: PackedBlock, unpacked: Uint8Array): void {
    const { width, stored } = this;
    if (unpacked.length !== size && !plain) throw new RadianceError(`Row ${y} has ${unpacked.length} bytes instead of ${size}.`);
    stored.take(unpacked, !plain && isMixed(this.head.compression));
    for (let j = 0, at = 0; j < rows; j++)
      for (const { type, wants } of this.channels) {
        for (const { out, stride, first, factor = 1 } of wants)
          stored.row(at, type, columns, out, ((y + j) * width + x) * stride + first, stride, factor);
        at += columns * sizeOf(type);
      }
  }

  /** What is said where a block's packing cannot be taken off. */
  damaged({ y }: PackedBlock, error: unknown): RadianceError {
    return new RadianceError(`Row ${y} cannot be decompressed: ${error instanceof Error ? error.message : String(error)}`);
  }
}
