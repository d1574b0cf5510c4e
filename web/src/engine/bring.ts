import { bringCharacter, mendCharacter, type Mending, type ReadOptions } from '@plinket/core';
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

export const bufferOf = (bytes: Uint8Array): ArrayBuffer => bytes.slice().buffer as ArrayBuffer;

/** Reads a file with what came beside it; what is no GLB becomes one. @throws ImportError */
export async function inspect(files: [NamedFile, ...NamedFile[]], options: ReadOptions = {}): Promise<Read> {
  const bytesOf = ({ name, bytes }: NamedFile) => ({ name, bytes: new Uint8Array(bytes) });
  const [first, ...others] = files;
  const { asset, glb } = await bringCharacter([bytesOf(first), ...others.map(bytesOf)], options);
  // the file itself is given back where it is kept as it came
  return { report: reportOf(asset, first.name), glb: glb.buffer === first.bytes ? first.bytes : bufferOf(glb) };
}

/** A character mended before it is kept. @throws ImportError */
export async function mend(name: string, glb: ArrayBuffer, mending: Mending, options: ReadOptions = {}): Promise<Read> {
  const mended = await mendCharacter(name, new Uint8Array(glb), mending, options);
  return { report: { ...reportOf(mended.asset, name), notes: mended.notes }, glb: bufferOf(mended.glb) };
}
