// The header of an OpenEXR file (public file layout, openexr.com).
import type { StoredType } from '@plinket/kernel';
import { FILE_LIMITS } from '../../math/index.ts';
import { RadianceError } from '../radiance.ts';

export const COMPRESSIONS = ['none', 'run length', 'ZIPS', 'ZIP', 'PIZ', 'PXR24', 'B44', 'B44A', 'DWAA', 'DWAB'] as const;

export interface ExrHeadChannel {
  name: string;
  /** 0: 32-bit integer, 1: half, 2: float. */
  type: StoredType;
  /** Who packs with loss takes its values as they are, not by their logarithms. */
  linear: boolean;
  xSampling: number;
  ySampling: number;
}

/** First and last pixel of a part of the plane. */
export interface ExrWindow {
  x0: number;
  y0: number;
  x1: number;
  y1: number;
}

/** Width and height. */
export const sizeOfWindow = ({ x0, y0, x1, y1 }: ExrWindow): [number, number] => [x1 - x0 + 1, y1 - y0 + 1];

/** What a file says of a picture in it; a file may have several, its parts. */
export interface ExrHead {
  /** Name and number of the part; a file of one picture has neither, and its blocks do not say theirs. */
  part: { name: string; number: number } | undefined;
  channels: ExrHeadChannel[];
  compression: number;
  /** What there are pixels of. */
  window: ExrWindow;
  /** What the picture is: its data window may be larger or smaller. */
  display: ExrWindow;
  /** Width and height of its tiles; nothing where it lies in lines. */
  tile: [number, number] | undefined;
  /** String attributes. */
  text: Record<string, string>;
  /** Where its table of offsets begins. */
  end: number;
}

/** Reads bytes in order. @throws RadianceError when they end. */
export class ExrBytes {
  at = 0;
  readonly view: DataView;
  private readonly bytes: Uint8Array;
  constructor(bytes: Uint8Array) {
    this.bytes = bytes;
    this.view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  }
  private need(n: number): void {
    if (this.at + n > this.bytes.length)
      throw new RadianceError(`The file ends at byte ${this.bytes.length}, within what is still needed.`);
  }
  i32(): number {
    this.need(4);
    this.at += 4;
    return this.view.getInt32(this.at - 4, true);
  }
  u8(): number {
    this.need(1);
    return this.bytes[this.at++]!;
  }
  /** Exact up to 2^53. */
  u64(): number {
    this.need(8);
    this.at += 8;
    return Number(this.view.getBigUint64(this.at - 8, true));
  }
  text(most = 255): string {
    let out = '';
    for (let c = this.u8(); c !== 0; c = this.u8()) {
      if (out.length >= most) throw new RadianceError('A name in the header does not end.');
      out += String.fromCharCode(c);
    }
    return out;
  }
  /** All that is left, as characters. */
  ascii(): string {
    let out = '';
    for (const b of this.take(this.bytes.length - this.at)) out += String.fromCharCode(b);
    return out;
  }
  take(n: number): Uint8Array {
    if (n < 0) throw new RadianceError('A length in the file is below 0.');
    this.need(n);
    this.at += n;
    return this.bytes.subarray(this.at - n, this.at);
  }
}

/** Bits of the word that follows the magic number. */
const TILED = 0x200,
  DEEP = 0x800,
  SEVERAL = 0x1000;

/**
 * The pictures of a file, each with its head; those of deep pixels are left out.
 * @throws RadianceError, also where all are deep
 */
export function readExrHeads(bytes: Uint8Array): ExrHead[] {
  const b = new ExrBytes(bytes);
  if (b.i32() !== 20000630) throw new RadianceError('This is no OpenEXR file: its first four bytes are others.');
  const version = b.i32();
  if ((version & 255) !== 2) throw new RadianceError(`OpenEXR version ${version & 255} cannot be read; 2 can.`);
  const found: PartHead[] = [];
  if (!(version & SEVERAL)) {
    found.push(readPart(b, undefined, (version & TILED) !== 0, (version & DEEP) !== 0));
    found[0]!.head.end = b.at;
  } else {
    for (let name = b.text(); name !== ''; name = b.text()) {
      if (found.length >= FILE_LIMITS.exrParts) throw new RadianceError(`The file has more than ${FILE_LIMITS.exrParts} parts.`);
      found.push(readPart(b, found.length, false, false, name));
    }
    // their tables follow one another
    let end = b.at;
    for (const { head, chunks } of found) {
      head.end = end;
      end += chunks * 8;
    }
  }
  const flat = found.filter((p) => !p.deep).map((p) => p.head);
  if (!flat.length)
    throw new RadianceError(found.length ? 'The file holds deep pixels; flat ones can be read.' : 'The file has no picture.');
  return flat;
}

/** The head of a file that has one picture. @throws RadianceError, also where it has several */
export function readExrHead(bytes: Uint8Array): ExrHead {
  const heads = readExrHeads(bytes);
  if (heads.length > 1) throw new RadianceError('The file has several parts; save the one you want as a file of its own.');
  return heads[0]!;
}

/** A head that is still to be told where its table begins. */
interface PartHead {
  head: ExrHead;
  deep: boolean;
  chunks: number;
}

/** @param first name of the first attribute, where it has been read */
function readPart(b: ExrBytes, number: number | undefined, tiled: boolean, deep: boolean, first?: string): PartHead {
  const text: Record<string, string> = {};
  let channels: ExrHeadChannel[] | undefined,
    compression: number | undefined,
    window: ExrWindow | undefined,
    display: ExrWindow | undefined,
    tile: [number, number] | undefined,
    chunks = 0;
  const windowOf = (value: ExrBytes): ExrWindow => ({ x0: value.i32(), y0: value.i32(), x1: value.i32(), y1: value.i32() });
  for (let name = first ?? b.text(); name !== ''; name = b.text()) {
    const type = b.text(),
      value = new ExrBytes(b.take(b.i32()));
    if (name === 'channels' && type === 'chlist') channels = channelsOf(value);
    else if (name === 'compression') compression = value.u8();
    else if (type === 'string') text[name] = value.ascii();
    else if (name === 'dataWindow') window = windowOf(value);
    else if (name === 'displayWindow') display = windowOf(value);
    else if (name === 'tiles') tile = [value.i32(), value.i32()];
    else if (name === 'chunkCount') chunks = value.i32();
  }
  if (text['type']?.startsWith('deep')) deep = true;
  if (number !== undefined) tiled = text['type'] === 'tiledimage';
  if (!channels?.length) throw new RadianceError('The header names no channels.');
  if (compression === undefined || (!deep && !COMPRESSIONS[compression]))
    throw new RadianceError(`Compression ${compression ?? 'is missing; it'} is not known.`);
  if (!window || window.x1 < window.x0 || window.y1 < window.y0) throw new RadianceError('The data window is missing or empty.');
  if (!display || display.x1 < display.x0 || display.y1 < display.y0) display = window;
  if (tiled && !(tile && tile[0] > 0 && tile[1] > 0)) throw new RadianceError('The header does not say how large its tiles are.');
  if (chunks < 0) throw new RadianceError(`A part has ${chunks} blocks.`);
  const part = number === undefined ? undefined : { name: text['name'] ?? `part ${number + 1}`, number };
  return { head: { part, channels, compression, window, display, tile: tiled ? tile : undefined, text, end: 0 }, deep, chunks };
}

function channelsOf(value: ExrBytes): ExrHeadChannel[] {
  const channels: ExrHeadChannel[] = [];
  for (let name = value.text(); name !== ''; name = value.text()) {
    const type = value.i32();
    if (type !== 0 && type !== 1 && type !== 2)
      throw new RadianceError(`Channel “${name}” is stored as type ${type}; there are 0 (integers), 1 (halves) and 2 (floats).`);
    const linear = value.take(4)[0] === 1;
    channels.push({ name, type, linear, xSampling: value.i32(), ySampling: value.i32() });
  }
  return channels;
}

/** Layers of a picture: '' for channels without a layer's name. Each has r g b, or one channel for all three. */
export function exrLayers(channels: readonly ExrHeadChannel[]): Map<string, [string, string, string]> {
  const layers = new Map<string, Map<string, string>>();
  for (const { name } of channels) {
    const dot = name.lastIndexOf('.'),
      layer = dot < 0 ? '' : name.slice(0, dot),
      part = name.slice(dot + 1).toUpperCase();
    if (!layers.has(layer)) layers.set(layer, new Map());
    layers.get(layer)!.set(part, name);
  }
  const out = new Map<string, [string, string, string]>();
  for (const [layer, parts] of layers) {
    const long = (c: string) => parts.get(c[0]!) ?? parts.get(c);
    const rgb = ['RED', 'GREEN', 'BLUE'].map(long);
    const grey = parts.get('Y') ?? parts.get('L');
    if (rgb.every((c) => c !== undefined)) out.set(layer, rgb as [string, string, string]);
    else if (grey) out.set(layer, [grey, grey, grey]);
  }
  return out;
}

/** A layer of a file: its part's head, and the names of its channels. */
export interface ExrLayer {
  head: ExrHead;
  names: [string, string, string];
}

/** Layers of all parts by what they are called: the part's name before the layer's own, where the file has several. */
export function layersOfHeads(heads: readonly ExrHead[]): Map<string, ExrLayer> {
  const out = new Map<string, ExrLayer>();
  for (const head of heads)
    for (const [layer, names] of exrLayers(head.channels)) {
      const { part } = head;
      const label = !part || layer === part.name ? layer : layer === '' ? part.name : `${part.name}.${layer}`;
      out.set(out.has(label) ? `${label} (part ${(part?.number ?? 0) + 1})` : label, { head, names });
    }
  return out;
}
