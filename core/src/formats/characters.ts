import type { CharacterAsset } from '../scene/index.ts';
import { ImportError, orRefused } from './character/index.ts';
import { packGltf, readGlb, type ReadOptions } from './glb/index.ts';
import { readObj } from './obj/index.ts';
import { readPly } from './ply/index.ts';
import { readStl } from './stl/index.ts';

/** Endings of files that characters can be read from. */
export const CHARACTER_FILES = ['glb', 'gltf', 'obj', 'ply', 'stl'] as const;

const begins = (bytes: Uint8Array, text: string): boolean => [...text].every((c, i) => bytes[i] === c.charCodeAt(0));

/**
 * Reads a character from any format that is known, by the file's own beginning first and its name second; `beside` are files
 * that came with it (materials of an OBJ, buffers and pictures of a .gltf), by name.
 * @throws ImportError with the reason.
 */
export const readCharacter = (bytes: Uint8Array, fileName: string, options: CharacterOptions = {}): Promise<CharacterAsset> =>
  orRefused(() => readAny(bytes, fileName, options));

type CharacterOptions = { beside?: Map<string, Uint8Array> } & ReadOptions;

async function readAny(bytes: Uint8Array, fileName: string, options: CharacterOptions): Promise<CharacterAsset> {
  const { beside = new Map<string, Uint8Array>() } = options;
  if (begins(bytes, 'glTF')) return readGlb(bytes, fileName, options);
  if (begins(bytes, 'ply')) return readPly(bytes, fileName, options.progress);
  const ending = /\.([^.]+)$/.exec(fileName)?.[1]?.toLowerCase();
  switch (ending) {
    case 'obj':
      return readObj(bytes, fileName, beside, options.progress);
    case 'gltf': {
      const { glb, absent } = await packGltf(bytes, fileName, beside, options);
      const asset = await readGlb(glb, fileName.replace(/\.gltf$/i, '.glb'), options);
      return absent.length
        ? {
            ...asset,
            warnings: [
              ...asset.warnings,
              { code: 'textures', message: `${absent.join(', ')} did not come along: plain colours stand in.` },
            ],
          }
        : asset;
    }
    case 'stl':
      return readStl(bytes, fileName);
    case 'ply':
      return readPly(bytes, fileName, options.progress);
    case undefined:
    case 'glb':
      return readGlb(bytes, fileName, options);
    default:
      throw new ImportError('not-glb', `This is not a character file: .${ending} cannot be read; GLB, glTF, OBJ, PLY and STL can.`);
  }
}
