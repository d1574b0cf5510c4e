// Reads a shot list away from the page: a file that is read for ever, or takes all memory, takes no page with it.
import { readShotList, type ShotList } from '@plinket/core';
import type { ReadAnswer } from '../parts/read-away.ts';

/** What the page asks. */
export interface ListWish {
  bytes: Uint8Array;
  name: string;
  fps: number;
}
interface Scope {
  postMessage(message: ReadAnswer<ShotList>): void;
  onmessage: ((event: MessageEvent<ListWish>) => void) | null;
}
const scope = globalThis as unknown as Scope;

scope.onmessage = ({ data: { bytes, name, fps } }) => {
  try {
    scope.postMessage({ read: readShotList(bytes, name, fps) });
  } catch (error) {
    scope.postMessage({ refused: error instanceof Error ? error.message : String(error) });
  }
};
