// OpenEXR 2 scan-line files: 32-bit float channels in blocks of sixteen lines, packed as ZIP (the OpenEXR file layout, openexr.com, public
// specification). Read back by independent readers in the tests of formats and of the command line.
import { zlibSync } from 'fflate';

/** One channel of a picture, row by row from the top. */
export interface ExrChannel {
  name: string;
  data: Float32Array;
}

const ascii = (text: string): number[] => [...text].map((c) => c.charCodeAt(0));
const FLOAT = 2;
/** ZIP, by blocks of so many lines, and how hard it tries: as much as OpenEXR's own library does. */
const ZIP = 3,
  LINES = 16,
  LEVEL = 4;

/**
 * A block as ZIP wants it: first all even bytes, then all odd ones, each as its difference from the one before plus 128; deflated. What does not get
 * smaller is stored as it is.
 */
function packed(raw: Uint8Array): Uint8Array {
  const size = raw.length,
    half = (size + 1) >> 1,
    split = new Uint8Array(size);
  for (let i = 0; i < size; i++) split[i & 1 ? half + (i >> 1) : i >> 1] = raw[i]!;
  for (let i = size - 1; i > 0; i--) split[i] = split[i]! - split[i - 1]! + 128;
  const out = zlibSync(split, { level: LEVEL });
  return out.length < size ? out : raw;
}

class Bytes {
  private readonly parts: number[] = [];
  get length(): number {
    return this.parts.length;
  }
  u8(...v: number[]): this {
    this.parts.push(...v);
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
  array(): Uint8Array {
    return Uint8Array.from(this.parts);
  }
}

/**
 * Writes an EXR. Channels may come in any order; the file holds them by name, as the layout asks.
 * `text` becomes string attributes (ASCII).
 * @throws RangeError when a channel does not have width × height values, or two have one name.
 */
export function writeExr(width: number, height: number, channels: ExrChannel[], text: Record<string, string> = {}): Uint8Array {
  const sorted = [...channels].sort((a, b) => (a.name < b.name ? -1 : 1));
  for (const c of sorted)
    if (c.data.length !== width * height)
      throw new RangeError(`Channel ${c.name} has ${c.data.length} values for ${width} × ${height} pixels.`);
  if (new Set(sorted.map((c) => c.name)).size !== sorted.length) throw new RangeError('Two channels have the same name.');
  const list = new Bytes();
  for (const c of sorted) list.text(c.name).i32(FLOAT).i32(0).i32(1).i32(1);
  list.u8(0);
  const window = () =>
    new Bytes()
      .i32(0)
      .i32(0)
      .i32(width - 1)
      .i32(height - 1);
  const longNames = sorted.some((c) => c.name.length > 31);
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
  for (const [name, value] of Object.entries(text)) header.attribute(name, 'string', new Bytes().u8(...ascii(value)));
  header.u8(0);
  const head = header.array();
  const line = width * 4,
    blocks: Uint8Array[] = [];
  for (let y = 0; y < height; y += LINES) {
    const rows = Math.min(LINES, height - y),
      raw = new Uint8Array(rows * sorted.length * line);
    let o = 0;
    for (let row = y; row < y + rows; row++)
      for (const { data } of sorted) {
        raw.set(new Uint8Array(data.buffer, data.byteOffset + row * line, line), o);
        o += line;
      }
    blocks.push(packed(raw));
  }
  const table = head.length + blocks.length * 8;
  const out = new Uint8Array(blocks.reduce((n, b) => n + 8 + b.length, table)),
    view = new DataView(out.buffer);
  out.set(head);
  let at = table;
  blocks.forEach((block, i) => {
    view.setBigUint64(head.length + i * 8, BigInt(at), true);
    view.setInt32(at, i * LINES, true);
    view.setInt32(at + 4, block.length, true);
    out.set(block, at + 8);
    at += 8 + block.length;
  });
  return out;
}
