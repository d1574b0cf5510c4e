// Characters from files of any format, as the page's import reads them; what it made of them is kept in a cache.
import { createHash } from 'node:crypto';
import { existsSync, mkdirSync, readdirSync, readFileSync, renameSync, writeFileSync } from 'node:fs';
import { basename, dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { bringCharacter, readGlb, type Brought, type BroughtFile, type CharacterAsset } from '@plinket/core';
import { decoders } from '@plinket/engine/node';
import { UsageError } from './usage.ts';

/** Formats that a character may have beside GLB. */
export const OTHER_FORMATS = /\.(gltf|obj|ply|stl)$/i;
/** Goes up with whatever changes what is made of a file. */
const READS = 1;
const cache = fileURLToPath(new URL('../../.cache/imported/', import.meta.url));

/** What may belong to a file, by its own ending: materials of an OBJ with their pictures, buffers and pictures of a .gltf. */
const BESIDE: [RegExp, RegExp][] = [
  [/\.obj$/i, /\.(mtl|png|jpe?g)$/i],
  [/\.gltf$/i, /\.(bin|png|jpe?g|webp)$/i],
];

/** A character's file and those that lie beside it. @throws UsageError when it is not there */
export function filesOf(file: string): [BroughtFile, ...BroughtFile[]] {
  let bytes: Uint8Array;
  try {
    bytes = readFileSync(file);
  } catch {
    throw new UsageError(`${file}: there is no such file.`);
  }
  const wanted = BESIDE.find(([own]) => own.test(file))?.[1],
    folder = dirname(file);
  const beside = (wanted ? readdirSync(folder) : [])
    .filter((name) => wanted!.test(name))
    .map((name) => ({ name, bytes: new Uint8Array(readFileSync(join(folder, name))) }));
  return [{ name: basename(file), bytes: new Uint8Array(bytes) }, ...beside];
}

/** Reads a character as the page's import does. @throws UsageError, ImportError */
export const brought = (file: string): Promise<Brought> => bringCharacter(filesOf(file), decoders);

/** The same, from what was made of the same files before. @throws UsageError, ImportError */
export async function imported(file: string): Promise<CharacterAsset> {
  const files = filesOf(file),
    hash = createHash('sha256').update(`${READS}`);
  for (const { name, bytes } of files) hash.update(name).update(bytes);
  const kept = join(cache, `${hash.digest('hex')}.glb`);
  if (existsSync(kept)) return readGlb(new Uint8Array(readFileSync(kept)), basename(file), decoders);
  const { asset, glb } = await bringCharacter(files, decoders);
  mkdirSync(cache, { recursive: true });
  // two at once write the same: whoever is last
  const half = `${kept}.${process.pid}`;
  writeFileSync(half, glb);
  renameSync(half, kept);
  return asset;
}
