import { createKitSchema, MAX_KIT_BYTES } from '@plinket/contract';
import type { Kit } from '@plinket/core';
import type { Router } from 'express';
import { pipeline } from 'node:stream/promises';
import type { BlobStore } from '../data/blobs.ts';
import { idOf, inTime, nameOf, route } from '../door/route.ts';
import { upload } from '../door/upload.ts';
import type { DocumentService } from '../services/documents.ts';
import type { FileService } from '../services/files.ts';
import { readKitFile, writeKitFile } from '../services/kit-files.ts';
import { documentRoutes, tagged } from './documents.ts';

/** Kits, and kits as files. */
export function kitRoutes(kits: DocumentService<Kit>, files: FileService, blobs: BlobStore): Router {
  const router = documentRoutes('/kits', 'kit', createKitSchema, kits);
  router.get('/kits/:id/file', async (req, res) => {
    const { document } = await inTime(kits.get(idOf(req)));
    const zip = writeKitFile(document, blobs);
    res.attachment(`${document.name}.plinket`).type('application/zip');
    await pipeline(zip, res);
  });
  router.post(
    '/kits/file',
    route(async (req) => {
      const name = nameOf(req, 'kit.plinket');
      return upload(req, blobs, { type: 'application/zip', limit: MAX_KIT_BYTES }, async (received) => {
        const record = await inTime(kits.create(await readKitFile(received, name, blobs, files)));
        return tagged(record, 201, { Location: `/api/kits/${record.id}` });
      });
    }),
  );
  return router;
}
