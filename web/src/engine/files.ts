import {
  orderOf,
  lightFilesOf,
  LightFileShelf,
  readCube,
  readLightFile,
  type Cube,
  type LightFileUse,
  type Look,
  type NamedLightFile,
  type ReadLightFile,
  type Setup,
} from '@plinket/core';
import type { Characters } from './characters.ts';

/** A file that the server keeps. @throws Error that names what it was */
export async function keptBlob(sha256: string, what: string): Promise<Uint8Array> {
  const response = await fetch(`/api/blobs/${sha256}`);
  if (!response.ok) throw new Error(`${what} cannot be loaded (${response.status}).`);
  return new Uint8Array(await response.arrayBuffer());
}

/** Makes of a file what a light wants of it; `what` it is, for what is said. @throws Error with the reason */
export type ReadLight = (bytes: Uint8Array, sha256: string, use: LightFileUse, what: string) => Promise<ReadLightFile>;
const readHere: ReadLight = (bytes, sha256, use) => Promise.resolve().then(() => readLightFile(bytes, sha256, use));

/** The files that a setup names and that this worker has. */
export class StageFiles {
  readonly lights = new LightFileShelf();
  private readonly cubes = new Map<string, Cube>();
  private readonly characters: Characters;
  private readonly load: (sha256: string, what: string) => Promise<Uint8Array>;
  private readonly read: ReadLight;
  /** Files of lights that are being read: who wants one meanwhile waits for the same. */
  private readonly reading = new Map<string, Promise<void>>();

  constructor(characters: Characters, load = keptBlob, read: ReadLight = readHere) {
    this.characters = characters;
    this.load = load;
    this.read = read;
  }

  /** Brings in what is missing: visible characters, files of lights and plate, the look-up table. */
  async fetch(setup: Setup): Promise<void> {
    for (const id of orderOf(setup.subjects)) {
      const { asset, name, visible } = setup.subjects.items[id]!;
      if (visible) await this.characters.load(asset, name);
    }
    for (const file of lightFilesOf(setup)) {
      const { asset, use } = file;
      if (this.lights.knows(asset, use)) continue;
      const key = `${JSON.stringify(use)} ${asset}`;
      const reading = this.reading.get(key) ?? this.bring(file);
      this.reading.set(key, reading);
      await reading.finally(() => this.reading.delete(key));
    }
    const { lut } = setup.look;
    if (lut && !this.cubes.has(lut))
      this.cubes.set(lut, readCube(new TextDecoder().decode(await this.load(lut, 'The look-up table')), lut));
  }

  private async bring({ asset, name, use }: NamedLightFile): Promise<void> {
    const what = `The file of ${name}`;
    this.lights.keep(asset, use, await this.read(await this.load(asset, what), asset, use, what));
  }

  /** A look's table, where it has one. */
  readonly cube = (look: Look): Cube | undefined => (look.lut === undefined ? undefined : this.cubes.get(look.lut));
}
