import {
  inspectLightFile,
  inspectPicture,
  readCube,
  readGlb,
  readPngReading,
  readPngSetup,
  CubeError,
  ImportError,
  LightFileError,
  PictureError,
  pngSize,
  SetupError,
  type LightFileReport,
  type KeptReading,
  type Setup,
} from '@plinket/core';
import { readFileSync } from 'node:fs';
import { createRequire } from 'node:module';
import { jsonProblems } from '../door/json.ts';

const bytesOf = async (module: string): Promise<Uint8Array> => readFileSync(createRequire(import.meta.url).resolve(module));
/** Decoders of what characters' files hold. */
const decoders = {
  draco: () => bytesOf('draco3dgltf/draco_decoder_gltf.wasm'),
  jpeg: () => bytesOf('@cornerstonejs/codec-libjpeg-turbo-8bit/decodewasm'),
};

/** What a file turned out to be, by what it was brought in as. */
export interface Reports {
  character: { name: string; triangles: number; width: number; height: number; depth: number };
  light: LightFileReport;
  picture: { width: number; height: number };
  cube: { title: string; size: number };
  proof: { width: number; height: number; document: Setup; reading: KeptReading | undefined };
}
export type ReaderKind = keyof Reports;

/** A file that is not what it was brought in as, in words for the one who brought it. */
export class Unreadable extends Error {
  readonly code: string;
  constructor(code: string, message: string) {
    super(message);
    this.code = code;
  }
}

async function character(bytes: Uint8Array, fileName: string): Promise<Reports['character']> {
  try {
    const { name, triangles, bounds } = await readGlb(bytes, fileName, decoders);
    const [width, height, depth] = [0, 1, 2].map((i) => bounds.max[i]! - bounds.min[i]!) as [number, number, number];
    return { name, triangles, width, height, depth };
  } catch (error) {
    throw error instanceof ImportError ? new Unreadable(error.code, error.message) : error;
  }
}

async function light(bytes: Uint8Array): Promise<Reports['light']> {
  try {
    return inspectLightFile(bytes);
  } catch (error) {
    throw error instanceof LightFileError ? new Unreadable('light-file', error.message) : error;
  }
}

async function picture(bytes: Uint8Array): Promise<Reports['picture']> {
  try {
    return inspectPicture(bytes);
  } catch (error) {
    throw error instanceof PictureError ? new Unreadable('picture', error.message) : error;
  }
}

async function cube(bytes: Uint8Array): Promise<Reports['cube']> {
  try {
    const { title, size } = readCube(new TextDecoder().decode(bytes));
    return { title, size };
  } catch (error) {
    throw error instanceof CubeError ? new Unreadable('cube', error.message) : error;
  }
}

async function proof(bytes: Uint8Array): Promise<Reports['proof']> {
  let document: Setup | undefined;
  try {
    document = readPngSetup(bytes);
  } catch (error) {
    throw new Unreadable('invalid', error instanceof SetupError ? error.message : 'it is not a PNG that can be read');
  }
  if (!document) throw new Unreadable('invalid', 'the PNG carries no setup');
  const [wrong] = jsonProblems(document);
  if (wrong) throw new Unreadable('invalid', `${wrong.field}: ${wrong.reason}`);
  const reading = readPngReading(bytes);
  return { ...pngSize(bytes), document, reading: reading && jsonProblems(reading).length === 0 ? reading : undefined };
}

/** Every reader of the server. Each runs in a thread of its own, never on the one that answers. */
export const READERS: { [K in ReaderKind]: (bytes: Uint8Array, fileName: string) => Promise<Reports[K]> } = {
  character,
  light,
  picture,
  cube,
  proof,
};
