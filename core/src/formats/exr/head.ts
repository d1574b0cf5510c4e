// The header of an OpenEXR file (public file layout, openexr.com).
import type { StoredType } from '@plinket/kernel';
import { RadianceError } from '../radiance.ts';

export const COMPRESSIONS = ['none', 'run length', 'ZIPS', 'ZIP', 'PIZ', 'PXR24', 'B44', 'B44A', 'DWAA', 'DWAB'] as const;

export interface ExrHeadChannel {
  name: string;
  /** 0: 32-bit integer, 1: half, 2: float. */
  type: StoredType;
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

export interface ExrHead {
  channels: ExrHeadChannel[];
  compression: number;
  /** What there are pixels of. */
  window: ExrWindow;
  /** What the picture is: its data window may be larger or smaller. */
  display: ExrWindow;
  tiled: boolean;
  /** Where it says in which order its blocks lie, 0 where it does not. */
  orderAt: number;
  /** String attributes. */
  text: Record<string, string>;
  /** Where the table of offsets begins. */
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

/** @throws RadianceError */
export function readExrHead(bytes: Uint8Array): ExrHead {
  const b = new ExrBytes(bytes);
  if (b.i32() !== 20000630) throw new RadianceError('This is no OpenEXR file: its first four bytes are others.');
  const version = b.i32();
  if ((version & 255) !== 2) throw new RadianceError(`OpenEXR version ${version & 255} cannot be read; 2 can.`);
  if (version & 0x1000) throw new RadianceError('The file has several parts; save the one you want as a file of its own.');
  if (version & 0x800) throw new RadianceError('The file holds deep pixels; flat ones can be read.');
  const text: Record<string, string> = {};
  let channels: ExrHeadChannel[] | undefined,
    compression: number | undefined,
    window: ExrWindow | undefined,
    display: ExrWindow | undefined,
    orderAt = 0;
  const windowOf = (value: ExrBytes): ExrWindow => ({ x0: value.i32(), y0: value.i32(), x1: value.i32(), y1: value.i32() });
  for (let name = b.text(); name !== ''; name = b.text()) {
    const type = b.text(),
      size = b.i32(),
      value = new ExrBytes(b.take(size));
    if (name === 'channels' && type === 'chlist') {
      channels = [];
      for (let channel = value.text(); channel !== ''; channel = value.text()) {
        const kind = value.i32();
        if (kind !== 0 && kind !== 1 && kind !== 2)
          throw new RadianceError(`Channel “${channel}” is stored as type ${kind}; there are 0 (integers), 1 (halves) and 2 (floats).`);
        value.take(4);
        channels.push({ name: channel, type: kind, xSampling: value.i32(), ySampling: value.i32() });
      }
    } else if (name === 'compression') compression = value.u8();
    else if (type === 'string') text[name] = value.ascii();
    else if (name === 'dataWindow') window = windowOf(value);
    else if (name === 'displayWindow') display = windowOf(value);
    else if (name === 'lineOrder') orderAt = b.at - size;
  }
  if (!channels?.length) throw new RadianceError('The header names no channels.');
  if (compression === undefined || !COMPRESSIONS[compression])
    throw new RadianceError(`Compression ${compression ?? 'is missing; it'} is not known.`);
  if (!window || window.x1 < window.x0 || window.y1 < window.y0) throw new RadianceError('The data window is missing or empty.');
  if (!display || display.x1 < display.x0 || display.y1 < display.y0) display = window;
  return { channels, compression, window, display, orderAt, tiled: (version & 0x200) !== 0, text, end: b.at };
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
