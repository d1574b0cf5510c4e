import { existsSync } from 'node:fs';
import { copyFile, link, mkdir, rename, rm } from 'node:fs/promises';
import { dirname, join, resolve, sep } from 'node:path';
import { randomUUID } from 'node:crypto';
import type { BlobStore } from '../data/blobs.ts';

/** The folder of finished pictures: files under the names that people gave them. They are the blobs themselves, linked, so they take no room twice. */
export class FinishedFolder {
  readonly folder: string;
  private readonly blobs: BlobStore;
  constructor(folder: string, blobs: BlobStore) {
    this.folder = resolve(folder);
    this.blobs = blobs;
  }

  /** @throws RangeError when a name leaves the folder */
  private pathOf(name: string): string {
    const path = resolve(this.folder, name);
    if (!path.startsWith(this.folder + sep)) throw new RangeError(`${name} lies outside of the folder of finished pictures.`);
    return path;
  }

  has(name: string): boolean {
    return existsSync(this.pathOf(name));
  }

  /** Puts a blob under a name. What lies there is an earlier try of the same frame, and gives way. */
  async put(name: string, sha256: string): Promise<void> {
    const path = this.pathOf(name),
      aside = join(dirname(path), `.${randomUUID()}.part`);
    await mkdir(dirname(path), { recursive: true });
    try {
      // another disk, or one without links: a copy
      await link(this.blobs.path(sha256), aside).catch(() => copyFile(this.blobs.path(sha256), aside));
      await rename(aside, path);
    } finally {
      await rm(aside, { force: true });
    }
  }
}
