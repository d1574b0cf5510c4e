import type { ToWorker } from './protocol.ts';
import { serveTracing } from './serve.ts';

interface WorkerScope {
  postMessage(message: unknown, transfer: ArrayBuffer[]): void;
  onmessage: ((event: { data: ToWorker }) => void) | null;
}
const scope = globalThis as unknown as WorkerScope;
// a message to oneself comes after those that are on their way already
const turns = new MessageChannel(),
  waiting: (() => void)[] = [];
turns.port1.onmessage = () => waiting.shift()?.();
const handle = serveTracing(
  (message, transfer) => scope.postMessage(message, transfer),
  (run) => {
    waiting.push(run);
    turns.port2.postMessage(0);
  },
);
scope.onmessage = (event) => handle(event.data);
