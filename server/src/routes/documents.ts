import { listWishSchema } from '@plinket/contract';
import { Router } from 'express';
import type { z } from 'zod';
import { idOf, inTime, read, route } from '../door/route.ts';
import type { AnyDocument, DocumentService } from '../services/documents.ts';

/** An answer that says which revision it is. */
export const tagged = <T extends { revision: number }>(record: T, status = 200, headers = {}) => ({
  status,
  headers: { ...headers, ETag: `"${record.revision}"` },
  body: record,
});

/** What can be done with documents of any kind: listed, made, had, thrown away and had back. `noun` is what problems call one. */
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
  router.post(
    `${path}/:id/restore`,
    route(async (req) => tagged(await inTime(documents.restore(idOf(req))))),
  );
  return router;
}
