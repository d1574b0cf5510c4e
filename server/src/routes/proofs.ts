import { listWishSchema, MAX_PICTURE_BYTES, proofChangeSchema, proofWishSchema } from '@plinket/contract';
import { Router } from 'express';
import type { BlobStore } from '../data/blobs.ts';
import { idOf, inTime, nameOf, read, route } from '../door/route.ts';
import { upload } from '../door/upload.ts';
import type { FileService } from '../services/files.ts';
import type { ProofService } from '../services/proofs.ts';

const NOT_LISTED = 'The list cannot be shown.';

export function proofRoutes(proofs: ProofService, files: FileService, blobs: BlobStore): Router {
  const router = Router();
  router
    .route('/setups/:id/proofs')
    .get(
      route(async (req) => {
        const setup = idOf(req);
        await inTime(proofs.setup(setup));
        return { body: await inTime(proofs.list({ ...read(listWishSchema, req.query, NOT_LISTED), setup })) };
      }),
    )
    .post(
      route(async (req) => {
        const id = idOf(req),
          name = nameOf(req, 'Proof', 120);
        await inTime(proofs.setup(id));
        const body = await upload(req, blobs, { type: 'image/png', limit: MAX_PICTURE_BYTES }, async (received) => {
          const report = await files.inspect('proof', received, name, 'picture');
          return inTime(proofs.add(id, received, name, report));
        });
        return { status: 201, body };
      }),
    );
  router.get(
    '/proofs',
    route(async (req) => ({ body: await inTime(proofs.list(read(proofWishSchema, req.query, NOT_LISTED))) })),
  );
  router
    .route('/proofs/:id')
    .get(route(async (req) => ({ body: await inTime(proofs.get(idOf(req))) })))
    .patch(
      route(async (req) => {
        const id = idOf(req);
        return { body: await inTime(proofs.change(id, read(proofChangeSchema, req.body, 'The proof was not changed.'))) };
      }),
    )
    .delete(
      route(async (req) => {
        await inTime(proofs.remove(idOf(req)));
        return { status: 204 };
      }),
    );
  router.post(
    '/proofs/:id/restore',
    route(async (req) => ({ body: await inTime(proofs.restore(idOf(req))) })),
  );
  return router;
}
