import { MAX_CUBE_BYTES, MAX_LIGHT_FILE_BYTES, MAX_SMALL_PICTURE_BYTES, sha256Schema } from '@plinket/contract';
import { Router } from 'express';
import type { BlobStore } from '../data/blobs.ts';
import { nameOf, route } from '../door/route.ts';
import { upload } from '../door/upload.ts';
import { notFound } from '../problem.ts';
import type { FileService } from '../services/files.ts';

export function fileRoutes(files: FileService, blobs: BlobStore): Router {
  const router = Router();
  router.post(
    '/luts',
    route(async (req) => {
      const name = nameOf(req, 'table.cube');
      const body = await upload(req, blobs, { type: 'text/plain', limit: MAX_CUBE_BYTES }, (received) => files.addCube(received, name));
      return { status: 201, body };
    }),
  );
  router.post(
    '/pictures',
    route(async (req) => {
      const name = nameOf(req, 'picture');
      const wish = { type: 'application/octet-stream', limit: MAX_SMALL_PICTURE_BYTES };
      return { status: 201, body: await upload(req, blobs, wish, (received) => files.addPicture(received, name)) };
    }),
  );
  router.post(
    '/light-files',
    route(async (req) => {
      const name = nameOf(req, 'file');
      const body = await upload(req, blobs, { type: 'application/octet-stream', limit: MAX_LIGHT_FILE_BYTES }, (received) =>
        files.addLight(received, name),
      );
      return { status: 201, body };
    }),
  );
  router.get('/blobs/:sha256', (req, res) => {
    const sha256 = sha256Schema.safeParse(req.params['sha256']);
    if (!sha256.success || !blobs.has(sha256.data)) throw notFound('file');
    // named by content: it can never change
    res.sendFile(blobs.path(sha256.data), {
      immutable: true,
      maxAge: '1y',
      headers: { 'Content-Type': 'application/octet-stream' },
      dotfiles: 'allow',
    });
  });
  return router;
}
