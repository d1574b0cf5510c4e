/** Questions to a worker that wait for their answers. */
export class Asking {
  private readonly waiting = new Map<number, { resolve: (v: never) => void; reject: (e: Error) => void }>();
  private next = 1;

  /** Sends a question under a number of its own. */
  ask<T>(send: (request: number) => void): Promise<T> {
    const request = this.next++;
    return new Promise<T>((resolve, reject) => {
      this.waiting.set(request, { resolve: resolve as (v: never) => void, reject });
      send(request);
    });
  }

  /** The answer to a question; one that nobody waits for is dropped. */
  answer(request: number, value: unknown): void {
    this.waiting.get(request)?.resolve(value as never);
    this.waiting.delete(request);
  }

  refuse(request: number, error: Error): void {
    this.waiting.get(request)?.reject(error);
    this.waiting.delete(request);
  }

  /** Nobody will answer any more. */
  refuseAll(error: Error): void {
    for (const request of [...this.waiting.keys()]) this.refuse(request, error);
  }
}
