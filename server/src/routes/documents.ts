import { historyWishSchema, listWishSchema, patchSchema, requestIdSchema, revisionSchema } from '@plinket/contract';
import type { Patch } from '@plinket/core';
import { Router, type Request } from 'express';
import type { z } from 'zod';
import { idOf, inTime, read, route } from '../door/route.ts';
import { HttpProblem, notFound } from '../problem.ts';
import type { AnyDocument, DocumentService } from '../services/documents.ts';

/** An answer that says which revision it is. */
export const tagged = <T extends { revision: number }>(record: T, status = 200, headers = {}) => ({
  status,
  headers: { ...headers, ETag: `"${record.revision}"` },
  body: record,
});

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

/** What can be done with documents of any kind: listed, made, had, changed, looked back on, thrown away and had back. `noun` is what problems call one. */
export function documentRoutes<D extends AnyDocument>(
  path: string,
  noun: string,
  schema: z.ZodType<{ document: D }>,
  documents: DocumentService<D>,
): Router {
  const router = Router();
  router
    .route(path)
    .get(route(async (req) => ({ body: await inTime(documents.list(read(listWishSchema, req.query, 'The list cannot be shown.'))) })))
    .post(
      route(async (req) => {
        const { document } = read(schema, req.body, `The ${noun} was not kept.`);
        const record = await inTime(documents.create(document));
        return tagged(record, 201, { Location: `/api${path}/${record.id}` });
      }),
    );
  router
    .route(`${path}/:id`)
    .get(route(async (req) => tagged(await inTime(documents.get(idOf(req))))))
    .delete(
      route(async (req) => {
        await inTime(documents.remove(idOf(req)));
        return { status: 204 };
      }),
    );
  router.patch(
    `${path}/:id`,
    route(async (req) => {
      if (!req.is('application/merge-patch+json'))
        throw new HttpProblem(415, 'media-type', 'A body of type application/merge-patch+json is needed.');
      const patch = read(patchSchema, req.body, 'The patch was not kept.') as Patch;
      return tagged(await inTime(documents.patch(idOf(req), { revision: revisionOf(req), request: requestOf(req) }, patch)));
    }),
  );
  router.get(
    `${path}/:id/history`,
    route(async (req) => ({
      body: await inTime(documents.history(idOf(req), read(historyWishSchema, req.query, 'The history cannot be shown.').before)),
    })),
  );
  router.get(
    `${path}/:id/revisions/:revision`,
    route(async (req) => {
      const revision = revisionSchema.safeParse(req.params['revision']);
      if (!revision.success) throw notFound('revision: it is a whole number from 1');
      return { body: await inTime(documents.at(idOf(req), revision.data)) };
    }),
  );
  router.post(
    `${path}/:id/restore`,
    route(async (req) => tagged(await inTime(documents.restore(idOf(req))))),
  );
  return router;
}
