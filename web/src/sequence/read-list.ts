import type { ShotList } from '@plinket/core';
import { readAway, type ReadAnswer, type ReadingWorker } from '../parts/read-away.ts';
import type { ListWish } from './list-worker.ts';

/** So long a shot list may be read, ms. */
const LONGEST = 15_000;
/** Largest file that is read, bytes. */
const LARGEST = 50_000_000;

/** What reading needs of a worker; tests give their own. */
export type ListReader = ReadingWorker<ReadAnswer<ShotList>>;

/** Reads a shot list in a worker of its own. @throws Error that names the file and why it is not read */
export async function readList(
  file: File,
  fps: number,
  start: () => ListReader = () => new Worker(new URL('./list-worker.ts', import.meta.url), { type: 'module' }),
  longest = LONGEST,
): Promise<ShotList> {
  if (file.size > LARGEST) throw new Error(`${file.name} has ${Math.round(file.size / 1e6)} MB; a shot list has at most ${LARGEST / 1e6}.`);
  const bytes = new Uint8Array(await file.arrayBuffer());
  return readAway(start(), file.name, { bytes, name: file.name, fps } satisfies ListWish, [bytes.buffer], { longest });
}
