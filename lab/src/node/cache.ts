import { createHash } from 'node:crypto';
import { mkdirSync, readdirSync, renameSync, rmSync, statSync, utimesSync, writeFileSync } from 'node:fs';
import { readFile } from 'node:fs/promises';
import { join } from 'node:path';

/** Room that the cache of a node takes at most, bytes. */
const MOST_BYTES = 8 * 1024 ** 3;

/** Files by their SHA-256, fetched once and kept on this machine; those that were not used for longest go first. */
export class FileCache {
  private readonly folder: string;
  private readonly fetchFile: (sha256: string, signal?: AbortSignal) => Promise<Uint8Array>;
  private readonly mostBytes: number;

  constructor(folder: string, fetchFile: (sha256: string, signal?: AbortSignal) => Promise<Uint8Array>, mostBytes = MOST_BYTES) {
    this.folder = folder;
    this.fetchFile = fetchFile;
    this.mostBytes = mostBytes;
    mkdirSync(folder, { recursive: true });
  }

  /** A file's bytes. @throws Error when what came is something else, or nothing did */
  async get(sha256: string, signal?: AbortSignal): Promise<Uint8Array> {
    const path = join(this.folder, sha256);
    const kept = await readFile(path).catch(() => undefined);
    if (kept && digest(kept) === sha256) {
      const now = new Date();
      utimesSync(path, now, now);
      return kept;
    }
    const bytes = await this.fetchFile(sha256, signal);
    if (digest(bytes) !== sha256) throw new Error(`The file ${sha256.slice(0, 12)}… came damaged.`);
    const aside = join(this.folder, `.${process.pid}.part`);
    try {
      writeFileSync(aside, bytes);
      renameSync(aside, path);
      this.tidy();
    } catch {
      // a full disk keeps nobody from rendering
      rmSync(aside, { force: true });
    }
    return bytes;
  }

  /** A place for a file that is being made. */
  aside(name: string): string {
    return join(this.folder, `.${process.pid}.${name}`);
  }

  private tidy(): void {
    const files = readdirSync(this.folder)
      .filter((name) => /^[0-9a-f]{64}$/.test(name))
      .map((name) => ({ path: join(this.folder, name), stat: statSync(join(this.folder, name)) }))
      .sort((a, b) => b.stat.mtimeMs - a.stat.mtimeMs);
    let bytes = 0;
    for (const { path, stat } of files) if ((bytes += stat.size) > this.mostBytes) rmSync(path, { force: true });
  }
}

const digest = (bytes: Uint8Array): string => createHash('sha256').update(bytes).digest('hex');
