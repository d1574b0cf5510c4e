import { readFile } from 'node:fs/promises';
import { parentPort } from 'node:worker_threads';
import { READERS, Unreadable } from './kinds.ts';
import type { FromReader, ToReader } from './readers.ts';

async function answerTo({ kind, path, fileName }: ToReader): Promise<FromReader> {
  try {
    return { type: 'read', report: await READERS[kind](await readFile(path), fileName) };
  } catch (error) {
    if (error instanceof Unreadable) return { type: 'refused', code: error.code, message: error.message };
    return { type: 'broken', message: error instanceof Error ? (error.stack ?? error.message) : String(error) };
  }
}

parentPort!.on('message', (asked: ToReader) => void answerTo(asked).then((answer) => parentPort!.postMessage(answer)));
parentPort!.postMessage({ type: 'ready' } satisfies FromReader);
