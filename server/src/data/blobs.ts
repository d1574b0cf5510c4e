import { createHash, randomUUID } from 'node:crypto';
import { existsSync, rmSync, statSync, utimesSync } from 'node:fs';
import { mkdir, open, readdir, rename, rm } from 'node:fs/promises';
import { join } from 'node:path';

/** Bytes that have come in whole and lie aside, not yet kept. */
export interface Received {
  path: string;
  sha256: string;
  bytes: number;
  /** Whoever sent it is gone. */
  signal?: AbortSignal;
}

/** More bytes than were allowed. */
export class TooLarge extends Error {}

const DAY = 24 * 3600_000;
const ASIDE = 'aside';

async function syncFolder(folder: string): Promise<void> {
  const handle = await open(folder, 'r');
  try {
    await handle.sync();
  } finally {
    await handle.close();
  }
}

/** Files named by their SHA-256. Written aside, synced, then renamed: what has a name is whole, also after the power went. */
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

  /** Says that a file is wanted now: the sweep leaves it for another day. Answers whether it is there. */
  renew(sha256: string): boolean {
    const now = new Date();
    try {
      utimesSync(this.path(sha256), now, now);
      return true;
    } catch {
      return false;
    }
  }

  /**
   * Writes what comes in aside, part by part, readable by this user alone.
   * @throws TooLarge beyond `limit` bytes; nothing is left then
   */
  async receive(parts: AsyncIterable<Uint8Array>, limit = Infinity): Promise<Received> {
    const aside = join(this.folder, ASIDE);
    await mkdir(aside, { recursive: true, mode: 0o700 });
    const path = join(aside, randomUUID()),
      hash = createHash('sha256');
    let bytes = 0;
    try {
      const file = await open(path, 'wx', 0o600);
      try {
        for await (const part of parts) {
          bytes += part.length;
          if (bytes > limit) throw new TooLarge();
          hash.update(part);
          await file.writeFile(part);
        }
        await file.sync();
      } finally {
        await file.close();
      }
    } catch (error) {
      await rm(path, { force: true });
      throw error;
    }
    return { path, sha256: hash.digest('hex'), bytes };
  }

  /** Gives what was received its name. */
  async keep({ path, sha256 }: Received): Promise<string> {
    if (this.renew(sha256)) await rm(path, { force: true });
    else {
      const shelf = join(this.path(sha256), '..');
      if (!existsSync(shelf)) {
        await mkdir(shelf, { recursive: true, mode: 0o700 });
        await syncFolder(this.folder);
      }
      await rename(path, this.path(sha256));
      await syncFolder(shelf);
    }
    return sha256;
  }

  async discard({ path }: Received): Promise<void> {
    await rm(path, { force: true });
  }

  /**
   * Removes blobs that nobody needs and that are older than `age` ms (a row may still be on its way), and what was left aside as long.
   * Answers how many.
   */
  async sweep(needed: Set<string>, age = DAY): Promise<number> {
    let removed = 0;
    for (const shelf of await readdir(this.folder).catch(() => [] as string[]))
      for (const name of await readdir(join(this.folder, shelf)).catch(() => [] as string[])) {
        if (shelf !== ASIDE && needed.has(name)) continue;
        // looked at and removed without a pause between: whoever renews it meanwhile comes before or finds it gone
        const file = join(this.folder, shelf, name);
        const stat = statSync(file, { throwIfNoEntry: false });
        if (!stat || Date.now() - stat.mtimeMs < age) continue;
        rmSync(file, { force: true });
        removed++;
      }
    return removed;
  }
}
