// The Lab's part of the OpenAPI document.
import { z } from 'zod';
import type { ZodOpenApiPathsObject } from 'zod-openapi';
import {
  frameDoneSchema,
  frameFailedSchema,
  frameListSchema,
  frameWishSchema,
  heartbeatSchema,
  helloSchema,
  jobChangeSchema,
  jobListSchema,
  jobSchema,
  jobWishSchema,
  labEventSchema,
  madeNodeSchema,
  newNodeSchema,
  nodeListSchema,
  taskSchema,
  welcomeSchema,
} from './lab.ts';
import { byId, bySha256, json, operation, paged, problem } from './openapi-parts.ts';
import { idSchema, sha256Schema } from './schemas.ts';

const body = (schema: z.ZodType) => ({ requestBody: { content: { 'application/json': { schema } } } });
const GONE = { '204': { description: 'Taken' }, '410': problem('The frame is not this node’s any more') };
const lease = { path: z.object({ lease: idSchema }) };

/** Jobs, frames and nodes; and what nodes say, each with its own token (Bearer) and the process that it is (`X-Process`). */
export const labPaths = (): ZodOpenApiPathsObject => ({
  '/api/lab/jobs': {
    get: operation('A page of jobs', { '200': json(jobListSchema, 'The latest first') }, { requestParams: paged }),
    post: operation('Sends a job: its frames wait for nodes', { '201': json(jobSchema, 'Sent') }, body(jobWishSchema)),
  },
  '/api/lab/jobs/{id}': {
    get: operation('One job', { '200': json(jobSchema, 'As it stands') }, { requestParams: byId }),
    patch: operation(
      'Pauses a job, lets it go on, cancels it, or makes it more urgent',
      { '200': json(jobSchema, 'Changed'), '409': problem('It was cancelled') },
      { requestParams: byId, ...body(jobChangeSchema) },
    ),
    delete: operation(
      'Takes a job off the list; its files stay',
      { '204': { description: 'Gone' }, '409': problem('It is not done') },
      { requestParams: byId },
    ),
  },
  '/api/lab/jobs/{id}/frames': {
    get: operation(
      'The frames of a job that changed since',
      { '200': json(frameListSchema, '`changed` is what to ask with the next time') },
      { requestParams: { ...byId, query: frameWishSchema } },
    ),
  },
  '/api/lab/jobs/{id}/again': {
    post: operation('Tries the dead frames once more', { '200': json(jobSchema, 'They wait') }, { requestParams: byId }),
  },
  '/api/lab/jobs/{id}/files': {
    get: operation('All finished files with their checksums', { '200': { description: 'A zip' } }, { requestParams: byId }),
  },
  '/api/lab/jobs/{id}/checksums': {
    get: operation('SHA-256 of all finished files', { '200': { description: 'As sha256sum --check reads it' } }, { requestParams: byId }),
  },
  '/api/lab/folder': {
    get: operation('Where finished pictures lie', { '200': json(z.object({ folder: z.string() }), 'On the server’s disk') }),
  },
  '/api/lab/nodes': {
    get: operation('The render nodes', { '200': json(nodeListSchema, 'Those whose tokens stand') }),
    post: operation('Makes a node’s token', { '201': json(madeNodeSchema, 'The token is said only now') }, body(newNodeSchema)),
  },
  '/api/lab/nodes/{id}': {
    delete: operation('Takes a node’s token back', { '204': { description: 'It is not heard any more' } }, { requestParams: byId }),
  },
  '/api/lab/events': {
    get: operation('What happens in the Lab (server-sent events)', {
      '200': { description: 'As long as one listens', content: { 'text/event-stream': { schema: labEventSchema } } },
    }),
  },
  '/api/node/hello': {
    post: operation(
      'A node has begun; what an earlier process of it had is given back',
      { '200': json(welcomeSchema, 'Welcome'), '409': problem('It is of another version') },
      body(helloSchema),
    ),
  },
  '/api/node/bye': { post: operation('A node ends, and gives back what it has', { '204': { description: 'Taken' } }) },
  '/api/node/lease': {
    post: operation('The most urgent frame', { '200': json(taskSchema, 'It is this node’s'), '204': { description: 'None waits' } }),
  },
  '/api/node/leases/{lease}/heartbeat': {
    post: operation('The node is still at it', GONE, { requestParams: lease, ...body(heartbeatSchema) }),
  },
  '/api/node/leases/{lease}/done': {
    post: operation('The frame is finished', GONE, { requestParams: lease, ...body(frameDoneSchema) }),
  },
  '/api/node/leases/{lease}/failed': {
    post: operation('The frame could not be rendered', GONE, { requestParams: lease, ...body(frameFailedSchema) }),
  },
  '/api/node/blobs': {
    post: operation(
      'Keeps a file that a node has made',
      { '201': json(z.object({ sha256: sha256Schema }), 'Kept') },
      { requestBody: { content: { 'application/octet-stream': { schema: z.string().meta({ format: 'binary' }) } } } },
    ),
  },
  '/api/node/blobs/{sha256}': {
    get: operation('A file that a frame needs', { '200': { description: 'The bytes' } }, { requestParams: bySha256 }),
  },
});
