import type { Texture as GltfTexture, TextureInfo } from '@gltf-transform/core';
import type { Transform } from '@gltf-transform/extensions';
import { convertIndexedToRgb, decode as decodePng, type DecodedPng } from 'fast-png';
import type { Texture, TextureUse, Wrap } from '../../surface/index.ts';
import { FILE_LIMITS } from '../../math/index.ts';
import { slowJpeg, type JpegDecoder } from '../jpeg.ts';
import { pngSize } from '../png/index.ts';

/** A picture that cannot be read; the material goes on without it. */
export class PictureError extends Error {}

/**
 * Decodes a PNG or JPEG to RGBA bytes.
 * @throws PictureError naming the reason.
 */
export function decodePicture(bytes: Uint8Array, mime: string, name: string, jpeg: JpegDecoder = slowJpeg): Texture {
  try {
    if (mime === 'image/png') return fromPng(bytes, name);
    if (mime === 'image/jpeg') return { name, ...jpeg(bytes) };
  } catch (error) {
    throw new PictureError(`${name} cannot be read: ${error instanceof Error ? error.message : String(error)}`);
  }
  throw new PictureError(`${name} is ${mime || 'of an unknown kind'}; PNG and JPEG can be read.`);
}

function fromPng(bytes: Uint8Array, name: string): Texture {
  const { width, height } = pngSize(bytes);
  // asked before anything is unpacked: a few bytes may claim any size
  if (width * height > FILE_LIMITS.picturePixels) throw new Error(`${width} × ${height} pixels are too many`);
  const png = decodePng(bytes);
  const indexed = png.palette !== undefined;
  const source = indexed ? convertIndexedToRgb(png) : samplesOf(png);
  const channels = indexed ? source.length / (width * height) : png.channels;
  const shift = !indexed && png.depth === 16 ? 8 : 0,
    top = !indexed && png.depth < 8 ? 255 / (2 ** png.depth - 1) : 1;
  const data = new Uint8Array(width * height * 4);
  for (let i = 0; i < width * height; i++) {
    const at = (c: number) => (source[i * channels + c]! >> shift) * top;
    const grey = channels < 3;
    // one colour may stand for what is clear (PNG specification, 11.3.1.1)
    const clear = !indexed && png.transparency?.every((v, c) => source[i * channels + c] === v);
    data[i * 4] = at(0);
    data[i * 4 + 1] = at(grey ? 0 : 1);
    data[i * 4 + 2] = at(grey ? 0 : 2);
    data[i * 4 + 3] = channels === 2 ? at(1) : channels === 4 ? at(3) : clear ? 0 : 255;
  }
  return { name, width, height, data };
}

/** One number a sample; those of less than a byte lie several in one, each row from a byte of its own (PNG specification, 7.2). */
function samplesOf({ width, height, depth, data }: DecodedPng): ArrayLike<number> {
  if (depth >= 8) return data;
  const out = new Uint8Array(width * height),
    row = Math.ceil((width * depth) / 8),
    most = 2 ** depth - 1;
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const bit = x * depth;
      out[y * width + x] = (data[y * row + (bit >> 3)]! >> (8 - depth - (bit & 7))) & most;
    }
  return out;
}

const WRAPS: Record<number, Wrap> = { 33071: 'clamp', 33648: 'mirror', 10497: 'repeat' };

/** Reads the pictures of a file once each, and says how they lie on surfaces. */
export class Pictures {
  readonly problems: string[] = [];
  private readonly known = new Map<GltfTexture, Texture | undefined>();
  private readonly jpeg: JpegDecoder;

  constructor(jpeg: JpegDecoder = slowJpeg) {
    this.jpeg = jpeg;
  }

  use(source: GltfTexture | null, info: TextureInfo | null): TextureUse | undefined {
    if (!source || !info) return undefined;
    if (!this.known.has(source)) this.known.set(source, this.read(source));
    const texture = this.known.get(source);
    if (!texture) return undefined;
    // KHR_texture_transform: offset · rotation · scale
    const t = info.getExtension<Transform>('KHR_texture_transform');
    const [ox, oy] = t?.getOffset() ?? [0, 0],
      [sx, sy] = t?.getScale() ?? [1, 1],
      a = t?.getRotation() ?? 0;
    const c = Math.cos(a),
      s = Math.sin(a);
    return {
      texture,
      wrapU: WRAPS[info.getWrapS()] ?? 'repeat',
      wrapV: WRAPS[info.getWrapT()] ?? 'repeat',
      transform: [c * sx, s * sy, ox, -s * sx, c * sy, oy],
    };
  }

  private read(source: GltfTexture): Texture | undefined {
    const bytes = source.getImage();
    const name = source.getName() || source.getURI() || 'a picture';
    if (!bytes?.length) {
      this.problems.push(`${name} is not in the file`);
      return undefined;
    }
    try {
      return decodePicture(bytes, source.getMimeType(), name, this.jpeg);
    } catch (error) {
      if (!(error instanceof PictureError)) throw error;
      this.problems.push(error.message.replace(/\.$/, ''));
      return undefined;
    }
  }
}
