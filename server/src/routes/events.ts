import { revisionSchema, type AcceptedChange } from '@plinket/contract';
import { Router, type Response } from 'express';
import { idOf, inTime } from '../door/route.ts';
import type { Live } from '../services/live.ts';
import type { DocumentService } from '../services/documents.ts';

/** So often something is said though nothing happened, ms: nobody between takes the connection for dead. */
const PING = 20_000;

const say = (res: Response, change: AcceptedChange): void => void res.write(`id: ${change.revision}\ndata: ${JSON.stringify(change)}\n\n`);

/**
 * Changes of one document as they are accepted: server-sent events (HTML standard, 9.2), each with its revision as id. Who comes back says
 * the last id (`Last-Event-ID`, or `?after=`) and is told first what came since.
 */
export function eventRoutes(path: string, documents: Pick<DocumentService<never>, 'since'>, live: Live): Router {
  const router = Router();
  router.get(`${path}/:id/events`, async (req, res) => {
    const id = idOf(req);
    const after = revisionSchema.safeParse(req.headers['last-event-id'] ?? req.query['after']);
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
    const ping = setInterval(() => res.write(': still here\n\n'), PING);
    res.on('close', () => clearInterval(ping));
  });
  return router;
}
