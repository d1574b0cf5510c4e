import { orderOf, lightFilesOf, LightFileShelf, readCube, type Cube, type Look, type Setup } from '@plinket/core';
import type { Characters } from './characters.ts';

/** A file that the server keeps. @throws Error that names what it was */
export async function keptBlob(sha256: string, what: string): Promise<Uint8Array> {
  const response = await fetch(`/api/blobs/${sha256}`);
  if (!response.ok) throw new Error(`${what} cannot be loaded (${response.status}).`);
  return new Uint8Array(await response.arrayBuffer());
}

/** The files that a setup names and that this worker has. */
export class StageFiles {
  readonly lights = new LightFileShelf();
  private readonly cubes = new Map<string, Cube>();
  private readonly characters: Characters;
  private readonly load: (sha256: string, what: string) => Promise<Uint8Array>;

  constructor(characters: Characters, load = keptBlob) {
    this.characters = characters;
    this.load = load;
  }

  /** Brings in what is missing: visible characters, files of lights and plate, the look-up table. */
  async fetch(setup: Setup): Promise<void> {
    for (const id of orderOf(setup.subjects)) {
      const { asset, name, visible } = setup.subjects.items[id]!;
      if (visible) await this.characters.load(asset, name);
    }
    for (const { asset, name } of lightFilesOf(setup))
      if (!this.lights.has(asset)) this.lights.add(asset, await this.load(asset, `The file of ${name}`));
    const { lut } = setup.look;
    if (lut && !this.cubes.has(lut))
      this.cubes.set(lut, readCube(new TextDecoder().decode(await this.load(lut, 'The look-up table')), lut));
  }

  /** A look's table, where it has one. */
  readonly cube = (look: Look): Cube | undefined => (look.lut === undefined ? undefined : this.cubes.get(look.lut));
}
