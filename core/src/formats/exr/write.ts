// A whole OpenEXR file at once. Read back by independent readers in the tests of formats and of the command line.
import { zlibSync } from 'fflate';
import { ExrLayout, type ExrChannel } from './layout.ts';

/** How hard it tries: as much as OpenEXR's own library does. */
const LEVEL = 4;

/**
 * Writes an EXR of scan lines, packed as ZIP. Channels may come in any order; the file holds them by name, as the layout asks.
 * `text` becomes string attributes (ASCII).
 * @throws RangeError when a channel does not have width × height values, or two have one name.
 */
export function writeExr(width: number, height: number, channels: ExrChannel[], text: Record<string, string> = {}): Uint8Array {
  const layout = new ExrLayout(width, height, channels, text),
    chunks: Uint8Array[] = [];
  for (let i = 0; i < layout.blocks; i++) {
    const mixed = layout.mixed(i),
      packed = zlibSync(mixed, { level: LEVEL });
    // what does not get smaller is stored as it is
    chunks.push(packed.length < mixed.length ? packed : layout.raw(i));
  }
  const parts = [
    layout.head,
    layout.table(chunks.map((c) => c.length + 8)),
    ...chunks.flatMap((c, i) => [layout.chunkHead(i, c.length), c]),
  ];
  const out = new Uint8Array(parts.reduce((n, p) => n + p.length, 0));
  let at = 0;
  for (const part of parts) {
    out.set(part, at);
    at += part.length;
  }
  return out;
}
