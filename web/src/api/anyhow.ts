import { ApiProblem } from './client.ts';

/** How often a change is made anew for a document that others change meanwhile. */
const TRIES = 5;

/**
 * Changes a document that others may change meanwhile: what they changed stands. It is sent at once, so that it outlives a page that is left.
 * @param send sends the change for a revision
 * @param ask asks for the document as it is
 */
export async function anyhow<R extends { revision: number }>(
  revision: number,
  send: (revision: number) => Promise<R>,
  ask: () => Promise<{ revision: number }>,
): Promise<R> {
  for (let attempt = 1, known = revision; ; attempt++)
    try {
      return await send(known);
    } catch (error) {
      if (!(error instanceof ApiProblem && error.problem.status === 412) || attempt === TRIES) throw error;
      known = (await ask()).revision;
    }
}
