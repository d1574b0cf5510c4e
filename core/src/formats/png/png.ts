import { encode } from 'fast-png';
import { asciiJson } from '../text.ts';
import { keptReadingSchema, parseSetup, type KeptReading, type Setup } from '../../setup/index.ts';

/** Keyword of the text chunk that carries the setup. */
export const SETUP_KEYWORD = 'plinket-setup';
/** Keyword of the one that carries what was read of the face in it. */
export const READING_KEYWORD = 'plinket-reading';

/** Keyword of the text chunk that says how colours and alpha stand together: PNG itself means straight ones (PNG specification, 6.2). */
export const ALPHA_KEYWORD = 'Alpha';

/** A reading as the text of a chunk. */
export const readingText = (reading: KeptReading | undefined): Record<string, string> =>
  reading ? { [READING_KEYWORD]: asciiJson(reading) } : {};

/** An RGBA picture of 8 or 16 bit as a PNG, with the setup that made it inside, and what else is said of it. */
export function writePng(
  width: number,
  height: number,
  rgba: Uint8Array | Uint8ClampedArray | Uint16Array,
  setup?: Setup,
  said: Record<string, string> = {},
): Uint8Array {
  const text = { ...(setup ? { [SETUP_KEYWORD]: asciiJson(setup) } : {}), ...said };
  const depth = rgba instanceof Uint16Array ? 16 : 8;
  return encode({ width, height, data: rgba, depth, channels: 4, ...(Object.keys(text).length ? { text } : {}) });
}

/** A picture with alpha as a PNG that says whether its colours are multiplied with it. */
export const writeCutPng = (
  { width, height, data }: { width: number; height: number; data: Uint8Array | Uint16Array },
  premultiplied: boolean,
  setup?: Setup,
): Uint8Array =>
  writePng(width, height, data, setup, { [ALPHA_KEYWORD]: premultiplied ? 'colours are multiplied with alpha' : 'straight' });

/** A PNG that cannot be read, or whose setup cannot; the message says why. */
export class PngError extends Error {}

/** The chunks of a PNG in order: four letters and their data. @throws PngError when the file is none, or is cut off */
function* chunks(bytes: Uint8Array): Generator<{ type: string; data: Uint8Array }> {
  if (!SIGNATURE.every((b, i) => bytes[i] === b)) throw new PngError('The file does not begin as a PNG does.');
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  for (let at = SIGNATURE.length; ;) {
    if (at + 12 > bytes.length) throw new PngError('The file is cut off: its last chunk is missing.');
    const length = view.getUint32(at);
    if (at + 12 + length > bytes.length) throw new PngError('The file is cut off within a chunk.');
    const type = String.fromCharCode(...bytes.subarray(at + 4, at + 8));
    yield { type, data: bytes.subarray(at + 8, at + 8 + length) };
    if (type === 'IEND') return;
    at += 12 + length;
  }
}
/** PNG specification, 5.2. */
const SIGNATURE = [0x89, 0x50, 0x4e, 0x47, 0x0d, 0x0a, 0x1a, 0x0a];

/** Width and height that a PNG's header tells (PNG specification, 11.2.2). @throws PngError when there is none */
export function pngSize(bytes: Uint8Array): { width: number; height: number } {
  const { value } = chunks(bytes).next();
  if (value?.type !== 'IHDR' || value.data.length < 8) throw new PngError('The file does not begin with its header.');
  const view = new DataView(value.data.buffer, value.data.byteOffset);
  return { width: view.getUint32(0), height: view.getUint32(4) };
}

const latin1 = (data: Uint8Array): string => {
  let out = '';
  for (let i = 0; i < data.length; i += 8192) out += String.fromCharCode(...data.subarray(i, i + 8192));
  return out;
};

function jsonOf(text: string, keyword: string): unknown {
  try {
    return JSON.parse(text);
  } catch (error) {
    throw new PngError(`Its chunk “${keyword}” is no JSON: ${error instanceof Error ? error.message : String(error)}`);
  }
}

/** The JSON of a text chunk by its keyword. @throws PngError */
function textOf(bytes: Uint8Array, keyword: string): unknown {
  pngSize(bytes);
  for (const { type, data } of chunks(bytes)) {
    const end = type === 'tEXt' ? data.indexOf(0) : -1;
    if (end >= 0 && latin1(data.subarray(0, end)) === keyword) return jsonOf(latin1(data.subarray(end + 1)), keyword);
  }
  return undefined;
}

/**
 * The setup inside a PNG, or nothing when it carries none. The picture itself is not unpacked.
 * @throws SetupError when what it carries is not a setup; PngError when the file is not a PNG, or cut off.
 */
export function readPngSetup(bytes: Uint8Array): Setup | undefined {
  const carried = textOf(bytes, SETUP_KEYWORD);
  return carried === undefined ? undefined : parseSetup(carried);
}

/** The reading inside a PNG; nothing when it carries none, or one that cannot be read: the picture is worth keeping without. */
export function readPngReading(bytes: Uint8Array): KeptReading | undefined {
  try {
    return keptReadingSchema.safeParse(textOf(bytes, READING_KEYWORD)).data;
  } catch {
    return undefined;
  }
}
