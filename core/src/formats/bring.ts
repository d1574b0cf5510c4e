// Bringing a character in: read with what came beside it, kept as a GLB, mended as it is wished.
import type { CharacterAsset } from '../scene/index.ts';
import { readCharacter } from './characters.ts';
import { insideOut } from '../geometry/index.ts';
import { listed, type Progress } from './character/index.ts';
import { mendGlb, mends, readGlb, writeGlb, type Mending, type ReadOptions } from './glb/index.ts';

/** A character as it was found in its files, or as it was mended, and the GLB to keep. */
export interface Brought {
  asset: CharacterAsset;
  glb: Uint8Array;
  /** What mending found on the way. */
  notes: string[];
}

/** A file and what it is called. */
export interface BroughtFile {
  name: string;
  bytes: Uint8Array;
}

/** Part of the work that is over once a file has been read; it may have to be written as a GLB. */
const READ = 0.9;

const upTo = (share: number, progress: Progress | undefined, from = 0): Progress | undefined =>
  progress && ((done) => progress(from + (share - from) * done));
const withProgress = (options: ReadOptions, progress: Progress | undefined): ReadOptions => {
  const { progress: _, ...rest } = options;
  return progress ? { ...rest, progress } : rest;
};

/** Reads a character with what came beside it; what is no GLB becomes one. @throws ImportError */
export async function bringCharacter(
  [{ name, bytes }, ...others]: [BroughtFile, ...BroughtFile[]],
  options: ReadOptions = {},
): Promise<Brought> {
  const beside = new Map(others.map((f) => [f.name, f.bytes]));
  const asset = await readCharacter(bytes, name, { beside, ...withProgress(options, upTo(READ, options.progress)) });
  const own = [0x67, 0x6c, 0x54, 0x46].every((b, i) => bytes[i] === b);
  return { asset: lookedOver(asset), glb: own ? bytes : await writeGlb(asset, name), notes: [] };
}

/** What is worth asking of who comes in, and not whenever a character is read: parts that face inwards. */
function lookedOver(asset: CharacterAsset): CharacterAsset {
  const inwards = asset.parts.filter((p) => insideOut(p.positions, p.indices)).map((p) => p.name);
  if (!inwards.length) return asset;
  const message = `${listed(inwards)} ${inwards.length === 1 ? 'is' : 'are'} inside out: the triangles face inwards. They can be turned.`;
  return { ...asset, warnings: [...asset.warnings, { code: 'inside-out', message }] };
}

/** A character mended before it is kept. @throws ImportError */
export async function mendCharacter(name: string, glb: Uint8Array, mending: Mending, options: ReadOptions = {}): Promise<Brought> {
  const mended = mends(mending) ? await mendGlb(glb, mending, withProgress(options, upTo(0.5, options.progress))) : { glb, notes: [] };
  const asset = await readGlb(mended.glb, name, withProgress(options, upTo(1, options.progress, 0.5)));
  return { asset: lookedOver(asset), ...mended };
}
