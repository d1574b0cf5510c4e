import { parentPort } from 'node:worker_threads';
import { fuzzReaders } from './readers.ts';
import { fuzzOne, type FromFuzz, type ToFuzz } from './run.ts';

const port = parentPort!,
  readers = fuzzReaders();
port.on('message', ({ reader, from, to }: ToFuzz) => {
  const work = async (): Promise<void> => {
    const of = (await readers)[reader]!;
    const say = (message: FromFuzz): void => port.postMessage(message);
    for (let number = from; number < to; number++) {
      say({ type: 'begun', number });
      const since = performance.now();
      const { accepted, fault } = await fuzzOne(of, number);
      say({ type: 'read', number, accepted, ms: performance.now() - since, ...(fault ? { fault } : {}) });
    }
    say({ type: 'done' });
  };
  work().catch((error: unknown) => {
    throw error;
  });
});
