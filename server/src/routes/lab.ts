import { frameWishSchema, jobChangeSchema, jobWishSchema, listWishSchema, newNodeSchema, type LabEvent } from '@plinket/contract';
import { Router } from 'express';
import { ZipFile } from 'yazl';
import type { BlobStore } from '../data/blobs.ts';
import { idOf, inTime, read, route } from '../door/route.ts';
import type { Lab } from '../lab/index.ts';

/** So often something is said though nothing happened, ms. */
const PING = 20_000;
/** Sending a job may read many setups, ms. */
const SEND_MS = 60_000;
const NOT_CHANGED = 'The job was not changed.';

/** The Lab as people see it: jobs, frames, nodes, what happens. */
export function labRoutes(lab: Lab, blobs: BlobStore): Router {
  const router = Router(),
    { jobs, nodes } = lab;
  router
    .route('/lab/jobs')
    .get(route(async (req) => ({ body: await inTime(jobs.list(read(listWishSchema, req.query, 'The list cannot be shown.'))) })))
    .post(
      route(async (req) => ({
        status: 201,
        body: await inTime(jobs.send(read(jobWishSchema, req.body, 'The job was not sent.')), SEND_MS),
      })),
    );
  router
    .route('/lab/jobs/:id')
    .get(route(async (req) => ({ body: await inTime(jobs.get(idOf(req))) })))
    .patch(route(async (req) => ({ body: await inTime(jobs.change(idOf(req), read(jobChangeSchema, req.body, NOT_CHANGED)), SEND_MS) })))
    .delete(
      route(async (req) => {
        await inTime(jobs.remove(idOf(req)));
        return { status: 204 };
      }),
    );
  router.get(
    '/lab/jobs/:id/frames',
    route(async (req) => ({
      body: await inTime(jobs.frames(idOf(req), read(frameWishSchema, req.query, 'The frames cannot be shown.').after)),
    })),
  );
  router.post(
    '/lab/jobs/:id/again',
    route(async (req) => ({ body: await inTime(jobs.again(idOf(req))) })),
  );
  // as `sha256sum --check` reads it
  router.get('/lab/jobs/:id/checksums', async (req, res) => {
    const files = await inTime(jobs.files(idOf(req)));
    res.type('text/plain').send(files.map((f) => `${f.sha256}  ${f.name}\n`).join(''));
  });
  router.get('/lab/jobs/:id/files', async (req, res) => {
    const id = idOf(req),
      { name, version } = await inTime(jobs.get(id)),
      files = await inTime(jobs.files(id));
    const zip = new ZipFile();
    // pictures are packed already
    for (const f of files) zip.addFile(blobs.path(f.sha256), f.name, { compress: false });
    zip.addBuffer(Buffer.from(files.map((f) => `${f.sha256}  ${f.name}\n`).join('')), 'SHA256SUMS');
    zip.end();
    const called = `${name} v${String(version).padStart(3, '0')}`.replace(/[^A-Za-z0-9 ._-]/g, '_');
    res.writeHead(200, { 'Content-Type': 'application/zip', 'Content-Disposition': `attachment; filename="${called}.zip"` });
    zip.outputStream.on('error', () => res.destroy()).pipe(res);
  });
  router
    .route('/lab/nodes')
    .get(route(async () => ({ body: await inTime(nodes.list()) })))
    .post(
      route(async (req) => ({ status: 201, body: await inTime(nodes.make(read(newNodeSchema, req.body, 'The node was not made.').name)) })),
    );
  router.delete(
    '/lab/nodes/:id',
    route(async (req) => {
      await inTime(nodes.revoke(idOf(req)));
      return { status: 204 };
    }),
  );
  router.get(
    '/lab/folder',
    route(() => Promise.resolve({ body: { folder: lab.folder } })),
  );
  router.get('/lab/events', (_req, res) => {
    res.writeHead(200, { 'Content-Type': 'text/event-stream', 'Cache-Control': 'no-cache, no-transform' });
    res.write('retry: 2000\n\n');
    const stop = lab.told.listen((event: LabEvent) => void res.write(`data: ${JSON.stringify(event)}\n\n`));
    const ping = setInterval(() => res.write(': still here\n\n'), PING);
    res.on('close', () => {
      stop();
      clearInterval(ping);
    });
  });
  return router;
}
