import { createSetupSchema, historyWishSchema, patchSchema, requestIdSchema, revisionSchema } from '@plinket/contract';
import type { Patch } from '@plinket/core';
import type { Request, Router } from 'express';
import { inTime, idOf, read, route } from '../door/route.ts';
import { HttpProblem, notFound } from '../problem.ts';
import type { SetupService } from '../services/setups.ts';
import { documentRoutes, tagged } from './documents.ts';

/** The revision in If-Match: a number in quotation marks. */
function revisionOf(req: Request): number {
  const header = req.headers['if-match'];
  if (header === undefined)
    throw new HttpProblem(428, 'if-match', 'If-Match is missing.', { detail: 'Say which revision the patch was made for.' });
  const revision = revisionSchema.safeParse(/^"(\d{1,10})"$/.exec(header)?.[1]);
  if (revision.success) return revision.data;
  throw new HttpProblem(400, 'if-match', 'If-Match cannot be read.', { detail: `${header} is not a revision in quotation marks.` });
}

/** The id under which a change may be sent again: the header Idempotency-Key (an IETF draft), a UUID. */
function requestOf(req: Request): string | undefined {
  const header = req.headers['idempotency-key'];
  return header === undefined ? undefined : read(requestIdSchema, String(header).replace(/^"|"$/g, ''), 'Idempotency-Key cannot be read.');
}

export function setupRoutes(setups: SetupService): Router {
  const router = documentRoutes('/setups', 'setup', createSetupSchema, setups);
  router.patch(
    '/setups/:id',
    route(async (req) => {
      if (!req.is('application/merge-patch+json'))
        throw new HttpProblem(415, 'media-type', 'A body of type application/merge-patch+json is needed.');
      const patch = read(patchSchema, req.body, 'The patch was not kept.') as Patch;
      return tagged(await inTime(setups.patch(idOf(req), { revision: revisionOf(req), request: requestOf(req) }, patch)));
    }),
  );
  router.get(
    '/setups/:id/history',
    route(async (req) => ({
      body: await inTime(setups.history(idOf(req), read(historyWishSchema, req.query, 'The history cannot be shown.').before)),
    })),
  );
  router.get(
    '/setups/:id/revisions/:revision',
    route(async (req) => {
      const revision = revisionSchema.safeParse(req.params['revision']);
      if (!revision.success) throw notFound('revision: it is a whole number from 1');
      return { body: await inTime(setups.at(idOf(req), revision.data)) };
    }),
  );
  return router;
}
