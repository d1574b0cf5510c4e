import type { LightFileReport } from '@plinket/core';
import { readAway, type ReadAnswer, type ReadingWorker } from '../parts/read-away.ts';
import type { ReadLight } from './files.ts';
import type { LightAnswer, LightWish } from './light-worker.ts';

/** So long a file for a light may be read, ms: the largest picture that is taken needs some ten seconds. */
const LONGEST = 60_000;

type LightWorker = ReadingWorker<ReadAnswer<LightAnswer>>;
const start = (): LightWorker => new Worker(new URL('./light-worker.ts', import.meta.url), { type: 'module' });

const away = (wish: LightWish, name: string, signal?: AbortSignal): Promise<LightAnswer> =>
  readAway(start(), name, wish, [wish.bytes.buffer as ArrayBuffer], { longest: LONGEST, signal });

/** Makes of a file what a light wants, in a worker of its own. The bytes are gone afterwards. @throws Error that names what it was */
export const readLightAway: ReadLight = async (bytes, sha256, use, what) =>
  (await away({ ask: 'read', bytes, sha256, use }, what)) as Awaited<ReturnType<ReadLight>>;

/** What a file is for a light. The bytes are gone afterwards. @throws Error with the reason, or the signal's */
export const whatForLight = async (bytes: Uint8Array, name: string, signal: AbortSignal): Promise<LightFileReport> =>
  (await away({ ask: 'what', bytes }, name, signal)) as LightFileReport;

/** Names of a dome's layers. The bytes are gone afterwards. @throws Error with the reason */
export const layersAway = async (bytes: Uint8Array, name: string): Promise<string[]> =>
  (await away({ ask: 'layers', bytes }, name)) as string[];
