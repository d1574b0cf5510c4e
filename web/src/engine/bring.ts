import { mendGlb, mends, readCharacter, readGlb, writeGlb, type Mending, type Progress, type ReadOptions } from '@plinket/core';
import { reportOf, type AssetReport } from './messages.ts';

/** What was found in a character's file, and the GLB to keep. */
export interface Read {
  report: AssetReport;
  glb: ArrayBuffer;
}

/** A file and what it is called. */
export interface NamedFile {
  name: string;
  bytes: ArrayBuffer;
}

/** Part of the work that is over once a file has been read; it may have to be written as a GLB. */
const READ = 0.9;

const upTo = (share: number, progress: Progress | undefined, from = 0): Progress | undefined =>
  progress && ((done) => progress(from + (share - from) * done));
const withProgress = (options: ReadOptions, progress: Progress | undefined): ReadOptions => {
  const { progress: _, ...rest } = options;
  return progress ? { ...rest, progress } : rest;
};

export const bufferOf = (bytes: Uint8Array): ArrayBuffer => bytes.slice().buffer as ArrayBuffer;

/** Reads a file with what came beside it; what is no GLB becomes one. @throws ImportError */
export async function inspect([{ name, bytes }, ...others]: [NamedFile, ...NamedFile[]], options: ReadOptions = {}): Promise<Read> {
  const beside = new Map(others.map((f) => [f.name, new Uint8Array(f.bytes)]));
  const asset = await readCharacter(new Uint8Array(bytes), name, {
    beside,
    ...withProgress(options, upTo(READ, options.progress)),
  });
  const own = String.fromCharCode(...new Uint8Array(bytes, 0, Math.min(4, bytes.byteLength))) === 'glTF';
  return { report: reportOf(asset, name), glb: own ? bytes : bufferOf(await writeGlb(asset, name)) };
}

/** A character mended before it is kept. @throws ImportError */
export async function mend(name: string, glb: ArrayBuffer, mending: Mending, options: ReadOptions = {}): Promise<Read> {
  const { glb: bytes, notes } = mends(mending)
    ? await mendGlb(new Uint8Array(glb), mending, withProgress(options, upTo(0.5, options.progress)))
    : { glb: new Uint8Array(glb), notes: [] };
  const asset = await readGlb(bytes, name, withProgress(options, upTo(1, options.progress, 0.5)));
  return { report: { ...reportOf(asset, name), notes }, glb: bufferOf(bytes) };
}
