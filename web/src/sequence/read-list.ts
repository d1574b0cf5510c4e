import type { ShotList } from '@plinket/core';
import type { ListAnswer, ListWish } from './list-worker.ts';

/** So long a shot list may be read, ms. */
const LONGEST = 15_000;
/** Largest file that is read, bytes. */
const LARGEST = 50_000_000;

/** What reading needs of a worker; tests give their own. */
export type ListReader = Pick<Worker, 'postMessage' | 'terminate'> & {
  onmessage: ((event: MessageEvent<ListAnswer>) => void) | null;
  onerror: ((event: ErrorEvent) => void) | null;
};

/** Reads a shot list in a worker of its own. @throws Error that names the file and why it is not read */
export async function readList(
  file: File,
  fps: number,
  start: () => ListReader = () => new Worker(new URL('./list-worker.ts', import.meta.url), { type: 'module' }),
  longest = LONGEST,
): Promise<ShotList> {
  if (file.size > LARGEST) throw new Error(`${file.name} has ${Math.round(file.size / 1e6)} MB; a shot list has at most ${LARGEST / 1e6}.`);
  const bytes = new Uint8Array(await file.arrayBuffer()),
    worker = start();
  try {
    return await new Promise<ShotList>((resolve, reject) => {
      const late = setTimeout(() => reject(new Error(`${file.name} was read for ${longest / 1000} s and given up.`)), longest);
      const answer = (then: () => void): void => {
        clearTimeout(late);
        then();
      };
      worker.onmessage = ({ data }) => answer(() => ('list' in data ? resolve(data.list) : reject(new Error(data.refused))));
      worker.onerror = (event) =>
        answer(() => reject(new Error(`${file.name} could not be read: ${event.message || 'it takes too much memory'}.`)));
      worker.postMessage({ bytes, name: file.name, fps } satisfies ListWish, [bytes.buffer]);
    });
  } finally {
    worker.terminate();
  }
}
