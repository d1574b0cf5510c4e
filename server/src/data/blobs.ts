import { createHash, randomUUID } from 'node:crypto';
import { existsSync } from 'node:fs';
import { mkdir, open, readdir, rename, rm, stat } from 'node:fs/promises';
import { join } from 'node:path';

/** Files named by their SHA-256. Written aside, synced, then renamed: what has a name is whole. */
export class BlobStore {
  private readonly folder: string;
  constructor(folder: string) {
    this.folder = folder;
  }

  path(sha256: string): string {
    return join(this.folder, sha256.slice(0, 2), sha256);
  }

  has(sha256: string): boolean {
    return existsSync(this.path(sha256));
  }

  /** Keeps bytes and answers their SHA-256; keeping the same twice is fine. */
  async put(bytes: Uint8Array): Promise<string> {
    const sha256 = createHash('sha256').update(bytes).digest('hex');
    if (this.has(sha256)) return sha256;
    const final = this.path(sha256),
      aside = join(this.folder, 'aside');
    await mkdir(join(final, '..'), { recursive: true });
    await mkdir(aside, { recursive: true });
    const temporary = join(aside, randomUUID());
    try {
      const file = await open(temporary, 'wx');
      try {
        await file.writeFile(bytes);
        await file.sync();
      } finally {
        await file.close();
      }
      await rename(temporary, final);
    } catch (error) {
      await rm(temporary, { force: true });
      throw error;
    }
    return sha256;
  }

  /** Removes blobs that nobody needs and that are older than `age` ms (a row may still be on its way). Answers how many. */
  async sweep(needed: Set<string>, age = 24 * 3600_000): Promise<number> {
    let removed = 0;
    for (const shelf of await readdir(this.folder).catch(() => [] as string[]))
      for (const name of await readdir(join(this.folder, shelf)).catch(() => [] as string[])) {
        const file = join(this.folder, shelf, name);
        if (needed.has(name) || Date.now() - (await stat(file)).mtimeMs < age) continue;
        await rm(file, { force: true });
        removed++;
      }
    return removed;
  }
}
