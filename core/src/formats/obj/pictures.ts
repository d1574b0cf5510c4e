// The pictures of an OBJ's materials, which come beside it.
import { material, type Material, type MaterialTextures, type Texture, type TextureUse } from '../../surface/index.ts';
import { decodePicture, PictureError } from '../glb/index.ts';
import type { MtlMaterial } from './mtl.ts';

const baseName = (path: string): string => path.split(/[\\/]/).at(-1)!.toLowerCase();
const mimeOf = (bytes: Uint8Array): string =>
  bytes[0] === 0xff && bytes[1] === 0xd8 ? 'image/jpeg' : bytes[0] === 0x89 ? 'image/png' : '';

/** How steep heights are where nothing else is said: a step from black to white over so many pixels is 45°. Common practice, no source. */
const STEEP = 8;

/** Whether a picture holds directions, not heights: blue, and of no grey. */
function holdsNormals({ data }: Texture): boolean {
  let blue = 0,
    grey = 0,
    count = 0;
  for (let i = 0; i < data.length; i += 4 * 7) {
    blue += data[i + 2]!;
    if (Math.abs(data[i]! - data[i + 2]!) < 8) grey++;
    count++;
  }
  return blue / count > 150 && grey / count < 0.5;
}

/** Normals (glTF's: x right, y up) from heights, by their differences from neighbour to neighbour, round and round. */
export function normalsOfHeights(heights: Texture, times: number): Texture {
  const { width, height, data } = heights,
    out = new Uint8Array(data.length);
  const at = (x: number, y: number): number => data[(((y + height) % height) * width + ((x + width) % width)) * 4]! / 255;
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const dx = ((at(x + 1, y) - at(x - 1, y)) / 2) * STEEP * times,
        // rows run down, y up
        dy = ((at(x, y - 1) - at(x, y + 1)) / 2) * STEEP * times,
        length = Math.hypot(dx, dy, 1);
      const to = (y * width + x) * 4;
      [-dx, -dy, 1].forEach((v, k) => (out[to + k] = Math.round((v / length / 2 + 0.5) * 255)));
      out[to + 3] = 255;
    }
  return { name: heights.name, width, height, data: out };
}

/** Finds pictures by their names, and remembers what was not there or could not be read. */
export class ObjPictures {
  readonly missing = new Set<string>();
  readonly problems: string[] = [];
  private readonly beside = new Map<string, Uint8Array>();
  private readonly known = new Map<string, Texture | undefined>();

  /** @param beside files that came along, by name or path */
  constructor(beside: ReadonlyMap<string, Uint8Array>) {
    for (const [name, bytes] of beside) this.beside.set(baseName(name), bytes);
  }

  /** A material with its pictures; plain values stand in for those that are not there. */
  dress({ look, base, bump, emission, alpha }: MtlMaterial): Material {
    const textures: MaterialTextures = {};
    const baseUse = this.use(base);
    if (baseUse) {
      textures.base = baseUse;
      // the picture has the colour; what is said beside it would darken it
      look = { ...look, base: [1, 1, 1] };
    }
    const relief = bump && this.texture(bump.name);
    if (relief) textures.normal = lies(holdsNormals(relief) ? relief : normalsOfHeights(relief, bump.times));
    const glow = this.use(emission);
    if (glow) {
      textures.emission = glow;
      if (!look.emission?.some((v) => v > 0)) look = { ...look, emission: [1, 1, 1] };
    }
    if (alpha) {
      // holes are read from the colour's own picture
      if (baseUse && base && baseName(alpha) === baseName(base)) look = { ...look, alphaMode: 'mask', alphaCutoff: 0.5 };
      else this.problems.push(`${alpha} (what is clear) is a picture of its own`);
    }
    return material({ ...look, ...(Object.keys(textures).length ? { textures } : {}) });
  }

  private use(name: string | undefined): TextureUse | undefined {
    const texture = name === undefined ? undefined : this.texture(name);
    return texture && lies(texture);
  }

  private texture(name: string): Texture | undefined {
    const key = baseName(name);
    if (!this.known.has(key)) this.known.set(key, this.read(key, name));
    return this.known.get(key);
  }

  private read(key: string, name: string): Texture | undefined {
    const bytes = this.beside.get(key);
    if (!bytes) {
      this.missing.add(name);
      return undefined;
    }
    try {
      return decodePicture(bytes, mimeOf(bytes), name);
    } catch (error) {
      if (!(error instanceof PictureError)) throw error;
      this.problems.push(error.message.replace(/\.$/, ''));
      return undefined;
    }
  }
}

/** A picture repeats, as is usual in the format. */
const lies = (texture: Texture): TextureUse => ({ texture, wrapU: 'repeat', wrapV: 'repeat', transform: [1, 0, 0, 0, 1, 0] });
