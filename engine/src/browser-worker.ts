import type { ToWorker } from './protocol.ts';
import { serveTracing } from './serve.ts';

interface WorkerScope {
  postMessage(message: unknown, transfer: ArrayBuffer[]): void;
  onmessage: ((event: { data: ToWorker }) => void) | null;
}
const scope = globalThis as unknown as WorkerScope;
const handle = serveTracing((message, transfer) => scope.postMessage(message, transfer));
scope.onmessage = (event) => handle(event.data);
