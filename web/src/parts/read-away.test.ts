import { describe, expect, it } from '@jest/globals';
import { readAway, type ReadAnswer, type ReadingWorker } from './read-away.ts';

/** A worker that never answers of itself. */
function silent() {
  const seen = { ended: 0, asked: 0 };
  const worker: ReadingWorker<ReadAnswer<string>> = {
    onmessage: null,
    onerror: null,
    terminate: () => void seen.ended++,
    postMessage: () => void seen.asked++,
  };
  return { worker, seen };
}

describe('reading in a worker', () => {
  it('is stopped by whoever wanted it, who hears no more of it', async () => {
    const { worker, seen } = silent(),
      stop = new AbortController();
    const reading = readAway(worker, 'sky.exr', {}, [], { longest: 1e6, signal: stop.signal });
    stop.abort(new Error('Reading was stopped.'));
    await expect(reading).rejects.toThrow('Reading was stopped.');
    expect(seen).toEqual({ ended: 1, asked: 1 });
    // too late
    worker.onmessage!({ data: { read: 'a sky' } } as MessageEvent<ReadAnswer<string>>);
  });
  it('does not begin for who is gone already', async () => {
    const { worker, seen } = silent();
    await expect(readAway(worker, 'sky.exr', {}, [], { longest: 1e6, signal: AbortSignal.abort(new Error('gone')) })).rejects.toThrow(
      'gone',
    );
    expect(seen).toEqual({ ended: 1, asked: 0 });
  });
});
