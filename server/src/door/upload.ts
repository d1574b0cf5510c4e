import type { Request } from 'express';
import { TooLarge, type BlobStore, type Received } from '../data/blobs.ts';
import { HttpProblem } from '../problem.ts';

const tooLarge = (limit: number): HttpProblem =>
  new HttpProblem(413, 'too-large', 'The body is too large.', { detail: `At most ${Math.round(limit / 1024 / 1024)} MB are taken.` });

/**
 * Takes a body of bytes aside without holding it in memory, and gives it to `use`, which keeps it or leaves it; what was left is gone.
 * @throws HttpProblem 413 or 415
 */
export async function upload<T>(
  req: Request,
  blobs: BlobStore,
  { type, limit }: { type: string; limit: number },
  use: (received: Received) => Promise<T>,
): Promise<T> {
  const wrong = new HttpProblem(415, 'media-type', `A body of type ${type} is needed.`);
  if (!req.is(type)) throw wrong;
  if (Number(req.headers['content-length'] ?? 0) > limit) throw tooLarge(limit);
  const received = await blobs.receive(req, limit).catch((error: unknown) => {
    throw error instanceof TooLarge ? tooLarge(limit) : error;
  });
  const gone = new AbortController();
  req.socket.once('close', () => gone.abort());
  try {
    if (!received.bytes) throw wrong;
    return await use({ ...received, signal: gone.signal });
  } finally {
    await blobs.discard(received);
  }
}
