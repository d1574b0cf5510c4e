// OpenEXR 2 scan-line files: channels in blocks of sixteen lines, packed as ZIP (the OpenEXR file layout, openexr.com, public specification).
import { plainStored, type StoredMath, type StoredRow } from '@plinket/kernel';

/** How a channel's values are stored; the number is the layout's. */
export const EXR_TYPES = { half: 1, float: 2 } as const;

/** One channel of a picture, row by row from the top. */
export interface ExrChannel {
  name: string;
  data: Float32Array;
  /** As 32-bit float where nothing else is said. */
  type?: keyof typeof EXR_TYPES;
}

const ascii = (text: string): number[] => [...text].map((c) => c.charCodeAt(0));
/** ZIP, by blocks of so many lines. */
const ZIP = 3,
  LINES = 16;

class Bytes {
  private readonly parts: number[] = [];
  get length(): number {
    return this.parts.length;
  }
  u8(...v: number[]): this {
    for (const b of v) this.parts.push(b);
    return this;
  }
  i32(v: number): this {
    return this.u8(v & 255, (v >>> 8) & 255, (v >>> 16) & 255, (v >>> 24) & 255);
  }
  f32(v: number): this {
    return this.i32(new Int32Array(Float32Array.of(v).buffer)[0]!);
  }
  text(v: string): this {
    return this.u8(...ascii(v), 0);
  }
  attribute(name: string, type: string, value: Bytes): this {
    this.text(name).text(type).i32(value.length);
    for (const b of value.parts) this.parts.push(b);
    return this;
  }
  string(name: string, value: string): this {
    const bytes = new Bytes();
    for (let i = 0; i < value.length; i++) bytes.u8(value.charCodeAt(i));
    return this.attribute(name, 'string', bytes);
  }
  array(): Uint8Array {
    return Uint8Array.from(this.parts);
  }
}

/**
 * A file that is about to be written, block by block: first its `head`, room for the table of offsets, then the chunks. Who writes packs the blocks as it
 * likes (zlib), and fills the table in at the end.
 */
export class ExrLayout {
  readonly head: Uint8Array;
  /** How many blocks there are. */
  readonly blocks: number;
  private readonly width: number;
  private readonly height: number;
  private readonly channels: readonly ExrChannel[];
  private readonly rowBytes: number;
  private readonly stored: StoredMath;

  /**
   * @param channels in any order; the file holds them by name, as the layout asks
   * @param text string attributes (ASCII)
   * @param stored makes the blocks; the kernel's is quicker
   * @throws RangeError when a channel does not have width × height values, or two have one name
   */
  constructor(
    width: number,
    height: number,
    channels: readonly ExrChannel[],
    text: Record<string, string> = {},
    stored: StoredMath = plainStored(),
  ) {
    const sorted = [...channels].sort((a, b) => (a.name < b.name ? -1 : 1));
    for (const c of sorted)
      if (c.data.length !== width * height)
        throw new RangeError(`Channel ${c.name} has ${c.data.length} values for ${width} × ${height} pixels.`);
    if (new Set(sorted.map((c) => c.name)).size !== sorted.length) throw new RangeError('Two channels have the same name.');
    this.width = width;
    this.height = height;
    this.channels = sorted;
    this.stored = stored;
    this.blocks = Math.ceil(height / LINES);
    this.rowBytes = sorted.reduce((n, c) => n + (c.type === 'half' ? 2 : 4) * width, 0);
    const list = new Bytes();
    for (const c of sorted)
      list
        .text(c.name)
        .i32(EXR_TYPES[c.type ?? 'float'])
        .i32(0)
        .i32(1)
        .i32(1);
    list.u8(0);
    const window = () =>
      new Bytes()
        .i32(0)
        .i32(0)
        .i32(width - 1)
        .i32(height - 1);
    const longNames = [...sorted.map((c) => c.name), ...Object.keys(text)].some((name) => name.length > 31);
    const header = new Bytes().i32(20000630).i32(longNames ? 0x402 : 2);
    header
      .attribute('channels', 'chlist', list)
      .attribute('compression', 'compression', new Bytes().u8(ZIP))
      .attribute('dataWindow', 'box2i', window())
      .attribute('displayWindow', 'box2i', window())
      .attribute('lineOrder', 'lineOrder', new Bytes().u8(0))
      .attribute('pixelAspectRatio', 'float', new Bytes().f32(1))
      .attribute('screenWindowCenter', 'v2f', new Bytes().f32(0).f32(0))
      .attribute('screenWindowWidth', 'float', new Bytes().f32(1));
    for (const [name, value] of Object.entries(text)) header.string(name, value);
    this.head = header.u8(0).array();
  }

  /** Bytes of all pixels before they are packed. */
  get rawBytes(): number {
    return this.rowBytes * this.height;
  }

  /** Bytes of the table of offsets, which stands between head and chunks. */
  get tableBytes(): number {
    return this.blocks * 8;
  }

  private *rowsOf(block: number): Generator<StoredRow> {
    const { width, channels } = this,
      first = block * LINES;
    for (let y = first; y < Math.min(first + LINES, this.height); y++)
      for (const { data, type } of channels) yield { data, from: y * width, count: width, half: type === 'half' };
  }

  /** A block's lines as they are, channel after channel: what is stored where it does not get smaller. */
  raw(block: number): Uint8Array {
    return this.stored.block([...this.rowsOf(block)], false);
  }

  /** A block mixed as ZIP wants it before it is deflated. */
  mixed(block: number): Uint8Array {
    return this.stored.block([...this.rowsOf(block)], true);
  }

  /** A chunk's own head: its first line, and how many bytes follow. */
  chunkHead(block: number, bytes: number): Uint8Array {
    const out = new Uint8Array(8),
      view = new DataView(out.buffer);
    view.setInt32(0, block * LINES, true);
    view.setInt32(4, bytes, true);
    return out;
  }

  /** The table of offsets, of chunks that have so many bytes with their heads. */
  table(chunks: readonly number[]): Uint8Array {
    const out = new Uint8Array(this.tableBytes),
      view = new DataView(out.buffer);
    let at = this.head.length + this.tableBytes;
    chunks.forEach((bytes, i) => {
      view.setBigUint64(i * 8, BigInt(at), true);
      at += bytes;
    });
    return out;
  }
}
