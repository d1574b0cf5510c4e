import { parentPort } from 'node:worker_threads';
import type { ToWorker } from './protocol.ts';
import { serveTracing } from './serve.ts';

const handle = serveTracing((message, transfer) => parentPort!.postMessage(message, transfer), setImmediate);
parentPort!.on('message', (message: ToWorker) => handle(message));
parentPort!.on('messageerror', (error) =>
  parentPort!.postMessage({ type: 'failed', id: undefined, message: `A message could not be read: ${error.message}` }),
);
