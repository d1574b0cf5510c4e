import { listWishSchema, MAX_ASSET_BYTES } from '@plinket/contract';
import { Router } from 'express';
import type { BlobStore } from '../data/blobs.ts';
import { inTime, nameOf, read, route, sha256Of } from '../door/route.ts';
import { upload } from '../door/upload.ts';
import type { AssetService } from '../services/assets.ts';
import type { FileService } from '../services/files.ts';

export function assetRoutes(assets: AssetService, files: FileService, blobs: BlobStore): Router {
  const router = Router();
  router
    .route('/assets')
    .get(route(async (req) => ({ body: await inTime(assets.list(read(listWishSchema, req.query, 'The list cannot be shown.'))) })))
    .post(
      route(async (req) => {
        const name = nameOf(req, 'character.glb');
        const body = await upload(req, blobs, { type: 'model/gltf-binary', limit: MAX_ASSET_BYTES }, async (received) => {
          const report = await files.inspect('character', received, name);
          return inTime(assets.add(received, name, report));
        });
        return { status: 201, body };
      }),
    );
  router.delete(
    '/assets/:sha256',
    route(async (req) => {
      await inTime(assets.remove(sha256Of(req, 'character')));
      return { status: 204 };
    }),
  );
  router.post(
    '/assets/:sha256/restore',
    route(async (req) => ({ body: await inTime(assets.restore(sha256Of(req, 'character'))) })),
  );
  router
    .route('/assets/:sha256/originals')
    .get(route(async (req) => ({ body: await inTime(assets.originals(sha256Of(req, 'character'))) })))
    .post(
      route(async (req) => {
        const sha256 = sha256Of(req, 'character'),
          name = nameOf(req, 'original');
        const body = await upload(req, blobs, { type: 'application/octet-stream', limit: MAX_ASSET_BYTES }, (received) =>
          inTime(assets.addOriginal(sha256, received, name)),
        );
        return { status: 201, body };
      }),
    );
  return router;
}
