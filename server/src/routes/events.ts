import { holdingSchema, idSchema, revisionSchema, type AcceptedChange, type HandsTold } from '@plinket/contract';
import { Router, type Response } from 'express';
import { idOf, inTime, read, route } from '../door/route.ts';
import type { Asking } from '../people/index.ts';
import type { DocumentService } from '../services/documents.ts';
import type { Hands } from '../services/hands.ts';
import type { Live } from '../services/live.ts';

/** So often something is said though nothing happened, ms: nobody between takes the connection for dead. */
const PING = 20_000;

const say = (res: Response, change: AcceptedChange): void => void res.write(`id: ${change.revision}\ndata: ${JSON.stringify(change)}\n\n`);

/** Tells a stream who else is there, at once and whenever it changes. */
function tellHands(res: Response, hands: Hands, id: string, client: string | undefined): void {
  let told = JSON.stringify({ hands: [] });
  const tell = (): void => {
    const now = JSON.stringify({ hands: hands.others(id, client) } satisfies HandsTold);
    if (now !== told) res.write(`data: ${now}\n\n`);
    told = now;
  };
  tell();
  res.on('close', hands.listen(tell));
}

export interface Listened {
  live: Live;
  hands: Hands;
  asking: Asking;
}

/**
 * Changes of one document as they are accepted: server-sent events (HTML standard, 9.2), each with its revision as id. Who comes back says
 * the last id (`Last-Event-ID`, or `?after=`) and is told first what came since. A page that says who it is (`?client=`) is seen by the others
 * as long as it listens, and is told who they are and what they have in hand.
 */
export function eventRoutes(path: string, documents: Pick<DocumentService<never>, 'since'>, { live, hands, asking }: Listened): Router {
  const router = Router();
  const handOf = (document: string, holding: unknown) => ({
    ...read(holdingSchema, holding, 'What is in hand was not read.'),
    document,
    ...(asking.current ? { name: asking.current.name } : {}),
  });
  router.get(`${path}/:id/events`, async (req, res) => {
    const id = idOf(req);
    const after = revisionSchema.safeParse(req.headers['last-event-id'] ?? req.query['after']);
    const client = idSchema.safeParse(req.query['client']).data;
    const early: AcceptedChange[] = [];
    let told = after.success ? after.data : Infinity;
    let open = false;
    const tell = (change: AcceptedChange): void => {
      if (!open) early.push(change);
      else if (change.revision > told) {
        told = change.revision;
        say(res, change);
      }
    };
    // listened to before the past is asked for: nothing falls between
    const stop = live.listen(id, tell);
    res.on('close', stop);
    try {
      const { revision, changes } = await inTime(documents.since(id, after.success ? after.data : undefined));
      told = Math.min(told, revision);
      res.writeHead(200, { 'Content-Type': 'text/event-stream', 'Cache-Control': 'no-cache, no-transform' });
      res.write('retry: 2000\n\n');
      open = true;
      for (const change of [...changes, ...early.sort((a, b) => a.revision - b.revision)]) tell(change);
    } catch (error) {
      stop();
      throw error;
    }
    if (client !== undefined) {
      const leave = hands.arrive(handOf(id, { client, lights: [] }));
      res.on('close', leave);
    }
    tellHands(res, hands, id, client);
    const ping = setInterval(() => res.write(': still here\n\n'), PING);
    res.on('close', () => clearInterval(ping));
  });
  router.post(
    `${path}/:id/hand`,
    route((req) => {
      hands.hold(handOf(idOf(req), req.body));
      return Promise.resolve({ status: 204 });
    }),
  );
  return router;
}
