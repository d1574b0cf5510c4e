// Frames on a disk: written whole or not at all, known by what they were made of, so that only what is missing or outdated is made again.
import { createHash } from 'node:crypto';
import { existsSync, mkdirSync, readFileSync, renameSync, rmSync, statSync, writeFileSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { z } from 'zod';
import { UsageError } from './usage.ts';

/** Frames by their file's name: of what each was made (SHA-256), and how many bytes it has. */
const listSchema = z.strictObject({
  version: z.literal(1),
  frames: z.record(z.string(), z.strictObject({ key: z.string(), bytes: z.number().int() })),
});
type FrameList = z.infer<typeof listSchema>;

/** What a value is called in a list: the SHA-256 of its JSON. */
export const keyOf = (value: unknown): string => createHash('sha256').update(JSON.stringify(value)).digest('hex');

/** The frames of one picture in a folder, with the list of what they are beside them. */
export class FrameFolder {
  private readonly folder: string;
  private readonly listFile: string;
  private list: FrameList = { version: 1, frames: {} };

  /** @param name what all its files begin with */
  constructor(folder: string, name: string) {
    this.folder = folder;
    this.listFile = join(folder, `${name}.frames.json`);
    this.tried(() => mkdirSync(folder, { recursive: true }), folder);
    if (!existsSync(this.listFile)) return;
    try {
      const read = listSchema.safeParse(JSON.parse(readFileSync(this.listFile, 'utf8')));
      // a list that is none of ours says nothing: all frames are made again
      if (read.success) this.list = read.data;
    } catch (error) {
      if (!(error instanceof SyntaxError)) throw error;
    }
  }

  /** Whether a file is there as it was written, and made of this. */
  has(file: string, key: string): boolean {
    const known = this.list.frames[file];
    const path = join(this.folder, file);
    return known?.key === key && existsSync(path) && statSync(path).size === known.bytes;
  }

  /** Writes a frame beside its place and moves it there. @throws UsageError when the disk does not take it; what was there stays */
  write(file: string, key: string, bytes: Uint8Array): void {
    this.put(join(this.folder, file), bytes);
    this.list.frames[file] = { key, bytes: bytes.byteLength };
    this.put(this.listFile, JSON.stringify(this.list, null, 1));
  }

  private put(path: string, content: Uint8Array | string): void {
    const beside = join(dirname(path), `.${process.pid}.part`);
    this.tried(() => {
      try {
        writeFileSync(beside, content);
        renameSync(beside, path);
      } catch (error) {
        rmSync(beside, { force: true });
        throw error;
      }
    }, path);
  }

  private tried(write: () => void, path: string): void {
    try {
      write();
    } catch (error) {
      const { code, message } = error as NodeJS.ErrnoException;
      const why = code === 'ENOSPC' ? 'the disk is full' : message;
      throw new UsageError(`${path} was not written: ${why}. What is done stays; begun again, it goes on from there.`);
    }
  }
}
