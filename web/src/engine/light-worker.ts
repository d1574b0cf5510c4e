// Reads one file for a light away from everybody: looks it over when it is brought in, or makes of it what the light wants.
import { inspectLightFile, layersOf, readLightFile, type LightFileReport, type LightFileUse, type ReadLightFile } from '@plinket/core';
import type { ReadAnswer } from '../parts/read-away.ts';

/** What is asked. */
export type LightWish = { bytes: Uint8Array } & ({ ask: 'what' } | { ask: 'layers' } | { ask: 'read'; sha256: string; use: LightFileUse });
export type LightAnswer = LightFileReport | string[] | ReadLightFile;

interface Scope {
  postMessage(message: ReadAnswer<LightAnswer>): void;
  onmessage: ((event: MessageEvent<LightWish>) => void) | null;
}
const scope = globalThis as unknown as Scope;

function answer(wish: LightWish): LightAnswer {
  const { bytes } = wish;
  if (wish.ask === 'what') return inspectLightFile(bytes);
  if (wish.ask === 'read') return readLightFile(bytes, wish.sha256, wish.use);
  // a Radiance picture has one layer, without a name
  return bytes[0] === 0x23 ? [''] : layersOf(bytes);
}

scope.onmessage = ({ data }) => {
  try {
    scope.postMessage({ read: answer(data) });
  } catch (error) {
    scope.postMessage({ refused: error instanceof Error ? error.message : String(error) });
  }
};
