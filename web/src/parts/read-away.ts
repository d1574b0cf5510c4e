/** What reading needs of a worker; tests give their own. */
export type ReadingWorker<A> = Pick<Worker, 'postMessage' | 'terminate'> & {
  onmessage: ((event: MessageEvent<A>) => void) | null;
  onerror: ((event: ErrorEvent) => void) | null;
};

/** What a worker that reads one file answers. */
export type ReadAnswer<T> = { read: T } | { refused: string };

export interface ReadingLimits {
  /** So long it may take, ms. */
  longest: number;
  /** Whoever wanted it does not any more. */
  signal?: AbortSignal | undefined;
}

/**
 * Has one file read in a worker of its own, which ends with it: a file that is read for ever, or takes all memory, takes nobody with it.
 * @param name of the file, for what is said
 * @throws Error that names the file and why it is not read; the signal's reason when that stopped it
 */
export async function readAway<T>(
  worker: ReadingWorker<ReadAnswer<T>>,
  name: string,
  message: unknown,
  transfer: Transferable[],
  { longest, signal }: ReadingLimits,
): Promise<T> {
  let late: ReturnType<typeof setTimeout> | undefined;
  try {
    return await new Promise<T>((resolve, reject) => {
      signal?.throwIfAborted();
      signal?.addEventListener('abort', () => reject(signal.reason as Error), { once: true });
      late = setTimeout(() => reject(new Error(`${name} was read for ${longest / 1000} s and given up.`)), longest);
      worker.onmessage = ({ data }) => ('read' in data ? resolve(data.read) : reject(new Error(data.refused)));
      worker.onerror = (event) => reject(new Error(`${name} could not be read: ${event.message || 'it takes too much memory'}.`));
      worker.postMessage(message, transfer);
    });
  } finally {
    clearTimeout(late);
    worker.terminate();
  }
}
