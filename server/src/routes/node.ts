import { frameDoneSchema, frameFailedSchema, heartbeatSchema, helloSchema, idSchema, MAX_RESULT_BYTES } from '@plinket/contract';
import { Router, type Request } from 'express';
import type { BlobStore } from '../data/blobs.ts';
import { inTime, read, route, sha256Of } from '../door/route.ts';
import { upload } from '../door/upload.ts';
import type { Lab } from '../lab/index.ts';
import type { KnownNode } from '../lab/nodes.ts';
import { HttpProblem, notFound } from '../problem.ts';

const leaseOf = (req: Request): string => {
  const lease = idSchema.safeParse(req.params['lease']);
  if (!lease.success) throw notFound('lease');
  return lease.data;
};
/** What a finished frame's transaction may take, ms: files are given their names in it. */
const DONE_MS = 15_000;
const NOT_READ = 'The node’s message was not read.';

/** What render nodes say to the server, each with its own token (`Authorization: Bearer …`). */
export function nodeRoutes({ nodes, leases }: Lab, blobs: BlobStore): Router {
  const router = Router();
  /** A handler that knows which node asks. */
  const by = (handle: (node: KnownNode, req: Request) => Promise<{ status?: number; body?: unknown }>) =>
    route(async (req) => handle(await inTime(nodes.knownBy(req.headers.authorization)), req));
  /** One that wants the process that said hello: an older one of the same token has no say any more. */
  const ofProcess = (handle: Parameters<typeof by>[0]) =>
    by(async (node, req) => {
      if (req.headers['x-process'] !== node.process)
        throw new HttpProblem(409, 'node-process', 'Another process works with this token now.', {
          detail: 'Each node needs a token of its own: make one in the Lab.',
        });
      return handle(node, req);
    });
  router.post(
    '/node/hello',
    by(async (node, req) => {
      const hello = read(helloSchema, req.body, NOT_READ),
        body = await inTime(nodes.hello(node, hello));
      if (node.process !== hello.process) await leases.giveBackOf(node, `${node.name} was started anew`);
      return { body };
    }),
  );
  router.post(
    '/node/bye',
    ofProcess(async (node) => {
      await leases.giveBackOf(node, `${node.name} ended`);
      return { status: 204 };
    }),
  );
  router.post(
    '/node/lease',
    ofProcess(async (node) => {
      await inTime(nodes.seen(node.id));
      const task = await inTime(leases.take(node), DONE_MS);
      return task ? { body: task } : { status: 204 };
    }),
  );
  router.post(
    '/node/leases/:lease/heartbeat',
    ofProcess(async (node, req) => {
      await inTime(nodes.seen(node.id));
      await inTime(leases.heartbeat(node, leaseOf(req), read(heartbeatSchema, req.body, NOT_READ)));
      return { status: 204 };
    }),
  );
  router.post(
    '/node/leases/:lease/done',
    ofProcess(async (node, req) => {
      await inTime(leases.done(node, leaseOf(req), read(frameDoneSchema, req.body, NOT_READ)), DONE_MS);
      return { status: 204 };
    }),
  );
  router.post(
    '/node/leases/:lease/failed',
    ofProcess(async (node, req) => {
      await inTime(leases.failed(node, leaseOf(req), read(frameFailedSchema, req.body, NOT_READ)));
      return { status: 204 };
    }),
  );
  router.post(
    '/node/blobs',
    by(async (_node, req) =>
      upload(req, blobs, { type: 'application/octet-stream', limit: MAX_RESULT_BYTES }, async (received) => ({
        status: 201,
        body: { sha256: await blobs.keep(received) },
      })),
    ),
  );
  router.get('/node/blobs/:sha256', async (req, res) => {
    await inTime(nodes.knownBy(req.headers.authorization));
    const sha256 = sha256Of(req, 'file');
    if (!blobs.has(sha256)) throw notFound('file');
    res.sendFile(blobs.path(sha256), { dotfiles: 'allow', headers: { 'Content-Type': 'application/octet-stream' } });
  });
  return router;
}
